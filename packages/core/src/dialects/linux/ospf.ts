import type { OspfPort, OspfRedistribution, OspfRouter } from '../../config/ospf.ts';
import { formatIpv4, formatPrefix, parseCidr, parseIpv4, prefixOf } from '../../numbers/ipv4.ts';
import { isMask } from '../../secrets/secretRef.ts';
import {
  failed,
  harmless,
  unmodelled,
  type Answer,
  type Block,
  type FrrReading,
  type Lost,
  type TopLines,
} from './blocks.ts';
import type { Draft, OspfDraft, OspfPortDraft } from './draft.ts';
import { whole } from './words.ts';

/** What an interface says of OSPF of either family, each with the family's words before it. */
export const portLines = (p: OspfPort): string[] => [
  ...(p.bfd ? ['bfd'] : []),
  ...(p.bfdProfile === undefined ? [] : [`bfd profile ${p.bfdProfile}`]),
  ...(p.area === undefined ? [] : [`area ${p.area}`]),
  ...(p.cost === undefined ? [] : [`cost ${p.cost}`]),
  ...(p.dead === undefined ? [] : [`dead-interval ${p.dead}`]),
  ...(p.hello === undefined ? [] : [`hello-interval ${p.hello}`]),
  ...(p.mtuIgnored ? ['mtu-ignore'] : []),
  ...(p.pointToPoint === undefined ? [] : [`network ${p.pointToPoint ? 'point-to-point' : 'broadcast'}`]),
  ...(p.passive ? ['passive'] : []),
  ...(p.priority === undefined ? [] : [`priority ${p.priority}`]),
];

/** What an `interface` block says of OSPF. */
export function ospfPortBlock(p: OspfPort): string {
  const lines = [
    ...(p.keys ?? []).map((k) => `message-digest-key ${k.id} md5 ${k.key}`),
    ...(p.proof === undefined ? [] : [`authentication ${p.proof === 'none' ? 'null' : 'message-digest'}`]),
    ...portLines(p),
  ].map((l) => `\n ip ospf ${l}`);
  const speaks = p.passive === false ? '\n no ip ospf passive' : '';
  return `\ninterface ${p.name}${lines.join('')}${speaks}\nexit\n!`;
}

export const redistributionLine = (kind: string, r: OspfRedistribution | undefined): string =>
  r === undefined
    ? ''
    : `\n redistribute ${kind}` +
      (r.metric === undefined ? '' : ` metric ${r.metric}`) +
      (r.wayCounts === undefined ? '' : ` metric-type ${r.wayCounts ? 1 : 2}`) +
      (r.routeMap === undefined ? '' : ` route-map ${r.routeMap}`);

export const ospfBlock = (o: OspfRouter): string =>
  '\nrouter ospf' +
  (o.routerId === undefined ? '' : `\n ospf router-id ${o.routerId}`) +
  redistributionLine('connected', o.connected) +
  redistributionLine('static', o.static) +
  (o.passive ? '\n passive-interface default' : '') +
  o.networks.map((n) => `\n network ${n.prefix} area ${n.area}`).join('') +
  (o.provenAreas ?? []).map((a) => `\n area ${a} authentication message-digest`).join('') +
  (o.maximumPaths === undefined ? '' : `\n maximum-paths ${o.maximumPaths}`) +
  '\nexit\n!';

/** An area is written like an address, or as its number; null = it is none. */
export function areaOf(text: string | undefined): string | null {
  if (text !== undefined && parseIpv4(text) !== null) return text;
  const n = whole(text, 0, 4294967295);
  return n === null ? null : formatIpv4(n);
}
export const NO_AREA = 'an area is a number, or written like an IPv4 address';
const TWICE = 'FRR takes areas from interfaces or from networks, not from both';
const TIMES = 'an interval is 1–65535 seconds';
export const SAME_ROUTES = 'sessions and routes are the same, somewhat sooner or later';

