import {
  filterTableKey,
  type FilterChain,
  type FilterHook,
  type FilterMatch,
  type FilterRule,
  type FilterTable,
  type NumberRange,
} from '../config/filters.ts';
import { placeKey, type Place, type SwitchConfig } from '../config/switchConfig.ts';
import { parseIpv4, type Ipv4 } from '../numbers/ipv4.ts';
import { ipv6Span } from '../numbers/prefix.ts';
import { onceFor } from '../onceFor.ts';
import { doubtsOf, type SwitchDoubts } from './doubts.ts';
import type { ReadSwitch } from './readSwitch.ts';
import type { Trouble } from './trouble.ts';

const TCP = 6;
const UDP = 17;
const SCTP = 132;
const ICMP = 1;
export const ICMP6 = 58;
const HAS_PORTS = new Set([TCP, UDP, SCTP]);
const VXLAN_PORT = 4789;
/** Ports that programs call from: what Linux takes of those that are free (RFC 6335 §6). */
export const CALLING_PORTS: NumberRange = { from: 32768, to: 60999 };

/** What a switch may know of the flow that a packet belongs to (nft(8), `ct state`). */
export type FlowState = 'new' | 'established' | 'invalid' | 'untracked';

/** A packet as filters see it. What is not said is not known, or differs from packet to packet. */
export interface Packet {
  readonly family: 'ip' | 'ip6' | 'arp';
  readonly protocol?: number;
  /** Of IPv4 a number, of IPv6 one of 128 bits. */
  readonly source?: number | bigint;
  readonly target?: number | bigint;
  readonly sourcePort?: NumberRange;
  readonly targetPort?: NumberRange;
  readonly icmpType?: number;
  /** One of these. */
  readonly states: readonly FlowState[];
}

/** What is around a packet in a tunnel (RFC 7348 §5); an end that is not said is any. */
export function tunnelPacket(from: Ipv4 | undefined, to: Ipv4 | undefined): Packet {
  const [source, target] = [from, to].map((a) => (a === undefined ? null : parseIpv4(a)));
  return {
    family: 'ip',
    protocol: UDP,
    ...(source == null ? {} : { source }),
    ...(target == null ? {} : { target }),
    targetPort: { from: VXLAN_PORT, to: VXLAN_PORT },
    // Each direction is a flow of its own, of which no answer is ever seen.
    states: ['new'],
  };
}

/** Interfaces of which a packet goes over one; `vrf` = they are in it. */
export interface Devices {
  readonly names: readonly string[];
  readonly vrf?: string;
}
/** Where a packet meets the filters of a switch. */
export interface Checkpoint {
  readonly host: string;
  readonly layer: 'routed' | 'bridged';
  readonly hook: FilterHook;
  /** Absent = it comes from the switch itself. */
  readonly in?: Devices;
  /** Absent = it stays there; null = not known over which. */
  readonly out?: Devices | null;
}

type Fits = 'yes' | 'no' | 'maybe';
const opposite = (f: Fits): Fits => (f === 'yes' ? 'no' : f === 'no' ? 'yes' : 'maybe');

/** Do all, some or none of the values that a packet may have lie in the ranges? */
function among(value: NumberRange, ranges: readonly NumberRange[]): Fits {
  let at = value.from;
  let some = false;
  for (const r of [...ranges].sort((a, b) => a.from - b.from)) {
    if (r.to < value.from || r.from > value.to) continue;
    some = true;
    if (r.from <= at) at = Math.max(at, r.to + 1);
  }
  return at > value.to ? 'yes' : some ? 'maybe' : 'no';
}
/** Is an address of IPv6 among some? Those are as they are written. */
const among6 = (value: bigint, words: readonly string[]): Fits =>
  words.some((w) => {
    const span = spanOf(w);
    return span !== null && span.from <= value && value <= span.to;
  })
    ? 'yes'
    : 'no';
const spans = new Map<string, ReturnType<typeof ipv6Span>>();
/** Rules are asked about very many packets, and texts hold few addresses. */
function spanOf(word: string): ReturnType<typeof ipv6Span> {
  let span = spans.get(word);
  if (span === undefined) {
    if (spans.size >= MOST_SPANS) spans.clear();
    spans.set(word, (span = ipv6Span(word)));
  }
  return span;
}
const MOST_SPANS = 10_000;
const single = (value: number): NumberRange => ({ from: value, to: value });

const isCalled = (name: string, word: string): boolean =>
  word.endsWith('*') ? name.startsWith(word.slice(0, -1)) : name === word;
