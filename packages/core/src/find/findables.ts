import { ALL_COLLECTIONS } from '../intent/collections/index.ts';
import { shutLinks } from '../intent/collections/shutLinks.ts';
import type {
  FabricIntent,
  Leak,
  ServerPort,
  OutsideLink,
  OutsideNeighbour,
  Rack,
  Network,
  NetworkSpeakers,
  TenantRoute,
} from '../intent/intent.ts';
import { policyOfKey, POLICY_WORDS } from '../intent/policies.ts';
import type { Layout } from '../layout/links.ts';
import { gatewayMac, pairSystemMac } from '../numbers/mac.ts';
import { ownerOf } from '../pools/demands.ts';
import type { Values } from '../pools/drawValues.ts';
import { valueWord } from '../pools/valueWords.ts';
import { subjectOf, type ObjectKind, type Subject } from '../subject.ts';

/** An object as it can be found: by what it is called, and by what it says of itself. */
export interface Findable {
  readonly subject: Subject;
  /** What it is, for people: `network`. */
  readonly word: string;
  readonly name: string;
  /** What it says of itself, each with its word: `VLAN 210`, `subnet 10.40.9.0/26`. */
  readonly says: readonly string[];
}

/** What an object is called, where that is not its key. */
const NAMES: { readonly [K in ObjectKind]?: (item: never, key: string) => string } = {
  rack: (_, key) => `rack ${key}`,
  port: ({ server }: ServerPort) => server,
  outside: ({ system }: OutsideLink) => system,
  link: (_, key) => shutLinks.named(key, undefined).replace(/^link /, ''),
  drain: (_, key) => `seat ${key} drained`,
  neighbour: ({ far }: OutsideNeighbour) => far,
  speakers: ({ network, from }: NetworkSpeakers) => `${network} ${from}`,
  route: ({ prefix }: TenantRoute) => prefix,
  leak: ({ into, from }: Leak) => `${from} into ${into}`,
  policy: (_, key) => policyOfKey(key).name,
};
/** MAC addresses that follow from what an object is. */
function macsOf(kind: ObjectKind, item: unknown, { settings, rackPatterns }: FabricIntent): string[] {
  if (kind === 'network') {
    const { vrf, vlan } = item as Network;
    return vrf === '' ? [] : [`gateway MAC ${gatewayMac(vlan)}`];
  }
  if (kind !== 'rack') return [];
  const { number, pattern } = item as Rack;
  return rackPatterns.some((p) => p.name === pattern && p.kind === 'esi-pair')
    ? [`system MAC ${pairSystemMac(settings.fabricNumber, number)}`]
    : [];
}
/** What is said by their own rows: a fabric as one, its switches by where they sit. */
const APART: ReadonlySet<ObjectKind> = new Set(['fabric', 'spines', 'seat']);
/** What nobody searches for what it says. */
const SAYS_NOTHING: ReadonlySet<ObjectKind> = new Set(['secret', 'policy', 'snippet', 'waiver']);

/**
 * Every object of a fabric as it can be found, each once. A new kind of object needs nothing here: what a collection calls
 * its fields is what is searched.
 * @param values what was drawn for it; each is found by the object that holds it
 */
export function findablesOf(intent: FabricIntent, layout: Layout, values: Values): Findable[] {
  const held = new Map<Subject, string[]>();
  for (const [key, value] of values) {
    const owner = ownerOf(key);
    // What all switches above the racks share is the fabric’s.
    const of = owner === 'spines' ? 'fabric' : owner;
    const says = `${valueWord(key)} ${value.replace(/\/(32|128)$/, '')}`;
    const said = held.get(of);
    if (said) said.push(says);
    else held.set(of, [says]);
  }
  const row = (subject: Subject, word: string, name: string, says: readonly string[]): Findable => ({
    subject,
    word,
    name,
    says: [...new Set([...says, ...(held.get(subject) ?? [])])],
  });
  return [
    row('fabric', 'fabric', intent.name, intent.pattern === '' ? [] : [`pattern ${intent.pattern}`]),
    ...layout.seats.map(({ id, host, model, rack, pod, plane }) => {
      const serial = intent.seating[id];
      return row(subjectOf('seat', id), 'seat', host, [
        `seat ${id}`,
        ...(serial === undefined ? ['no switch'] : [`switch ${serial}`]),
        `model ${model}`,
        ...(rack === undefined ? [] : [`rack ${rack}`]),
        ...(pod === undefined ? [] : [`pod ${pod}`]),
        ...(plane === undefined ? [] : [`plane ${plane}`]),
      ]);
    }),
    ...ALL_COLLECTIONS.filter((c) => !APART.has(c.kind)).flatMap((c) =>
      [...c.items(intent)].map(([key, item]) => {
        const subject = subjectOf(c.kind, key);
        const name = NAMES[c.kind]?.(item as never, key) ?? (c.kept === 'record' ? c.named(key, item) : key);
        const says = SAYS_NOTHING.has(c.kind)
          ? []
          : c.fields.flatMap((f) => {
              const text = f.text(item);
              const says = `${f.label} ${text}`.trim();
              // Its name need not be said twice.
              return text === '' || text === name || says === name ? [] : [says];
            });
        return row(subject, c.kind === 'policy' ? POLICY_WORDS[policyOfKey(key).is] : c.word, name, [
          ...says,
          ...macsOf(c.kind, item, intent),
        ]);
      }),
    ),
  ];
}
