import type { BgpSpeaker } from '../../config/bgp.ts';
import { parseIpv4 } from '../../numbers/ipv4.ts';
import { formatAny, holdsAny, parseAnyPrefix, type AnyPrefix } from '../../numbers/prefix.ts';
import { failed, harmless, unmodelled, type Answer, type FrrReading } from './blocks.ts';
import { placeIn, unicastOf, type SpeakerDraft, type UnicastName } from './draft.ts';
import { whole } from './words.ts';

/** What the router says of itself besides its id and its families. */
export const routerWordLines = (b: BgpSpeaker): string =>
  (b.asPathIgnored ? '\n bgp bestpath as-path ignore' : '') +
  (b.medAlways ? '\n bgp always-compare-med' : '') +
  (b.localPreference === undefined ? '' : `\n bgp default local-preference ${b.localPreference}`) +
  (b.gracefulShutdown ? '\n bgp graceful-shutdown' : '') +
  (b.restart === undefined ? '' : RESTART_LINES[b.restart]) +
  (b.restartTime === undefined ? '' : `\n bgp graceful-restart restart-time ${b.restartTime}`) +
  (b.keepsForwarding ? '\n bgp graceful-restart preserve-fw-state' : '');
const RESTART_LINES = { full: '\n bgp graceful-restart', none: '\n bgp graceful-restart-disable' } as const;

/** Words that are said or not, by the field they set. */
const FLAGS = {
  'bgp bestpath as-path multipath-relax': 'multipathRelax',
  'bgp bestpath as-path ignore': 'asPathIgnored',
  'bgp always-compare-med': 'medAlways',
  'bgp graceful-shutdown': 'gracefulShutdown',
  'bgp graceful-restart preserve-fw-state': 'keepsForwarding',
} as const;

const WHEN_RESTARTED = 'it counts while a daemon starts anew';
const LATER = 'routes come somewhat later, and the same';
/** Words of the router on which no session and no route hangs, and why. */
const HARMLESS: readonly (readonly [RegExp, string])[] = [
  [/^bgp graceful-restart\b/, WHEN_RESTARTED],
  [
    /^bgp (log-neighbor-changes|default show-hostname|default show-nexthop-hostname|labeled-unicast)\b/,
    'it says what is shown',
  ],
  [/^bgp (update-delay|delete-delay|coalesce-time|dampening)\b/, LATER],
  [/^(timers bgp|update-delay|coalesce-time|read-quanta|write-quanta|bgp minimum-holdtime)\b/, LATER],
  [
    /^bgp (fast-external-failover|fast-convergence|conditional-advertisement|input-queue-limit|output-queue-limit)\b/,
    LATER,
  ],
  [
    /^bgp bestpath (compare-routerid|med|peer-type|bandwidth|as-path confed)\b/,
    'it settles ties between routes that are equal',
  ],
  [
    /^bgp (deterministic-med|disable-ebgp-connected-route-check|client-to-client reflection|suppress-duplicates|reject-as-sets)\b/,
    'it settles ties, or widens what is taken',
  ],
  [/^bgp (cluster-id|route-reflector allow-outbound-policy)\b/, 'it counts between reflectors of one cluster'],
  [/^bgp (session-dscp|tcp-keepalive|lu-ipv6-auto-encap)\b/, 'it says how packets are marked'],
  [/^bgp default (ipv4-vpn|ipv6-vpn|l2vpn-evpn-none)$/, 'nothing is computed of that family'],
];
/** Words that change sessions or routes in ways that are not computed. */
const UNMODELLED =
  /^(bgp (confederation|max-med|shutdown|suppress-fib-pending|network|route-map|ipv6-auto-ra|allow-martian-nexthop|default|bestpath|reject)|maximum-paths|distance|segment-routing|rfapi|vnc|neighbor)\b/;

/** The default counts for neighbours and groups that come after it: those that are there stay as they are (FRR 8.4.4). */
function settleDefault(b: SpeakerDraft, which: UnicastName, wasOn: boolean): void {
  const family = unicastOf(b, which);
  for (const { name, kind, group } of b.peers.values()) {
    const said = family.active.includes(name) || (group !== undefined && family.active.includes(group));
    if (said || family.inactive?.includes(name)) continue;
    if (wasOn) family.active.push(name);
    else if (kind !== 'group') family.inactive = [...(family.inactive ?? []), name];
  }
}

