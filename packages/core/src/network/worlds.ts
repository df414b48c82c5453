import { onceFor } from '../onceFor.ts';
import type { Doubt } from './doubts.ts';
import { settleAsAsked, type PathsTo } from './families.ts';
import { doubtOfAdjacency, doubtOfSession } from './modelDoubts.ts';
import type { NetworkModel } from './networkModel.ts';
import { ospfNetwork, type OspfSupposed } from './ospf.ts';
import { endKey } from './cablePlan.ts';
import { isTenants, type Session } from './sessions.ts';

/** The network as it would be if lines that are not understood had done something to the sessions they doubt. */
interface World {
  readonly doubt: Doubt;
  readonly to: (origin: number) => PathsTo;
}
/** A doubted session as it would be if it came up after all. */
const asUp = (s: Session): Session => (s.farPeer === null ? s : { ...s, up: true, ipv4: true, ipv6: true, evpn: true });
const isWhole = (s: Session): boolean => s.up && s.ipv4 && s.evpn;

/** What lines of one switch put in doubt. */
interface Doubted {
  doubt: Doubt;
  readonly sessions: Set<Session>;
  /** Neighbours by OSPF, as `host port`. */
  readonly adjacencies: Set<string>;
}
const NONE: ReadonlySet<string> = new Set();

/**
 * What might be: for each switch with a doubt its doubted sessions and neighbours down; those that are down up; what comes
 * over them taken before all else, where lines may change routes; and all that are doubted down at once. An answer that is
 * the same in all of them, and for which nothing came over a session whose routes may be changed, does not hang on the lines.
 */
export const worlds = onceFor((model: NetworkModel): World[] => {
  const doubted = new Map<string, Doubted>();
  const note = (doubt: Doubt): Doubted => {
    const known = doubted.get(doubt.host) ?? { doubt, sessions: new Set(), adjacencies: new Set() };
    doubted.set(doubt.host, known);
    if (doubt.alters) known.doubt = doubt;
    return known;
  };
  const every = new Set<Session>();
  const everyAdjacency = new Set<string>();
  for (const s of model.sessions) {
    const doubt = isTenants(s) ? null : doubtOfSession(model, s);
    if (!doubt) continue;
    every.add(s);
    note(doubt).sessions.add(s);
  }
  for (const a of model.ospf?.adjacencies ?? []) {
    const doubt = doubtOfAdjacency(model, a);
    if (!doubt) continue;
    everyAdjacency.add(endKey(a.host, a.port));
    note(doubt).adjacencies.add(endKey(a.host, a.port));
  }
  const world = (
    doubt: Doubt,
    sessions: readonly Session[],
    supposed: OspfSupposed,
    favoured?: ReadonlySet<Session>,
  ): World => {
    const asIs = supposed.gone.size + supposed.favoured.size === 0;
    const ospf = asIs ? model.ospf : ospfNetwork(model.views, model.index, model.plan, supposed);
    return { doubt, to: settleAsAsked({ ...model, ospf }, sessions, favoured) };
  };
  const without = (gone: ReadonlySet<Session>): Session[] => model.sessions.filter((s) => !gone.has(s));
  const out = [...doubted.values()].flatMap(({ doubt, sessions, adjacencies }) => {
    const raised = new Map([...sessions].map((s) => [s, asUp(s)]));
    const up = model.sessions.map((s) => raised.get(s) ?? s);
    const near: OspfSupposed = { gone: NONE, favoured: adjacencies };
    return [
      world(doubt, without(sessions), { gone: adjacencies, favoured: NONE }),
      ...([...sessions].every(isWhole) && adjacencies.size === 0 ? [] : [world(doubt, up, near)]),
      ...(doubt.alters ? [world(doubt, up, near, new Set(raised.values()))] : []),
    ];
  });
  const [first] = doubted.values();
  return first && doubted.size > 1
    ? [...out, world(first.doubt, without(every), { gone: everyAdjacency, favoured: NONE })]
    : out;
});
