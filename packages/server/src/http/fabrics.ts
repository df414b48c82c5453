import type {
  CableAnswer,
  FabricAnswer,
  FabricRequest,
  FabricStateAnswer,
  LiveAnswer,
  RevisionAnswer,
  SeatState,
  SwitchHealth,
  TextAnswer,
} from '@anthemion/contract';
import { editsBetween, layOut, problem, writeIntentFile } from '@anthemion/core';
import PQueue from 'p-queue';
import type { ServerContext } from '../context.ts';
import type { Changes } from '../changes/changes.ts';
import {
  allLedger,
  allPools,
  changeState,
  intentAt,
  liveIntent,
  liveState,
  type FullState,
} from '../changes/fabricState.ts';
import { textOf } from '../store/texts.ts';
import { notThere, refused } from './problem.ts';
import type { Handlers } from './routes.ts';

const READS_AT_ONCE = 8;

export function fabricHandlers(context: ServerContext, changes: Changes): Handlers {
  const { db, compiler, reach } = context;

  async function fabricAnswer(name: string): Promise<FabricAnswer> {
    const row = await db.selectFrom('fabrics').selectAll().where('name', '=', name).executeTakeFirst();
    if (!row) throw notThere(`fabric ${name}`);
    const { intent, revision } = await liveIntent(db, name);
    const live = await db
      .selectFrom('revisions')
      .select('at')
      .where('fabric', '=', name)
      .orderBy('number', 'desc')
      .executeTakeFirst();
    const open = await db
      .selectFrom('changes')
      .select((e) => e.fn.countAll<number>().as('n'))
      .where('fabric', '=', name)
      .where('state', 'not in', ['Live', 'Withdrawn'])
      .executeTakeFirstOrThrow();
    const layout = layOut(intent);
    return {
      name,
      namePrefix: row.prefix,
      revision,
      liveSince: live?.at ?? null,
      spines: intent.spines.count,
      leaves: layout.seats.length - intent.spines.count,
      racks: intent.racks.length,
      openChanges: Number(open.n),
    };
  }

  const stateOf = async (name: string, change: string | undefined): Promise<FullState> => {
    if (change === undefined || change === '') return liveState(db, name);
    const state = await changeState(db, change);
    if (state.intent.name !== name) throw notThere(`change ${change} of ${name}`);
    return state;
  };
  const plain = (s: FullState) => ({ intent: s.intent, values: [...s.values] });

  /** Health of every seat: what runs against what the live revision means, and what a change waits with. */
  async function seatStates(name: string, state: FullState): Promise<SeatState[]> {
    const live = state.change === null ? state : await liveState(db, name);
    const texts = new Map(
      (await compiler.texts({ state: plain(live), pools: await allPools(db) })).map((t) => [
        t.seat.id,
        JSON.stringify(t.files),
      ]),
    );
    const known = new Map((await db.selectFrom('switches').selectAll().execute()).map((s) => [s.serial, s]));
    const out: SeatState[] = [];
    for (const seat of layOut(state.intent).seats) {
      const serial = state.intent.seating[seat.id] ?? null;
      const row = serial === null ? undefined : known.get(serial);
      const running = row?.running ? JSON.stringify(await textOf(db, row.running)) : null;
      const meant = texts.get(seat.id);
      const health: SwitchHealth =
        meant === undefined ? 'waiting' : running === null ? 'unread' : running === meant ? 'as meant' : 'drifted';
      out.push({ seat: seat.id, host: seat.host, serial, model: seat.model, health, readAt: row?.read_at ?? null });
    }
    return out;
  }

  return {
    'GET /api/fabrics': async () =>
      Promise.all(
        (await db.selectFrom('fabrics').select('name').orderBy('name').execute()).map((r) => fabricAnswer(r.name)),
      ),

    'POST /api/fabrics': async ({ body, user }) => {
      const request = body as FabricRequest;
      if (await db.selectFrom('fabrics').select('name').where('name', '=', request.name).executeTakeFirst())
        throw refused([
          problem('fabric-new', '/name', `There is already a fabric ${request.name}.`, 'Choose another name.'),
        ]);
      const twin = await db
        .selectFrom('fabrics')
        .select('name')
        .where('prefix', '=', request.namePrefix)
        .executeTakeFirst();
      if (twin)
        throw refused([
          problem(
            'fabric-new',
            '/namePrefix',
            `Prefix ${request.namePrefix} is ${twin.name}'s; switch names would clash.`,
            'Choose another prefix.',
          ),
        ]);
      await db
        .insertInto('fabrics')
        .values({ name: request.name, prefix: request.namePrefix, created_at: new Date().toISOString() })
        .execute();
      const change = await changes.open(
        { fabric: request.name, title: request.title || `Build ${request.name}`, reason: '', ticket: '' },
        user.name,
      );
      return { fabric: request.name, change };
    },

    'GET /api/fabrics/:name': async ({ params, query }): Promise<FabricStateAnswer> => {
      const name = params['name']!;
      const answer = await fabricAnswer(name);
      const state = await stateOf(name, query['change']);
      const ledger = (await allLedger(db)).filter(
        (e) => e.fabric === name && (e.change === null || e.change === state.change),
      );
      return {
        ...answer,
        change: state.change,
        intent: state.intent,
        values: Object.fromEntries(state.values),
        ledger,
        seats: await seatStates(name, state),
      };
    },

    'GET /api/fabrics/:name/proof': async ({ params }) => {
      const live = await liveState(db, params['name']!);
      return compiler.prove({ before: plain(live), after: plain(live), pools: await allPools(db), drawFindings: [] });
    },

    'GET /api/fabrics/:name/intent.yaml': async ({ params, query, response }) => {
      const state = await stateOf(params['name']!, query['change']);
      const ledger = (await allLedger(db))
        .filter((e) => e.fabric === state.intent.name && (e.change === null || e.change === state.change))
        .map((e) => ({ ...e, change: null }));
      const used = new Set(Object.values(state.intent.pools));
      const pools = (await allPools(db)).filter((p) => used.has(p.name));
      response
        .type('text/yaml')
        .attachment(`${state.intent.name}.yaml`)
        .send(writeIntentFile({ anthemion: 1, fabric: state.intent, pools, ledger }));
    },

    'GET /api/fabrics/:name/text/:seat': async ({ params, query }): Promise<TextAnswer> => {
      const [name, seatId] = [params['name']!, params['seat']!];
      const state = await stateOf(name, query['change']);
      const live = await liveState(db, name);
      const pools = await allPools(db);
      const seat = layOut(state.intent).seatById.get(seatId) ?? layOut(live.intent).seatById.get(seatId);
      if (!seat) throw notThere(`seat ${seatId} in ${name}`);
      const meant = await compiler.origins({
        state: plain(state),
        pools,
        seat: seatId,
        ledger: await allLedger(db),
        edits: state.edits,
      });
      const before =
        state.change === null
          ? meant
          : await compiler.origins({ state: plain(live), pools, seat: seatId, ledger: [], edits: [] });
      const serial = state.intent.seating[seatId] ?? live.intent.seating[seatId] ?? null;
      const row =
        serial === null
          ? undefined
          : await db.selectFrom('switches').selectAll().where('serial', '=', serial).executeTakeFirst();
      return {
        host: seat.host,
        seat: seatId,
        serial,
        live: before?.files ?? null,
        meant: meant?.files ?? null,
        running: await textOf(db, row?.running ?? null),
        readAt: row?.read_at ?? null,
        origins: meant?.origins ?? {},
      };
    },

    'GET /api/fabrics/:name/revisions': async ({ params }): Promise<RevisionAnswer[]> => {
      const rows = await db
        .selectFrom('revisions')
        .selectAll()
        .where('fabric', '=', params['name']!)
        .orderBy('number', 'desc')
        .execute();
      return rows.map((r) => ({
        number: r.number,
        author: r.author,
        reason: r.reason,
        ticket: r.ticket,
        title: r.title,
        change: r.change_id,
        at: r.at,
        sentences: JSON.parse(r.sentences) as string[],
      }));
    },

    'POST /api/fabrics/:name/return': async ({ params, body, user }) => {
      const name = params['name']!;
      const { revision } = body as { revision: number };
      const { intent, revision: now } = await liveIntent(db, name);
      if (revision === now)
        throw refused([
          problem(
            'revision-other',
            '/revision',
            `Revision ${revision} is the live one.`,
            'Choose an earlier revision.',
          ),
        ]);
      const edits = editsBetween(intent, await intentAt(db, name, revision));
      const change = await changes.open(
        {
          fabric: name,
          title: `Return to revision ${revision}`,
          reason: `Undo what came after revision ${revision}`,
          ticket: '',
        },
        user.name,
      );
      if (edits.length > 0) await changes.addEdits(change, edits, user.name);
      return { change };
    },

    'POST /api/fabrics/:name/live': async ({ params, query }): Promise<LiveAnswer> => {
      const state = await stateOf(params['name']!, query['change']);
      const layout = layOut(state.intent);
      const seen = new Map<string, Map<string, string>>();
      const sessions: { host: string; peer: string; state: string }[] = [];
      const troubles: { host: string; trouble: string }[] = [];
      const hostOf = new Map(
        layout.seats.flatMap((s) =>
          state.intent.seating[s.id] === undefined ? [] : [[state.intent.seating[s.id]!, s.host]],
        ),
      );
      const queue = new PQueue({ concurrency: READS_AT_ONCE });
      for (const seat of layout.seats) {
        const serial = state.intent.seating[seat.id];
        if (serial === undefined) continue;
        void queue.add(async () => {
          try {
            await reach.read(serial);
            const { neighbours, peers } = await reach.on(serial, async (d) => ({
              neighbours: await d.neighbours(),
              peers: await d.peers(),
            }));
            seen.set(seat.host, new Map(neighbours.map((n) => [n.port, `${n.host} ${n.farPort}`])));
            for (const [peer, s] of peers)
              sessions.push({
                host: seat.host,
                peer,
                state:
                  s.ipv4 === 'Established' && s.evpn === 'Established' ? 'Established' : (s.ipv4 ?? s.evpn ?? 'Idle'),
              });
          } catch (error) {
            troubles.push({ host: seat.host, trouble: error instanceof Error ? error.message : String(error) });
          }
        });
      }
      await queue.onIdle();
      // A switch that has not got its name yet announces itself by serial.
      const named = (text: string | undefined): string | null => {
        if (text === undefined) return null;
        const [who = '', port = ''] = text.split(' ');
        const bySerial = [...hostOf].find(([serial]) => serial.toLowerCase() === who.toLowerCase());
        return `${bySerial ? bySerial[1] : who} ${port}`;
      };
      const cables = layout.links.map((l): CableAnswer => {
        const [a, b] = [layout.seatById.get(l.leaf)!.host, layout.seatById.get(l.spine)!.host];
        const aSees = named(seen.get(a)?.get(l.leafPort));
        const bSees = named(seen.get(b)?.get(l.spinePort));
        const read = seen.has(a) || seen.has(b);
        const right =
          (aSees === null || aSees === `${b} ${l.spinePort}`) && (bSees === null || bSees === `${a} ${l.leafPort}`);
        const cableState = !read
          ? 'unread'
          : !right
            ? 'miscabled'
            : aSees === null && bSees === null
              ? 'not seen'
              : 'as planned';
        return { aHost: a, aPort: l.leafPort, bHost: b, bPort: l.spinePort, state: cableState, aSees, bSees };
      });
      return { readAt: new Date().toISOString(), cables, sessions, troubles };
    },
  };
}
