import type { DialectName } from './dialects.ts';
import { expandPorts } from '../numbers/ports.ts';
import type { TableSizes } from './tables.ts';

/** A block of like ports on a switch model. */
export interface PortBlock {
  /** Labels of the ports as a range, as the maker prints them: `p1-p48`, `e1/1-e1/48`. */
  readonly ports: string;
  /** Gigabit per second of each port. */
  readonly speed: number;
  /** Into how many ports one of them can be split, e.g. 2 or 4; absent = it cannot. */
  readonly splits?: readonly number[];
  /** What follows the label of a port on the first of its parts: `s0`, `/1`, `:1`; absent = `s1`. Later ones count on. */
  readonly parts?: string;
  /** What the switch itself calls the ports, one for each, as a range; absent = as its dialect makes it of the label. */
  readonly names?: string;
}

/** A make of hardware. */
export interface SwitchModel {
  readonly name: string;
  readonly maker: string;
  /** What its switches are told in. */
  readonly dialect: DialectName;
  readonly blocks: readonly PortBlock[];
  /** Largest frame payload (layer 3 MTU) in bytes the model forwards. */
  readonly maxMtu: number;
  /** How much its tables hold; absent = what is not said is not judged. */
  readonly tables?: TableSizes;
}

/** Cages that are split into several ports each. */
export interface Breakout {
  /** The cages, e.g. `p49-p52`. */
  readonly ports: string;
  /** How many ports each becomes; a port has that part of its speed. */
  readonly into: number;
}

/** How parts of a port are called where a model says nothing. */
export const PARTS = 's1';
export const PARTS_FORM = /^(?:[A-Za-z]{1,4}|[/.:])[01]$/;
/** The nth part of a split port: `p49s2` is the second of `p49`, `e1/5:2` the third of `e1/5` whose parts begin at `:0`. */
export function splitPort(cage: string, n: number, { parts = PARTS }: Pick<PortBlock, 'parts'>): string {
  const [, mark = '', first = ''] = /^(\D*)(\d)$/.exec(parts) ?? [];
  return `${cage}${mark}${Number(first) + n - 1}`;
}

/** Every port of a model with its speed in Gb/s, in order; ports of split cages stand in the place of the cage. */
export function portsOf(model: SwitchModel, breakouts: readonly Breakout[] = []): Map<string, number> {
  const into = new Map(breakouts.flatMap((b) => (expandPorts(b.ports) ?? []).map((cage) => [cage, b.into] as const)));
  const ports = new Map<string, number>();
  for (const block of model.blocks)
    for (const name of expandPorts(block.ports) ?? []) {
      const parts = into.get(name);
      if (parts === undefined) ports.set(name, block.speed);
      else for (let n = 1; n <= parts; n++) ports.set(splitPort(name, n, block), block.speed / parts);
    }
  return ports;
}

/** Why the cages of a model cannot be split so, with the place in the list of break-outs and what would do. */
export function breakoutsWrong(
  model: SwitchModel,
  breakouts: readonly Breakout[],
): readonly { readonly at: number; readonly message: string; readonly cure: string }[] {
  const out: { at: number; message: string; cure: string }[] = [];
  const split = new Set<string>();
  breakouts.forEach(({ ports, into }, at) => {
    const cages = expandPorts(ports);
    if (!cages) {
      out.push({ at, message: `“${ports}” is not a list of ports.`, cure: 'Write p49-p52 or p49,p51.' });
      return;
    }
    for (const cage of cages) {
      const block = model.blocks.find((b) => (expandPorts(b.ports) ?? []).includes(cage));
      const ways = block?.splits ?? [];
      const wrong = !block
        ? {
            message: `${model.name} has no port ${cage}.`,
            cure: `Its ports are ${model.blocks.map((b) => b.ports).join(', ')}.`,
          }
        : split.has(cage)
          ? { message: `${cage} is split twice.`, cure: 'Keep one of the two.' }
          : !ways.includes(into)
            ? {
                message: `${cage} of ${model.name} cannot be split into ${into}.`,
                cure:
                  ways.length > 0
                    ? `It can be split into ${ways.join(' or ')}.`
                    : 'Its ports cannot be split; choose another model, or say at the model into how many they can be.',
              }
            : null;
      split.add(cage);
      if (wrong) {
        out.push({ at, ...wrong });
        return;
      }
    }
  });
  return out;
}