function namesFit(names: readonly string[], words: readonly string[]): Fits {
  const fitting = names.filter((n) => words.some((w) => isCalled(n, w))).length;
  return fitting === 0 ? 'no' : fitting === names.length ? 'yes' : 'maybe';
}

/** What of a packet a field is, judged against values; null = the packet has no such field, and nothing fits. */
function judged({ field, ranges = [], words = [] }: FilterMatch, packet: Packet, at: Checkpoint): Fits | null {
  const number = (value: number | undefined): Fits => (value === undefined ? 'maybe' : among(single(value), ranges));
  const address = (value: number | bigint | undefined): Fits =>
    typeof value === 'bigint' ? among6(value, words) : number(value);
  const range = (value: NumberRange | undefined): Fits => (value === undefined ? 'maybe' : among(value, ranges));
  switch (field) {
    case 'family':
      return words.includes(packet.family) ? 'yes' : 'no';
    case 'protocol':
      return packet.family === 'arp' ? null : number(packet.protocol);
    case 'source':
      return packet.family === 'ip' ? address(packet.source) : null;
    case 'target':
      return packet.family === 'ip' ? address(packet.target) : null;
    case 'source6':
      return packet.family === 'ip6' ? address(packet.source) : null;
    case 'target6':
      return packet.family === 'ip6' ? address(packet.target) : null;
    // Without ports the bytes that stand there are compared.
    case 'sourcePort':
      return HAS_PORTS.has(packet.protocol ?? -1) ? range(packet.sourcePort) : 'maybe';
    case 'targetPort':
      return HAS_PORTS.has(packet.protocol ?? -1) ? range(packet.targetPort) : 'maybe';
    case 'icmpType':
      return packet.family === 'ip' && packet.protocol === ICMP ? number(packet.icmpType) : null;
    case 'icmp6Type':
      return packet.family === 'ip6' && packet.protocol === ICMP6 ? number(packet.icmpType) : null;
    case 'in':
      if (!at.in) return at.hook === 'output' ? namesFit([''], words) : 'maybe';
      // What comes in on a member of a VRF is seen as the VRF’s.
      return namesFit(at.in.vrf === undefined ? at.in.names : [at.in.vrf], words);
    case 'inMember':
      return at.in?.vrf === undefined ? null : namesFit(at.in.names, words);
    case 'out':
      return at.out === null ? 'maybe' : namesFit(at.out?.names ?? [''], words);
    case 'state': {
      const some = packet.states.filter((s) => words.includes(s)).length;
      return some === 0 ? 'no' : some === packet.states.length ? 'yes' : 'maybe';
    }
  }
}
function fits(match: FilterMatch, sets: FilterTable['sets'], packet: Packet, at: Checkpoint): Fits {
  const set = match.set === undefined ? match : sets.find((s) => s.name === match.set);
  const found = judged({ ...match, ranges: set?.ranges ?? [], words: set?.words ?? [] }, packet, at);
  if (found === null) return 'no';
  return match.not ? opposite(found) : found;
}

/** What may become of a packet: the rules that would let it pass or stop it, and whether nothing may have decided. */
interface Ends {
  accept: Place | null;
  drop: Place | null;
  open: boolean;
}

/** A base chain with its table. */
interface Base {
  readonly table: FilterTable;
  readonly chain: FilterChain;
}
/** Chains of a switch by layer and hook, in the order in which they are asked. */
const basesOf = onceFor((config: SwitchConfig): ReadonlyMap<string, readonly Base[]> => {
  const out = new Map<string, Base[]>();
  for (const table of config.filters ?? [])
    for (const chain of table.chains) {
      if (!chain.base) continue;
      const key = `${table.layer === 'bridge' ? 'bridged' : 'routed'} ${chain.base.hook}`;
      const list = out.get(key);
      if (list) list.push({ table, chain });
      else out.set(key, [{ table, chain }]);
    }
  for (const list of out.values()) list.sort((a, b) => a.chain.base!.priority - b.chain.base!.priority);
  return out;
});

const placeOf = (table: FilterTable, chain: string, ...rest: readonly string[]): Place =>
  ['filters', filterTableKey(table), 'chains', chain, ...rest] as readonly string[] as Place;

