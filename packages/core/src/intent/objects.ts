import { sameContent } from '../numbers/content.ts';
import { serverPortKey, type FabricIntent } from './intent.ts';

/** Names one object of an intent: `network:echo-store`, `rack:7`, `setting:linkMtu`, `spines`. */
export type Subject = string;

interface Collection {
  readonly kind: string;
  readonly items: (intent: FabricIntent) => unknown;
  readonly entries: (intent: FabricIntent) => Iterable<readonly [key: string, item: unknown]>;
}

const list = <T>(
  kind: string,
  items: (intent: FabricIntent) => readonly T[],
  key: (item: T) => string,
): Collection => ({
  kind,
  items,
  entries: (intent) => items(intent).map((item) => [key(item), item] as const),
});
const record = (kind: string, items: (intent: FabricIntent) => object): Collection => ({
  kind,
  items,
  entries: (intent) => Object.entries(items(intent)),
});
const named = (item: { readonly name: string }): string => item.name;

/** Everything an intent holds, by kind. An intent with a new part is one more row; a test checks that none is missing. */
export const COLLECTIONS: readonly Collection[] = [
  record('fabric', (i) => ({ pattern: i.pattern, parallel: i.parallel, spineModel: i.spines.model })),
  record('spines', (i) => ({ count: i.spines.count })),
  record('setting', (i) => i.settings),
  record('pool', (i) => i.pools),
  list('model', (i) => i.models, named),
  list('rackPattern', (i) => i.rackPatterns, named),
  list(
    'rack',
    (i) => i.racks,
    (r) => String(r.number),
  ),
  record('seat', (i) => i.seating),
  list('vrf', (i) => i.vrfs, named),
  list('network', (i) => i.networks, named),
  list('port', (i) => i.ports, serverPortKey),
  list('snippet', (i) => i.snippets, named),
  list('secret', (i) => i.secrets, named),
];

const subjectOf = (kind: string, key: string): Subject =>
  kind === 'fabric' || kind === 'spines' ? kind : `${kind}:${key}`;

/** The objects in which two intents differ: there in one only, or with other content. */
export function objectsBetween(from: FabricIntent, to: FabricIntent): Set<Subject> {
  const out = new Set<Subject>();
  for (const { kind, items, entries } of COLLECTIONS) {
    if (items(from) === items(to)) continue;
    const left = new Map(entries(from));
    for (const [key, item] of entries(to)) {
      const was = left.get(key);
      left.delete(key);
      if (was !== item && !sameContent(was, item)) out.add(subjectOf(kind, key));
    }
    for (const key of left.keys()) out.add(subjectOf(kind, key));
  }
  return out;
}