const overlaps = (a: AnyPrefix, b: AnyPrefix): boolean => holdsAny(a, b) || holdsAny(b, a);
/** `PREFIX peer-group GROUP`: who may call from where. Of ranges that overlap the first stays (FRR 8.4.4). */
function readListenRange(
  [said, word, group]: readonly string[],
  taken: boolean,
  b: SpeakerDraft,
  reading: FrrReading,
): Answer {
  const prefix = said === undefined ? null : parseAnyPrefix(said);
  if (!prefix || word !== 'peer-group' || group === undefined) return 'a range is written PREFIX peer-group GROUP';
  if (b.peers.get(group)?.kind !== 'group') return failed(`there is no peer group ${group} above`);
  const range = formatAny(prefix);
  const place = placeIn(b, 'listens', range);
  const known = b.listens?.get(range);
  if (taken) {
    if (known !== group) return failed(`${range} does not stand above for ${group}`);
    b.listens?.delete(range);
    return reading.at(place);
  }
  const [over, whose] =
    [...(b.listens ?? [])].find(
      ([other, of]) => !(other === range && of === group) && overlaps(prefix, parseAnyPrefix(other)!),
    ) ?? [];
  if (over !== undefined) return failed(`it overlaps ${over} of ${whose} above`);
  (b.listens ??= new Map()).set(range, group);
  return reading.at(place);
}

/** Reads a line of the router itself that speaks of no neighbour and opens no family. */
export function readRouterWord(w: readonly string[], line: string, b: SpeakerDraft, reading: FrrReading): Answer {
  const taken = w[0] === 'no';
  const said = taken ? line.slice(line.indexOf(w[1] ?? '')) : line;
  if (w[0] === 'bgp' && w[1] === 'router-id') {
    if (parseIpv4(w[2] ?? '') === null) return 'a router id is written like an IPv4 address';
    b.routerId = w[2]!;
    return reading.at(placeIn(b, 'routerId'));
  }
  if (said === 'bgp default ipv4-unicast') {
    if (b.defaultIpv4 === taken) settleDefault(b, 'ipv4', taken);
    b.defaultIpv4 = !taken;
    return reading.at(placeIn(b, 'defaultIpv4'));
  }
  if (said === 'bgp default ipv6-unicast') {
    if ((b.defaultIpv6 ?? false) === taken) settleDefault(b, 'ipv6', taken);
    if (taken) delete b.defaultIpv6;
    else b.defaultIpv6 = true;
    return reading.at(placeIn(b, 'defaultIpv6'));
  }
  if (said === 'bgp ebgp-requires-policy') {
    b.policySaid = !taken;
    return reading.at(placeIn(b, 'policyRequired'));
  }
  if (Object.hasOwn(FLAGS, said)) {
    const field = FLAGS[said as keyof typeof FLAGS];
    if (field === 'multipathRelax') b.multipathRelax = !taken;
    else if (taken) delete b[field];
    else b[field] = true;
    return reading.at(placeIn(b, field));
  }
  if (said === 'bgp graceful-restart' || said === 'bgp graceful-restart-disable') {
    if (taken) delete b.restart;
    else b.restart = said === 'bgp graceful-restart' ? 'full' : 'none';
    return reading.at(placeIn(b, 'restart'));
  }
  if (said.startsWith('bgp graceful-restart restart-time')) {
    const n = taken ? 120 : whole(w[3], 1, 4095);
    if (n === null) return 'a restart time is 1–4095 seconds';
    if (n === 120) delete b.restartTime;
    else b.restartTime = n;
    return reading.at(placeIn(b, 'restartTime'));
  }
  if (said.startsWith('bgp default local-preference')) {
    const n = whole(taken ? '100' : w[3], 0, 4294967295);
    if (n === null) return 'a local preference is a number';
    if (taken) delete b.localPreference;
    else b.localPreference = n;
    return reading.at(placeIn(b, 'localPreference'));
  }
  if (said.startsWith('bgp listen range ')) return readListenRange(taken ? w.slice(4) : w.slice(3), taken, b, reading);
  if (said.startsWith('bgp listen limit')) {
    const n = taken ? undefined : whole(w[3], 1, 65535);
    if (n === null) return 'how many may call is 1–65535';
    if (n === undefined) delete b.listenLimit;
    else b.listenLimit = n;
    return reading.at(placeIn(b, 'listenLimit'));
  }
  const because = HARMLESS.find(([words]) => words.test(said))?.[1];
  if (because !== undefined) return harmless(because);
  return UNMODELLED.test(said) ? unmodelled(`“${line}” is not modelled`) : false;
}