/** What a reader of words of an interface has at hand. */
interface PortReading {
  /** Says that a field was said, or taken back. */
  readonly note: (field: keyof OspfPort) => true;
  /** What becomes of a line that is not modelled. */
  readonly doubted: () => Lost;
  /** Does naming a profile turn BFD on? Else FRR takes it without a word where that is off, and keeps nothing of it. */
  readonly profileIsOn: boolean;
}
/** Reads a word that interfaces are told alike of OSPF of either family; null = it is none. */
export function readPortWord(
  said: readonly string[],
  taken: boolean,
  p: OspfPortDraft,
  { note, doubted, profileIsOn }: PortReading,
): Answer | null {
  const number = (field: 'cost' | 'hello' | 'dead' | 'priority', least: number, most: number, why: string): Answer => {
    if (taken) delete p[field];
    else {
      const n = whole(said[3], least, most);
      if (n === null) return why;
      // A value for one address of the port alone.
      if (said.length > 4) return doubted();
      p[field] = n;
    }
    return note(field);
  };
  switch (said[2]) {
    case 'cost':
      return number('cost', 1, 65535, 'a cost is 1–65535');
    case 'hello-interval':
      return number('hello', 1, 65535, TIMES);
    case 'dead-interval':
      return said[3] === 'minimal' ? doubted() : number('dead', 1, 65535, TIMES);
    case 'priority':
      return number('priority', 0, 255, 'a priority is 0–255');
    case 'network':
      if (taken) delete p.pointToPoint;
      else if (said[3] === 'point-to-point' || said[3] === 'broadcast') p.pointToPoint = said[3] === 'point-to-point';
      else return doubted();
      return note('pointToPoint');
    case 'mtu-ignore':
      if (taken) delete p.mtuIgnored;
      else p.mtuIgnored = true;
      return note('mtuIgnored');
    case 'retransmit-interval':
    case 'transmit-delay':
      return harmless(SAME_ROUTES);
    case 'bfd':
      if (said[3] === 'profile') {
        if (taken) delete p.bfdProfile;
        else if (said[4] === undefined) return 'a profile has a name';
        else if (!p.bfd && !profileIsOn) return harmless('BFD is not on here, and its profile is not kept');
        else {
          p.bfd = true;
          p.bfdProfile = said[4];
        }
        return note('bfdProfile');
      }
      // Times that stand here are of old, and are read as if they did not.
      if (taken) {
        delete p.bfd;
        delete p.bfdProfile;
      } else p.bfd = true;
      return note('bfd');
    default:
      return null;
  }
}

/** Words of an interface after `ip ospf`; `no` before it takes them back. */
export function readOspfWord(w: readonly string[], line: string, port: string, reading: FrrReading): Answer {
  const taken = w[0] === 'no';
  if (taken ? w[1] !== 'ip' || w[2] !== 'ospf' : w[0] !== 'ip' || w[1] !== 'ospf') return false;
  const said = taken ? w.slice(1) : w;
  const { draft } = reading;
  const p: OspfPortDraft = draft.ospfPorts.get(port) ?? { name: port };
  const doubted = (): Lost => ({ ...unmodelled(`“${line}” is not modelled`), doubts: ['ospfPorts', port] });
  const note = (field: keyof OspfPort): true => {
    draft.ospfPorts.set(port, p);
    return reading.at(['ospfPorts', port, field]);
  };
  switch (said[2]) {
    case 'area': {
      if (taken) {
        delete p.area;
        return note('area');
      }
      const area = areaOf(said[3]);
      if (area === null) return NO_AREA;
      if (draft.ospf && draft.ospf.networks.length > 0) return failed(TWICE);
      if (p.area !== undefined && p.area !== area)
        return failed(`it is in area ${p.area} already: take that back first`);
      p.area = area;
      return note('area');
    }
    case 'passive':
      p.passive = !taken;
      return note('passive');
    case 'authentication':
      if (taken) delete p.proof;
      else if (said[3] === 'null') p.proof = 'none';
      else if (said[3] === 'message-digest') p.proof = 'digest';
      else return doubted();
      return note('proof');
    case 'message-digest-key': {
      const id = whole(said[3], 1, 255);
      if (id === null) return 'a key has a number of 1–255';
      const others = (p.keys ?? []).filter((k) => k.id !== id);
      const key = said[5];
      if (taken) p.keys = others;
      else if (said[4] !== 'md5' || key === undefined) return 'a key is: message-digest-key N md5 KEY';
      else if (!isMask(key)) return { ...doubted(), why: 'the key stands here in plain words' };
      else p.keys = [...others, { id, key }];
      return note('keys');
    }
    default:
      return readPortWord(said, taken, p, { note, doubted, profileIsOn: false }) ?? doubted();
  }
}

const HARMLESS =
  /^(log-adjacency-changes|timers|refresh|ospf write-multiplier|write-multiplier|graceful-restart|capability)\b/;
/** Words of the router that change its routes in ways that are not computed. */
const UNMODELLED =
  /^(area|auto-cost|compatible|default-information|default-metric|distance|max-metric|mpls-te|neighbor \d|ospf|passive-interface|redistribute|router-info|segment-routing|summary-address|aggregation|proactive-arp|socket|flood-reduction|maximum-paths|distribute-list)\b/;

