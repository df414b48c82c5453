import type { Cidr } from '../numbers/ipv4.ts';
import type { ConfigSection } from './section.ts';
import { onceFor } from '../onceFor.ts';
import type { FabricInputs } from './seatInputs.ts';

export interface PrefixListEntry {
  readonly seq: number;
  readonly permit: boolean;
  readonly prefix: Cidr;
  readonly ge?: number;
  readonly le?: number;
}
export interface PrefixList {
  readonly name: string;
  readonly entries: readonly PrefixListEntry[];
}
export interface RouteMapEntry {
  readonly seq: number;
  readonly permit: boolean;
  readonly matchPrefixList?: string;
}
export interface RouteMap {
  readonly name: string;
  readonly entries: readonly RouteMapEntry[];
}
export interface PolicyPart {
  readonly prefixLists: readonly PrefixList[];
  readonly routeMaps: readonly RouteMap[];
}

/** The map through which connected routes are announced: the fabric's loopbacks and VTEPs, and nothing else. */
export const CONNECTED_MAP = 'CONNECTED';
const LOOPBACK_LIST = 'LOOPBACKS';

const ROUTE_MAPS: readonly RouteMap[] = [
  {
    name: CONNECTED_MAP,
    entries: [
      { seq: 10, permit: true, matchPrefixList: LOOPBACK_LIST },
      { seq: 20, permit: false },
    ],
  },
];

/** The same for every switch of a fabric. */
const partOf = onceFor(({ loopbackPrefixes }: FabricInputs): PolicyPart => {
  const entries = loopbackPrefixes.map((prefix, i) => ({
    seq: (i + 1) * 10,
    permit: true,
    prefix,
    ...(prefix.endsWith('/32') ? {} : { ge: 32, le: 32 }),
  }));
  return { prefixLists: [{ name: LOOPBACK_LIST, entries }], routeMaps: ROUTE_MAPS };
});

export const policy: ConfigSection<PolicyPart> = {
  blank: { prefixLists: [], routeMaps: [] },
  derive: ({ fabric, routing }) => (routing ? partOf(fabric) : policy.blank),
  members: {
    prefixLists: { key: (l: PrefixList) => l.name, word: 'prefix list' },
    routeMaps: { key: (m: RouteMap) => m.name, word: 'route map' },
    'prefixLists.entries': { key: (e: PrefixListEntry) => String(e.seq), word: 'entry' },
    'routeMaps.entries': { key: (e: RouteMapEntry) => String(e.seq), word: 'entry' },
  },
  words: { permit: 'permission', prefix: 'prefix' },
  causeOf: () => ({ subject: 'pool:loopback', label: 'loopback and VTEP pools' }),
};
