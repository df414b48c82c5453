import type { Liquid, Template } from 'liquidjs';

/**
 * Renders a small template once per *shape* of its input and slots the values in afterwards.
 *
 * Text templates are slow where a fabric needs millions of lines, but most lines differ only in the values in them. So
 * the template runs on a stand-in whose scalars are slot marks; the result is cut at the marks and filled for every
 * input of the same shape. Two inputs have one shape when they have the same keys, list lengths, booleans and the same
 * values under `literals` (what the template compares). Templates must treat other scalars as opaque text.
 */
export interface ShapedTemplate<T> {
  readonly render: (input: T) => string;
}

const MARK = '\u0001';

class Shape {
  key = '';
  readonly values: string[] = [];
  private readonly literals: ReadonlySet<string>;
  constructor(literals: ReadonlySet<string>) {
    this.literals = literals;
  }

  /** Adds a value to the key and the slots. */
  visit(name: string, value: unknown): void {
    switch (typeof value) {
      case 'string':
      case 'number':
        this.key += this.literals.has(name) ? `=${value};` : ';';
        this.values.push(String(value));
        return;
      case 'boolean':
        this.key += value ? '+' : '-';
        return;
      case 'object':
        if (value === null) return;
        if (Array.isArray(value)) {
          this.key += `[${value.length}`;
          for (const item of value) this.visit('', item);
          this.key += ']';
          return;
        }
        this.key += '{';
        for (const k in value) {
          this.key += k;
          this.visit(k, (value as Record<string, unknown>)[k]);
        }
        this.key += '}';
        return;
      default:
    }
  }
}

/** The same structure with every scalar but the literals replaced by its slot mark, in the order of `Shape.visit`. */
function standIn(name: string, value: unknown, literals: ReadonlySet<string>, slot: { next: number }): unknown {
  if (typeof value === 'string' || typeof value === 'number') {
    const mark = `${MARK}${slot.next++}${MARK}`;
    return literals.has(name) ? value : mark;
  }
  if (Array.isArray(value)) return value.map((item) => standIn('', item, literals, slot));
  if (typeof value === 'object' && value !== null)
    return Object.fromEntries(Object.entries(value).map(([k, v]) => [k, standIn(k, v, literals, slot)]));
  return value;
}

/** Makes a shaped template out of a parsed one. The input is seen by the template under the name `x`. */
export function shaped<T>(engine: Liquid, template: Template[], literals: readonly string[] = []): ShapedTemplate<T> {
  const literalSet = new Set(literals);
  const known = new Map<string, { readonly texts: string[]; readonly slots: number[] }>();
  return {
    render(input) {
      const shape = new Shape(literalSet);
      shape.visit('', input);
      let filled = known.get(shape.key);
      if (!filled) {
        const text = String(engine.renderSync(template, { x: standIn('', input, literalSet, { next: 0 }) }));
        const pieces = text.split(MARK);
        filled = {
          texts: pieces.filter((_, i) => i % 2 === 0),
          slots: pieces.filter((_, i) => i % 2 === 1).map(Number),
        };
        known.set(shape.key, filled);
      }
      const { texts, slots } = filled;
      let out = texts[0]!;
      for (let i = 0; i < slots.length; i++) out += shape.values[slots[i]!]! + texts[i + 1]!;
      return out;
    },
  };
}
