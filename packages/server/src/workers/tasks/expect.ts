import {
  carryingCablesOf,
  seatDialects,
  type Dialect,
  isTenants,
  layOut,
  modelNetwork,
  ospfIn,
  seenAdjacent,
  type Cable,
  type ParsedConfig,
  type PeerWords,
} from '@anthemion/core';
import type { Outcome } from '@anthemion/contract';
import { readDocument } from '../../store/documents.ts';
import type { Db } from '../../store/database.ts';
import { rolloutOf, rowsOf } from '../../store/rollouts.ts';
import { switchOf } from '../../store/switches.ts';
import { textOf } from '../../store/texts.ts';
import { hashOf, parseOnce } from '../fabricMemory.ts';
import { blankFiles } from './plan.ts';
import { snapshot } from './state.ts';

export interface ExpectTask {
  readonly do: 'expect';
  readonly fabric: string;
  readonly rollout: string;
  readonly wave: number;
}
/** A BGP peer that will be up, by its name as written, or a neighbour by OSPF, as `seenAdjacent` calls it. */
export interface ExpectedPeer {
  readonly peer: string;
  /** Families of a peer that will be up; of a neighbour that it is one. */
  readonly up: readonly (keyof PeerWords | 'adjacent')[];
}
/** Sessions of one switch before and after its wave. */
export interface Expectation {
  readonly before: readonly ExpectedPeer[];
  readonly after: readonly ExpectedPeer[];
}

type SwitchText = ParsedConfig & { readonly host: string };

const FAMILIES = ['ipv4', 'ipv6', 'evpn'] as const;
const SENT = new Set<Outcome>(['waits', 'under way', 'as meant']);

/** Sessions the network model says each switch of a wave has before and after it, from text and the cable plan. */
export const expectTask = (db: Db, task: ExpectTask): Promise<[string, Expectation][]> =>
  snapshot(db, async (tx) => {
    const rollout = await rolloutOf(tx, task.rollout);
    if (rollout.intent === null) return [];
    const intent = readDocument('intent', rollout.intent);
    const layout = layOut(intent);
    const cables: readonly Cable[] = carryingCablesOf(layout);
    const rows = new Map((await rowsOf(tx, task.rollout)).map((r) => [r.host, r]));
    const dialectAt = seatDialects(intent.models);
    const read = async (hash: string, dialect: Dialect) => parseOnce(hash, (await textOf(tx, hash))!, dialect);
    const before: SwitchText[] = [];
    const after: SwitchText[] = [];
    for (const seat of layout.seats) {
      const row = rows.get(seat.host);
      const serial = row?.serial ?? intent.seating[seat.id];
      const running = (serial === undefined ? null : (await switchOf(tx, serial))?.running) ?? row?.expected ?? null;
      const dialect = dialectAt(seat);
      const factory = blankFiles(dialect, seat.host);
      const now = running === null ? parseOnce(hashOf(factory), factory, dialect) : await read(running, dialect);
      before.push({ host: seat.host, ...now });
      const sent = row !== undefined && row.wave <= task.wave && SENT.has(row.outcome as Outcome);
      after.push({ host: seat.host, ...(sent ? await read(row.target, dialect) : now) });
    }
    const peersOf = (texts: readonly SwitchText[]): Map<string, ExpectedPeer[]> => {
      const out = new Map<string, ExpectedPeer[]>();
      const add = (host: string, peer: ExpectedPeer): void => void out.set(host, [...(out.get(host) ?? []), peer]);
      const network = modelNetwork(texts, cables);
      for (const s of network.sessions)
        if (s.up && !isTenants(s)) add(s.host, { peer: s.peer, up: FAMILIES.filter((f) => s[f]) });
      for (const { by, ospf } of ospfIn(network))
        for (const a of ospf.adjacencies) if (a.up) add(a.host, { peer: seenAdjacent(by, a.port), up: ['adjacent'] });
      return out;
    };
    const [was, will] = [peersOf(before), peersOf(after)];
    return [...rows.values()]
      .filter((r) => r.wave === task.wave)
      .map((r) => [r.host, { before: was.get(r.host) ?? [], after: will.get(r.host) ?? [] }]);
  });
