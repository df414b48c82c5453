import {
  sees,
  type AdoptAnswer,
  type AdoptRequest,
  type HereRequest,
  type LiveAnswer,
  type PutBackRequest,
} from '@anthemion/contract';
import type { AdoptOutcome } from '../workers/tasks/adopt.ts';
import { causePage } from '../store/live.ts';
import { notThere, refused } from '../trouble.ts';
import { problem } from '@anthemion/core';
import { changeOf } from '../store/changes.ts';
import { dayOf } from '../watch/day.ts';
import type { Changes } from '../services/changes.ts';
import { whereHeard } from '../services/hearing.ts';
import type { House } from '../services/house.ts';
import { trafficOf } from '../services/traffic.ts';
import type { Rollouts } from '../services/rollouts.ts';
import type { Live } from '../watch/live.ts';
import type { Presence } from '../watch/presence.ts';
import type { Reading } from '../watch/reading.ts';
import { handOf } from './fabrics.ts';
import { fabricIn, type Call, type Handlers } from './routes.ts';

interface WatchParts {
  readonly house: House;
  readonly live: Live;
  readonly reading: Reading;
  readonly changes: Changes;
  readonly rollouts: Rollouts;
  readonly presence: Presence;
}

const answerOf = ({ sentences, left }: AdoptOutcome): AdoptAnswer => ({ edits: sentences, left });

/** How long a reading of a whole fabric is waited for; what is not read by then comes in by itself, milliseconds. */
const READ_WAIT_MS = 15_000;

/** What was read of the switches, what is wrong, the two answers to hand edits, and who is here. */
export function watchHandlers({ house, live, reading, changes, rollouts, presence }: WatchParts): Handlers {
  const adopted = (fabric: string, change: string | null, serials: readonly string[]): Promise<AdoptOutcome> =>
    house.compiler.run<'adopt'>({ do: 'adopt', fabric, change, serials });
  /** What is live, or with ?change= as an open change of the fabric would have it. */
  const liveIn = async (call: Call): Promise<LiveAnswer> => {
    const fabric = fabricIn(call);
    const id = call.query['change'];
    if (!id) return live.of(fabric);
    const change = await changeOf(house.db, id);
    if (change.fabric !== fabric) throw notThere(`change ${id} of ${fabric}`);
    return live.ofChange(fabric, id, change.version);
  };
  return {
    'GET /api/fabrics/:name/live': liveIn,
    'POST /api/fabrics/:name/read': async (call) => {
      const fabric = fabricIn(call);
      let timer: NodeJS.Timeout | undefined;
      await Promise.race([
        Promise.all([
          reading.readNow(fabric),
          ...(call.query['change'] ? [reading.readForChange(call.query['change'])] : []),
        ]),
        new Promise((done) => (timer = setTimeout(done, READ_WAIT_MS))),
      ]).finally(() => clearTimeout(timer));
      return liveIn(call);
    },
    'POST /api/fabrics/:name/heard': (call) =>
      whereHeard(house, reading, fabricIn(call), (call.body as { what: string }).what),
    'POST /api/fabrics/:name/traffic': (call) =>
      trafficOf(house, reading, fabricIn(call), (call.body as { seat: string }).seat),
    'GET /api/fabrics/:name/causes': (call) => causePage(house.db, fabricIn(call), call.page),
    'POST /api/fabrics/:name/put-back': async (call) =>
      rollouts.answer(await rollouts.putBack(fabricIn(call), call.body as PutBackRequest, call.user.name)),
    'POST /api/fabrics/:name/adopt/preview': async (call) => {
      const { change, serials } = call.body as AdoptRequest;
      return answerOf(await adopted(fabricIn(call), change, serials));
    },
    'POST /api/fabrics/:name/adopt': async (call) => {
      const fabric = fabricIn(call);
      const { change, serials, title, reason, ticket } = call.body as AdoptRequest;
      if (change !== null && (await changeOf(house.db, change)).fabric !== fabric)
        throw notThere(`change ${change} of ${fabric}`);
      const outcome = await adopted(fabric, change, serials);
      if (outcome.edits.length === 0)
        throw refused([
          problem(
            'adopt',
            '/serials',
            `Nothing of this can be said as intent: ${outcome.left[0]?.why ?? 'only comments, order or spacing differ'}.`,
            'Put it back instead.',
          ),
        ]);
      const hand = handOf(call.user, call.fabric);
      const hosts = outcome.hosts.slice(0, 3).join(', ');
      const id =
        change ??
        (await changes.open(
          { fabric, title: title || `Adopt what was done by hand on ${hosts}`.slice(0, 80), reason, ticket },
          hand,
          outcome.edits,
        ));
      if (change !== null) await changes.addEdits(change, outcome.edits, hand);
      return { change: id, ...answerOf(outcome) };
    },

    'GET /api/day': ({ user }) => dayOf(house, live, user),
    'GET /api/here': ({ user, query }) => {
      const fabric = query['fabric'] ?? '';
      return Promise.resolve(sees(user, fabric) ? presence.at(fabric, user.name) : []);
    },
    'PUT /api/here': ({ user, caller, body }) => {
      const here = body as HereRequest;
      const session = caller?.session;
      if (session && (here.fabric === '' || sees(user, here.fabric))) presence.say(session, user, here);
      return Promise.resolve();
    },
  };
}
