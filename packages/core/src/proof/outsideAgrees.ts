import type { Finding } from '../finding.ts';
import {
  outsideKey,
  speakersKey,
  type FabricIntent,
  type NetworkSpeakers,
  type OutsideLink,
  type OutsideNeighbour,
} from '../intent/intent.ts';
import { hopsTo, neighbourKey, neighbourPlace, placeWords } from '../intent/neighbourPlace.ts';
import { lagText } from '../intent/outsideLag.ts';
import { naturally } from '../numbers/order.ts';

/** Words of a session that both sides share, and where each is said. */
type Shared<T> = readonly (readonly [words: string, of: (item: T, intent: FabricIntent) => unknown])[];
/** Which of them are other than they were, in words; empty = none. */
const changedIn = <T>(shared: Shared<T>, was: readonly [T, FabricIntent], is: readonly [T, FabricIntent]): string =>
  shared
    .filter(([, of]) => of(...was) !== of(...is))
    .map(([words]) => words)
    .sort(naturally)
    .join(' and ');

/** What both sides of a session have to have alike, or as the other has it. */
const SHARED: Shared<OutsideNeighbour> = [
  ['our address', (n) => n.address],
  ['its address', (n) => n.far],
  ['the address it speaks from', (n) => n.loopback],
  ['the hops to it', hopsTo],
  ['its AS number', (n) => n.asn],
  ['the AS number it sees', (n) => n.localAs],
  ['BFD', (n) => n.bfd],
  ['TTL security', (n) => n.ttlSecurity],
  ['the password', (n, intent) => intent.secrets.find((s) => s.name === n.password)?.digest],
];

/**
 * Says which routers outside have to be changed with a fabric: nobody here sends to them, and a session is down for as long
 * as one side alone has what both must share.
 */
export const outsideAgrees = (before: FabricIntent, after: FabricIntent): Finding[] => [
  ...linksAgree(before, after),
  ...routersAgree(before, after),
  ...serversAgree(before, after),
];

/** What servers that speak and their gateway have to have alike. */
const SHARED_WITH_SERVERS: Shared<NetworkSpeakers> = [
  ['their AS number', (s) => s.asn],
  ['BFD', (s) => s.bfd],
  ['the password', (s, intent) => intent.secrets.find((x) => x.name === s.password)?.digest],
];

function serversAgree(before: FabricIntent, after: FabricIntent): Finding[] {
  const was = new Map(before.speakers.map((s) => [speakersKey(s), s]));
  return after.speakers.flatMap((s): Finding[] => {
    const old = was.get(speakersKey(s));
    const what = old ? changedIn(SHARED_WITH_SERVERS, [old, before], [s, after]) : '';
    if (what === '') return [];
    return [
      {
        rule: 'outside-agrees',
        severity: 'warning',
        message: `Servers of ${s.network} at ${s.from} have to change with it: ${what}. Their sessions are down while one side alone has it.`,
        cure: 'Agree on a time with who runs them; their lines stand under Routing › BGP servers. A rollout does not wait for them: Watch says who is up.',
        subjects: [`speakers:${speakersKey(s)}`],
      },
    ];
  });
}

/** A LAG is one at both ends (IEEE 802.1AX), of the same cables. */
function linksAgree(before: FabricIntent, after: FabricIntent): Finding[] {
  const was = new Map(before.outside.map((o) => [outsideKey(o), o]));
  const lagOf = ({ lag }: OutsideLink): string => (lag ? lagText(lag) : '');
  return after.outside.flatMap((o): Finding[] => {
    const old = was.get(outsideKey(o));
    const speaks = after.neighbours.some((n) => outsideKey(n) === outsideKey(o));
    if (!old || !speaks || old.system !== o.system || lagOf(old) === lagOf(o)) return [];
    const place = `rack ${o.rack} ${o.port} (${o.side})`;
    const grows = old.lag !== undefined && o.lag !== undefined;
    return [
      {
        rule: 'outside-agrees',
        severity: 'warning',
        message: grows
          ? `${o.system} has to change with ${place}: the cables of the LAG. Those that it does not have in its LAG carry nothing.`
          : `${o.system} has to change with ${place}: whether it is a LAG. What is spoken over it may be down while one side alone has it.`,
        cure: `Agree on a time with who runs ${o.system}, and hand over the lines that stand under Outside.`,
        subjects: [`outside:${outsideKey(o)}`],
      },
    ];
  });
}

function routersAgree(before: FabricIntent, after: FabricIntent): Finding[] {
  const was = new Map(before.neighbours.map((n) => [neighbourKey(n), n]));
  return after.neighbours.flatMap((n): Finding[] => {
    const old = was.get(neighbourKey(n));
    const what = old ? changedIn(SHARED, [old, before], [n, after]) : '';
    if (what === '') return [];
    const system = after.outside.find((o) => outsideKey(o) === outsideKey(n))?.system ?? n.far;
    return [
      {
        rule: 'outside-agrees',
        severity: 'warning',
        message: `${system} has to change with ${placeWords(neighbourPlace(n))}: ${what}. The session in ${n.vrf} is down while one side alone has it.`,
        cure: `Agree on a time with who runs ${system}, and hand over the lines that stand under Outside. A rollout does not wait for it: Watch says whether the session is up.`,
        subjects: [`neighbour:${neighbourKey(n)}`],
      },
    ];
  });
}
