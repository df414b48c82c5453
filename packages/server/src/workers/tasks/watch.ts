import type { LinkLive, LiveAnswer, SeatLive, SwitchHealth } from '@anthemion/contract';
import {
  configDifferences,
  callersIn,
  cablesOf,
  layOut,
  sayDifference,
  serverSeats,
  watchFabric,
  type Cause,
  type ConfigFiles,
  type FabricIntent,
  type Layout,
  type ParsedConfig,
  type ServerLeg,
  type SessionState,
  type WatchedSwitch,
  seatDialects,
  type Dialect,
  type PortEnd,
} from '@anthemion/core';
import type { Db, Reads } from '../../store/database.ts';
import type { Said } from '../../store/live.ts';
import { readingsOf } from '../../store/live.ts';
import { rowsOf, unfinishedIn, type SwitchRow } from '../../store/rollouts.ts';
import { liveOf, meantOf, type LiveRow } from '../../store/seats.ts';
import { textOf } from '../../store/texts.ts';
import { parseOnce } from '../fabricMemory.ts';
import { snapshot, stateAt } from './state.ts';

export interface WatchTask {
  readonly do: 'watch';
  readonly fabric: string;
  /** An open change whose seats and cables are looked at; null = what is live. */
  readonly change: string | null;
  /** What was read before this counts as not read lately, ISO. */
  readonly staleBefore: string;
}
export type Watched = Omit<LiveAnswer, 'every' | 'causes' | 'sessions'> & {
  readonly sessions: Omit<LiveAnswer['sessions'], 'settling'>;
  readonly causes: readonly Cause[];
};

type Reading = Awaited<ReturnType<typeof readingsOf>> extends Map<string, infer R> ? R : never;

/** How a switch is by its texts alone. */
export function healthOf(
  meant: string | undefined,
  confirmed: string | undefined,
  running: string | null,
  underWay: string | undefined,
): SwitchHealth {
  if (meant === undefined) return 'waiting';
  if (running === null) return 'unread';
  if (running === meant) return 'as meant';
  return running === confirmed || confirmed === undefined || running === underWay ? 'waiting' : 'drifted';
}

interface Standing {
  readonly live: SeatLive;
  readonly watched: WatchedSwitch;
}

/** A fabric as its switches were read, against what each was confirmed with. */
export const watchTask = (db: Db, task: WatchTask): Promise<Watched> =>
  snapshot(db, async (tx) => {
    const { intent, values, revision } = await stateAt(tx, task.fabric, task.change);
    const layout = layOut(intent);
    const meant = new Map((await meantOf(tx, task.fabric)).map((m) => [m.seat, m.hash]));
    const confirmed = new Map((await liveOf(tx, task.fabric)).map((l) => [l.serial, l]));
    const readings = await readingsOf(tx, task.fabric, task.change);
    const rollouts = await unfinishedIn(tx, task.fabric);
    const rows = new Map<string, SwitchRow>();
    for (const r of rollouts) for (const row of await rowsOf(tx, r.id)) rows.set(row.serial, row);
    const hostOf = new Map(
      layout.seats.flatMap((s) => {
        const serial = intent.seating[s.id];
        return serial === undefined ? [] : [[serial.toLowerCase(), s.host] as const];
      }),
    );
    const dialectAt = seatDialects(intent.models);
    const namesOf = new Map(layout.seats.map((s) => [s.host, dialectAt(s).ports]));
    const labelAt = ({ host, port }: PortEnd): string => namesOf.get(host)?.labelOf(port) ?? port;
    const all: Standing[] = [];
    for (const seat of layout.seats) {
      const serial = intent.seating[seat.id] ?? null;
      const reading = serial === null ? undefined : readings.get(serial);
      all.push(
        await standingOf(tx, {
          seat: { seat: seat.id, host: seat.host, serial },
          reading,
          meant: meant.get(seat.id),
          live: serial === null ? undefined : confirmed.get(serial),
          row: serial === null ? undefined : rows.get(serial),
          dialect: dialectAt(seat),
          hostOf,
          labelAt,
          staleBefore: task.staleBefore,
        }),
      );
    }
    const report = watchFabric({
      switches: all.map((s) => s.watched),
      links: cablesOf(layout),
      servers: legsOf(intent, layout),
      callers: callersIn(intent, layout, values),
      anyway: task.change !== null,
    });
    const newest = all.reduce<string | null>(
      (at, { live }) => (live.readAt !== null && (at === null || live.readAt > at) ? live.readAt : at),
      null,
    );
    return {
      fabric: task.fabric,
      revision,
      readAt: newest,
      seats: all.map((s) => s.live),
      links: {
        planned: report.links.filter((l) => l.stand !== 'at rest').length,
        up: report.links.filter((l) => l.stand === 'up').length,
        others: report.links.flatMap((l): LinkLive[] =>
          l.stand === 'up' ? [] : [{ id: l.id, stand: l.stand, aSees: l.aSees, bSees: l.bSees }],
        ),
      },
      adjacencies: countStates(report.adjacencies),
      sessions: countStates(report.sessions),
      causes: report.causes,
      drained: report.drained,
    };
  });

/** How many of those that are judged are up, and which are not. */
function countStates(all: readonly SessionState[]): Watched['adjacencies'] {
  const judged = all.filter((s) => s.stand !== 'out');
  return {
    meant: judged.length,
    up: judged.filter((s) => s.stand === 'up').length,
    down: judged.flatMap((s) =>
      s.stand === 'down'
        ? [
            {
              ...(s.by === undefined ? {} : { by: s.by }),
              host: s.host,
              farHost: s.farHost,
              port: s.port,
              word: s.word ?? 'down',
            },
          ]
        : [],
    ),
    unread: judged.filter((s) => s.stand === 'unread').length,
  };
}