/** Runs a packet through a chain and those that it leads to. */
function run(
  { table, chain }: Base,
  packet: Packet,
  at: Checkpoint,
  doubts: SwitchDoubts['filterRules'] | undefined,
  ends: Ends,
  /** What became of it in chains of the table: from wherever they are led to it is the same. */
  within: Map<string, Ends>,
): void {
  for (const rule of chain.rules) {
    const place = placeOf(table, chain.name, 'rules', String(rule.number));
    const doubted = doubts?.has(placeKey(place)) === true;
    const all = rule.matches.map((m) => fits(m, table.sets, packet, at));
    if (all.includes('no')) continue;
    if (decide(rule, doubted || all.includes('maybe') ? 'maybe' : 'yes', place)) return;
  }
  ends.open = true;

  /** Is it decided for every packet? */
  function decide({ verdict }: FilterRule, fit: Fits, place: Place): boolean {
    if (!verdict) {
      if (doubts?.has(placeKey(place))) {
        ends.accept ??= place;
        ends.drop ??= place;
      }
      return false;
    }
    switch (verdict.does) {
      case 'accept':
        ends.accept ??= place;
        return fit === 'yes';
      case 'drop':
      case 'reject':
        ends.drop ??= place;
        return fit === 'yes';
      case 'return':
        ends.open = true;
        return fit === 'yes';
      default: {
        let there = within.get(verdict.chain);
        if (!there) {
          within.set(verdict.chain, (there = { accept: null, drop: null, open: false }));
          const next = table.chains.find((c) => c.name === verdict.chain)!;
          run({ table, chain: next }, packet, at, doubts, there, within);
        }
        ends.accept ??= there.accept;
        ends.drop ??= there.drop;
        if (verdict.does === 'jump') return fit === 'yes' && !there.open;
        ends.open ||= there.open;
        return fit === 'yes';
      }
    }
  }
}

/** What filters do with a packet: null = they let it pass. `unsure`: why it may be otherwise. */
export interface Filtered {
  readonly trouble: Trouble | null;
  readonly unsure: string | null;
}
const PASSES: Filtered = { trouble: null, unsure: null };

function troubleAt(host: string, place: Place): Trouble {
  const [, table, , chain, part, number] = place as readonly string[];
  const by = part === 'rules' ? `rule ${number} of chain ${chain}` : `the policy of chain ${chain}`;
  return { host, words: `a filter of ${host} stops it: ${by} in ${table}`, configPlace: place };
}

/** What the filters of a switch do with a packet at one point of its way. */
export function filtered(sw: ReadSwitch, packet: Packet, at: Checkpoint): Filtered {
  const { host, config } = sw;
  const doubts = sw.unread.length === 0 ? null : doubtsOf(sw);
  const whole = doubts?.filters;
  for (const base of basesOf(config).get(`${at.layer} ${at.hook}`) ?? []) {
    const { table, chain } = base;
    if (table.layer === 'ip' ? packet.family !== 'ip' : table.layer === 'ip6' && packet.family !== 'ip6') continue;
    // Tables of the switch’s packets do not see the frames that addresses are asked for with.
    if (at.layer === 'routed' && packet.family === 'arp') continue;
    const ends: Ends = { accept: null, drop: null, open: false };
    run(base, packet, at, doubts?.filterRules, ends, new Map());
    const policy = placeOf(table, chain.name, 'base', 'policy');
    if (ends.open && chain.base!.policy === 'drop') ends.drop ??= policy;
    if (ends.drop === null) continue;
    const passes = ends.accept !== null || (ends.open && chain.base!.policy === 'accept');
    const trouble = troubleAt(host, ends.drop);
    if (!passes) return { trouble, unsure: whole?.words ?? null };
    const line = doubts?.filterRules.get(placeKey(ends.drop)) ?? [...(doubts?.filterRules.values() ?? [])][0];
    return { trouble, unsure: line?.words ?? `${trouble.words}, but not every such packet` };
  }
  return whole ? { trouble: null, unsure: whole.words } : PASSES;
}

/** Does a switch filter what it routes and hears itself, and what it bridges? */
export const filtersOf = onceFor((config: SwitchConfig): { readonly routed: boolean; readonly bridged: boolean } => {
  const keys = [...basesOf(config).keys()];
  return { routed: keys.some((k) => k.startsWith('routed')), bridged: keys.some((k) => k.startsWith('bridged')) };
});

/** Does any switch filter, as far as its text is understood? */
export const filtersAnywhere = onceFor((model: { readonly switches: readonly ReadSwitch[] }): boolean =>
  model.switches.some((s) => s.config.filters !== undefined || doubtsOf(s)?.filters !== undefined),
);
