import { capital } from '../../capital.ts';
import { sameContent } from '../../numbers/content.ts';
import { subjectOf, subjectParts, type ObjectKind } from '../../subject.ts';
import type { FabricIntent } from '../intent.ts';
import { collectionOf, objectOf } from './index.ts';
import { removalOf } from './removal.ts';

/** So many differences are read in one sentence; the others are counted. */
const MOST_SAID = 4;

/** `MTU 1500 → 9000`: in what an object differs, field by field. */
function changesOf(kind: ObjectKind, was: unknown, is: unknown): { label: string; fromTo: string }[] {
  return collectionOf(kind).fields.flatMap((f) => {
    if (sameContent(f.value(was), f.value(is))) return [];
    const [from, to] = [was, is].map((item) => f.text(item) || (f.empty ?? 'none'));
    return [{ label: f.label, fromTo: from === to ? 'anew' : `${from} → ${to}` }];
  });
}

/**
 * An object made otherwise, from what to what: `MTU of network pilot-desk 1500 → 9000`. Without the intent before, or where
 * the object is not there, that it is changed.
 */
export function changeSentence(before: FabricIntent | null, kind: ObjectKind, key: string, is: unknown): string {
  const { named } = collectionOf(kind);
  const was = before ? (objectOf(before, kind, key) as unknown) : undefined;
  const changes = was === undefined ? [] : changesOf(kind, was, is);
  const name = named(key, was ?? is);
  if (changes.length === 0) return was === undefined ? `Change ${name}` : `Leave ${name} as it is`;
  const said = changes.slice(0, MOST_SAID).map((c) => [c.label, c.fromTo].filter(Boolean).join(' '));
  if (changes.length === 1) {
    const { label, fromTo } = changes[0]!;
    return capital(`${label} of ${name} ${fromTo}`);
  }
  const more = changes.length > MOST_SAID ? ` and ${changes.length - MOST_SAID} more` : '';
  return `Change ${name}: ${said.join(', ')}${more}`;
}

/** A value under a fixed name made otherwise: `link MTU 9216 → 9100`; without what it was, `link MTU 9100`. */
export function valueSentence(before: FabricIntent | null, kind: ObjectKind, key: string, is: unknown): string {
  const { named, fields } = collectionOf(kind);
  const was = before ? (objectOf(before, kind, key) as unknown) : undefined;
  const text = (value: unknown): string => fields[0]!.text(value) || 'none';
  const from = was === undefined || sameContent(was, is) ? '' : `${text(was)} → `;
  return `${named(key, is)} ${from}${text(is)}`;
}

const plural = (n: number, one: string): string => `${n} ${n === 1 || one.endsWith('s') ? one : `${one}s`}`;
/** How much of each kind: `2 seats and 12 server ports`. */
function counted(subjects: readonly string[]): string {
  const counts = new Map<string, number>();
  for (const s of subjects) {
    const { word } = collectionOf(subjectParts(s as never).kind);
    counts.set(word, (counts.get(word) ?? 0) + 1);
  }
  return [...counts].map(([word, n]) => plural(n, word)).join(' and ');
}

/** `Remove rack 7, with 2 seats and 12 server ports; 3 networks no longer on it.` */
export function removalSentence(before: FabricIntent | null, kind: ObjectKind, key: string): string {
  const { named } = collectionOf(kind);
  const item = before ? (objectOf(before, kind, key) as unknown) : undefined;
  const base = `Remove ${named(key, item)}`;
  if (before === null || item === undefined) return base;
  const { goes, forgets } = removalOf(before, subjectOf(kind, key));
  const along = goes.length > 1 ? `, with ${counted(goes.slice(1))}` : '';
  const left = forgets.length > 0 ? `; ${counted(forgets)} no longer on it` : '';
  return `${base}${along}${left}`;
}