export function readOspfRedistribution(w: readonly string[], o: Pick<OspfDraft, 'connected' | 'static'>): Answer {
  const [, kind, ...rest] = w;
  if (kind !== 'connected' && kind !== 'static') return false;
  const said: Draft<OspfRedistribution> = {};
  while (rest.length > 0) {
    const [word, value] = [rest.shift(), rest.shift()];
    const n = whole(value, 0, 16777214);
    if (word === 'metric' && n !== null) said.metric = n;
    else if (word === 'metric-type' && (value === '1' || value === '2')) said.wayCounts = value === '1';
    else if (word === 'route-map' && value !== undefined) said.routeMap = value;
    else return `after ${kind} stand metric, metric-type or route-map, each with a value`;
  }
  o[kind] = said;
  return true;
}

const router: Block<OspfDraft> = {
  name: 'router ospf',
  read: (w, line, o, reading) => {
    const taken = w[0] === 'no';
    const [first, ...rest] = taken ? w.slice(1) : w;
    if (!taken && ((first === 'ospf' && rest[0] === 'router-id') || first === 'router-id')) {
      const id = first === 'ospf' ? rest[1] : rest[0];
      if (id === undefined || parseIpv4(id) === null) return 'a router id is written like an IPv4 address';
      o.routerId = id;
      return reading.at(['ospf', 'routerId']);
    }
    if (first === 'network') {
      const cidr = parseCidr(rest[0] ?? '');
      const area = areaOf(rest[2]);
      if (!cidr || rest[1] !== 'area') return 'a network is: network PREFIX area AREA';
      if (area === null) return NO_AREA;
      const prefix = formatPrefix(prefixOf(cidr));
      const others = o.networks.filter((n) => n.prefix !== prefix || n.area !== area);
      if (!taken && [...reading.draft.ospfPorts.values()].some((p) => p.area !== undefined)) return failed(TWICE);
      if (!taken && others.some((n) => n.prefix === prefix)) return failed('the network is in another area already');
      o.networks = taken ? others : [...others, { prefix, area }];
      return reading.at(['ospf', 'networks', prefix]);
    }
    if (first === 'passive-interface') {
      if (rest[0] === 'default') {
        if (taken) delete o.passive;
        else o.passive = true;
        return reading.at(['ospf', 'passive']);
      }
      if (rest.length !== 1) return unmodelled(`“${line}” is not modelled`);
      const { ospfPorts } = reading.draft;
      ospfPorts.set(rest[0]!, { ...(ospfPorts.get(rest[0]!) ?? { name: rest[0]! }), passive: !taken });
      return reading.at(['ospfPorts', rest[0]!, 'passive']);
    }
    if (first === 'area' && rest[1] === 'authentication' && rest[2] === 'message-digest' && rest.length === 3) {
      const area = areaOf(rest[0]);
      if (area === null) return NO_AREA;
      const others = (o.provenAreas ?? []).filter((a) => a !== area);
      o.provenAreas = taken ? others : [...others, area];
      return reading.at(['ospf', 'provenAreas']);
    }
    if (first === 'maximum-paths' && !taken) {
      const n = whole(rest[0], 1, 256);
      if (n === null) return 'maximum-paths takes 1–256';
      o.maximumPaths = n;
      return reading.at(['ospf', 'maximumPaths']);
    }
    if (first === 'redistribute') {
      if (taken && (rest[0] === 'connected' || rest[0] === 'static')) {
        delete o[rest[0]];
        return reading.at(['ospf', rest[0]]);
      }
      const r = taken ? false : readOspfRedistribution(w, o);
      if (r !== false) return r === true ? reading.at(['ospf', rest[0] as 'connected' | 'static']) : r;
    }
    const said = taken ? line.slice(line.indexOf(first ?? '')) : line;
    if (HARMLESS.test(said)) return harmless(SAME_ROUTES);
    return UNMODELLED.test(said) ? unmodelled(`“${line}” is not modelled`) : false;
  },
};

/** OSPF of a VRF: FRR takes its lines, of which nothing is computed. */
const otherRouter: Block<null> = {
  name: 'router ospf … vrf',
  read: (w, line) => (w[0] === 'router' ? false : unmodelled(`“${line}” is of an OSPF router that is not modelled`)),
};

export const ospfLines: TopLines = {
  router: (w, _line, reading) => {
    if (w[1] !== 'ospf') return false;
    if (w[2] === 'vrf' && w[3] !== undefined) return reading.open(otherRouter, null, ['vrfs', w[3]]);
    // One of several instances, each a daemon of its own.
    if (w.length > 2) return reading.open(otherRouter, null, ['ospf']);
    return reading.open(router, (reading.draft.ospf ??= { networks: [] }), ['ospf']);
  },
};
