import type { Ospf6Router, OspfPort } from '../../config/ospf.ts';
import { parseIpv4 } from '../../numbers/ipv4.ts';
import { otherIpv6 } from './bgpShared.ts';
import { failed, harmless, type Answer, type Block, type FrrReading, type Lost, type TopLines } from './blocks.ts';
import type { Ospf6Draft, OspfPortDraft } from './draft.ts';
import {
  areaOf,
  NO_AREA,
  portLines,
  readOspfRedistribution,
  readPortWord,
  redistributionLine,
  SAME_ROUTES,
} from './ospf.ts';
import { whole } from './words.ts';

/** What an `interface` block says of OSPF for IPv6 (RFC 5340). */
export function ospf6PortBlock(p: OspfPort): string {
  const lines = portLines(p).map((l) => `\n ipv6 ospf6 ${l}`);
  return `\ninterface ${p.name}${lines.join('')}\nexit\n!`;
}

export const ospf6Block = (o: Ospf6Router): string =>
  '\nrouter ospf6' +
  (o.routerId === undefined ? '' : `\n ospf6 router-id ${o.routerId}`) +
  redistributionLine('connected', o.connected) +
  redistributionLine('static', o.static) +
  (o.maximumPaths === undefined ? '' : `\n maximum-paths ${o.maximumPaths}`) +
  '\nexit\n!';

/** Words of an interface after `ipv6 ospf6`; `no` before it takes them back. */
export function readOspf6Word(w: readonly string[], line: string, port: string, reading: FrrReading): Answer {
  const taken = w[0] === 'no';
  if (taken ? w[1] !== 'ipv6' || w[2] !== 'ospf6' : w[0] !== 'ipv6' || w[1] !== 'ospf6') return false;
  const said = taken ? w.slice(1) : w;
  const { draft } = reading;
  const p: OspfPortDraft = draft.ospf6Ports.get(port) ?? { name: port };
  const note = (field: keyof OspfPort): true => {
    draft.ospf6Ports.set(port, p);
    return reading.at(['ospf6Ports', port, field]);
  };
  switch (said[2]) {
    case 'area': {
      const area = areaOf(said[3]);
      if (taken) delete p.area;
      else if (area === null) return NO_AREA;
      else p.area = area;
      return note('area');
    }
    case 'passive':
      if (taken) delete p.passive;
      else p.passive = true;
      return note('passive');
    default: {
      const doubted = (): Lost => otherIpv6(line);
      return readPortWord(said, taken, p, { note, doubted, profileIsOn: true }) ?? doubted();
    }
  }
}

const HARMLESS = /^(log-adjacency-changes|timers|write-multiplier|graceful-restart|ospf6 log)\b/;

/** Words of the router that change its routes in ways that are not computed. */
const UNMODELLED =
  /^(area \S+ (stub|nssa|range|filter-list|export-list|import-list)|auto-cost|default-information|distance|interface \S+ area|maximum-paths|ospf6 router-id|redistribute|stub-router|summary-address|aggregation)\b/;

const router: Block<Ospf6Draft> = {
  name: 'router ospf6',
  read: (w, line, o, reading) => {
    const taken = w[0] === 'no';
    const [first, ...rest] = taken ? w.slice(1) : w;
    if (first === 'router') return false;
    // It has a line of its own that begins so: FRR waits for the rest, and goes nowhere.
    if (first === 'interface' && rest.length === 1) return failed('here it takes the area of the interface behind it');
    if (!taken && first === 'ospf6' && rest[0] === 'router-id') {
      if (parseIpv4(rest[1] ?? '') === null) return 'a router id is written like an IPv4 address';
      o.routerId = rest[1]!;
      return reading.at(['ospf6', 'routerId']);
    }
    if (first === 'maximum-paths' && !taken) {
      const n = whole(rest[0], 1, 256);
      if (n === null) return 'maximum-paths takes 1–256';
      o.maximumPaths = n;
      return reading.at(['ospf6', 'maximumPaths']);
    }
    if (first === 'redistribute' && (rest[0] === 'connected' || rest[0] === 'static')) {
      if (taken) delete o[rest[0]];
      const r = taken ? true : readOspfRedistribution(w, o);
      return r === true ? reading.at(['ospf6', rest[0]]) : r;
    }
    const said = taken ? line.slice(line.indexOf(first ?? '')) : line;
    return HARMLESS.test(said) ? harmless(SAME_ROUTES) : UNMODELLED.test(said) && otherIpv6(line);
  },
};
/** OSPF of IPv6 in a VRF: of it nothing is computed. */
const otherRouter: Block<null> = {
  name: 'router ospf6 … vrf',
  read: (w, line) => (HARMLESS.test(line) || UNMODELLED.test(w[0] === 'no' ? line.slice(3) : line)) && otherIpv6(line),
};

export const ospf6Lines: TopLines = {
  router: (w, _line, reading) => {
    if (w[1] !== 'ospf6') return false;
    if (w.length > 2) return reading.open(otherRouter, null, ['ipv6Loopbacks']);
    return reading.open(router, (reading.draft.ospf6 ??= {}), ['ospf6']);
  },
};