/** Servers, once for each switch port they are on. */
const legsOf = (intent: FabricIntent, layout: Layout): ServerLeg[] =>
  intent.ports.flatMap((p) => serverSeats(layout, p).map(({ host }) => ({ server: p.server, host, port: p.port })));

interface Known {
  readonly seat: Pick<SeatLive, 'seat' | 'host' | 'serial'>;
  readonly reading: Reading | undefined;
  readonly meant: string | undefined;
  readonly live: LiveRow | undefined;
  /** Its row of an unfinished rollout. */
  readonly row: SwitchRow | undefined;
  readonly dialect: Dialect;
  readonly hostOf: ReadonlyMap<string, string>;
  /** The label of a port by what its switch calls it. */
  readonly labelAt: (end: PortEnd) => string;
  readonly staleBefore: string;
}

const clock = (iso: string): string => `${iso.slice(0, 10)} ${iso.slice(11, 16)} UTC`;

async function standingOf(db: Reads, known: Known): Promise<Standing> {
  const { seat, reading, meant, live, row } = known;
  const out = reading !== undefined && reading.out_at !== null;
  const unread = out ? null : whyUnread(known);
  const underWay = row?.outcome === 'under way' || row?.outcome === 'unknown';
  const running = reading?.running ?? null;
  const texts = healthOf(meant, live?.hash, running, underWay ? row?.target : undefined);
  const health: SwitchHealth = out ? 'out of service' : unread !== null && live !== undefined ? 'unread' : texts;
  const expected = live?.hash ?? meant;
  // A switch that was never confirmed has nothing of ours, so nothing of it is judged.
  const base = live === undefined || expected === undefined ? null : await parsed(db, expected, known.dialect);
  const now = running === null ? null : await parsed(db, running, known.dialect);
  const byHand = health === 'drifted' && base && now ? handWords(base, now) : [];
  return {
    live: {
      ...seat,
      health,
      why: out
        ? `${reading.out_reason ?? ''} (${reading.out_by ?? ''}, since ${clock(reading.out_at!)})`
        : health === 'unread'
          ? unread
          : health === 'waiting'
            ? whyWaiting(known, running)
            : null,
      readAt: laterOf(reading?.said_at ?? null, reading?.read_at ?? null),
      textAt: reading?.read_at ?? null,
      byHand,
    },
    watched: {
      host: seat.host,
      placed: seat.serial !== null && reading !== undefined,
      // While its text is being loaded, too early is not failed.
      out: out || underWay,
      seen: unread === null && reading?.said ? seenOf(reading.said, known) : null,
      why: unread,
      meant: base?.config ?? null,
      runs: now?.config ?? null,
      byHand,
    },
  };
}

const laterOf = (a: string | null, b: string | null): string | null => (a === null ? b : b === null || a > b ? a : b);

/** Why nothing is known of a switch now, or null. */
function whyUnread({ seat, reading, staleBefore }: Known): string | null {
  if (seat.serial === null) return 'the seat is empty';
  if (!reading) return 'it is not read: no revision with it is live';
  if (reading.trouble !== null)
    return reading.refused >= 3
      ? `${reading.trouble}; it refused three times running and is not asked any more, so that the account is not locked: mend the account, then read it`
      : reading.trouble;
  if (reading.said_at === null) return 'it was never read';
  return reading.said_at < staleBefore ? `not read since ${clock(reading.said_at)}` : null;
}

function whyWaiting({ meant, live, row }: Known, running: string | null): string | null {
  if (meant === undefined) return 'nothing is live for it yet';
  if (row?.outcome === 'under way') return `rollout ${row.rollout_id} is at it`;
  if (row && row.outcome === 'as meant' && running === row.target)
    return `it runs the text of rollout ${row.rollout_id}, which is not finished: it is ahead of what is live`;
  if (row && row.outcome === 'waits') return `it waits for rollout ${row.rollout_id}`;
  if (live === undefined) return 'it has nothing of ours yet';
  return 'it has not got what is live yet: catch up';
}

type ParsedText = ParsedConfig & { readonly files: ConfigFiles };
async function parsed(db: Reads, hash: string, dialect: Dialect): Promise<ParsedText | null> {
  const files = await textOf(db, hash);
  return files === null ? null : { ...parseOnce(hash, files, dialect), files };
}

/** What somebody did by hand, as sentences: meaning first, then lines nobody understands. */
function handWords(base: ParsedText, now: ParsedText): string[] {
  const known = new Set(base.unread.map((u) => `${u.file} ${u.text}`));
  const gone = Object.keys(base.files).filter((name) => !(name in now.files));
  const words = [
    ...gone.map((name) => `Nothing of ours is in ${name} any more`),
    ...configDifferences(base.config, now.config).map(sayDifference),
    ...now.unread
      .filter((u) => !known.has(`${u.file} ${u.text}`))
      .map((u) => `Line ${u.line} of ${u.file} is not understood: “${u.text}” (${u.why})`),
  ];
  return words.length > 0
    ? words
    : ['Its text differs in comments, order or spacing alone, or in what nothing here hangs on'];
}

function seenOf(text: string, { hostOf, labelAt }: Pick<Known, 'hostOf' | 'labelAt'>): WatchedSwitch['seen'] {
  const said = JSON.parse(text) as Said;
  return {
    signal: new Map(said.signal),
    peers: new Map(said.peers),
    ...(said.adjacent ? { adjacent: new Map(said.adjacent) } : {}),
    // A switch that has not got its name yet announces itself by serial.
    neighbours: new Map(
      said.neighbours.map(([port, said, farPort]) => {
        const host = hostOf.get(said.toLowerCase()) ?? said;
        return [port, { host, port: labelAt({ host, port: farPort }) }];
      }),
    ),
  };
}
