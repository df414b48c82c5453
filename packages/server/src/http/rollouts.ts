import {
  sees,
  sightOf,
  type CatchUpRequest,
  type EventMessage,
  type EventTopic,
  type RolloutRequest,
} from '@anthemion/contract';
import type { House } from '../services/house.ts';
import type { Rollouts } from '../services/rollouts.ts';
import type { Sessions } from '../services/sessions.ts';
import { openStream } from './events.ts';
import type { Handlers } from './routes.ts';

/** Topics whose ids are names of fabrics. */
const OF_FABRICS: ReadonlySet<string> = new Set<EventTopic>(['fabrics', 'live', 'here']);
/** Many steps in one moment become one message. */
const GATHER_MS = 60;

export function rolloutHandlers(house: House, rollouts: Rollouts, sessions: Sessions): Handlers {
  return {
    'GET /api/rollouts': ({ page, user }) => rollouts.page(page, sightOf(user)),
    'POST /api/rollouts': async ({ body, user, version }) =>
      rollouts.answer(await rollouts.begin(body as RolloutRequest, user.name, version)),
    'POST /api/fabrics/:name/catch-up': async ({ params, body, user }) =>
      rollouts.answer(await rollouts.catchUp(params['name']!, body as CatchUpRequest, user.name)),
    'GET /api/rollouts/:id': ({ params }) => rollouts.answer(params['id']!),
    'GET /api/rollouts/:id/log': ({ params, query, page }) => rollouts.log(params['id']!, query['host'], page),
    'GET /api/rollouts/:id/events': async (call) => {
      const id = call.params['id']!;
      await rollouts.answer(id);
      const stream = openStream(call, sessions);
      let waiting: NodeJS.Timeout | undefined;
      const tell = (): void => {
        waiting ??= setTimeout(() => {
          waiting = undefined;
          rollouts.answer(id).then(stream.send, (error: unknown) => {
            house.log.warn({ err: error, rollout: id }, 'a message could not be made; the next one is');
          });
        }, GATHER_MS);
      };
      tell();
      stream.onEnd(house.events.listen((m) => m.topic === 'rollouts' && m.id === id && tell()));
      stream.onEnd(() => clearTimeout(waiting));
    },
    'POST /api/rollouts/:id/pause': async ({ params, user }) => {
      await rollouts.pause(params['id']!, user.name);
      return rollouts.answer(params['id']!);
    },
    'POST /api/rollouts/:id/resume': async ({ params, user }) => {
      await rollouts.resume(params['id']!, user.name);
      return rollouts.answer(params['id']!);
    },
    'POST /api/rollouts/:id/retry': async ({ params, user }) => {
      await rollouts.retry(params['id']!, user.name);
      return rollouts.answer(params['id']!);
    },
    'POST /api/rollouts/:id/undo': async ({ params, user }) =>
      rollouts.answer(await rollouts.undo(params['id']!, user.name)),
    'POST /api/rollouts/:id/close': async ({ params, body, user }) => {
      await rollouts.close(params['id']!, (body as { reason: string }).reason, user.name);
      return rollouts.answer(params['id']!);
    },
    'GET /api/events': (call) => {
      const stream = openStream(call, sessions);
      const all = sightOf(call.user) === null;
      // Ids of what somebody does not see are not for them; that a list has changed is.
      const send = (message: EventMessage): void => {
        const of = message.fabric ?? (OF_FABRICS.has(message.topic) ? message.id : undefined);
        stream.send(all || (of !== undefined && sees(call.user, of)) ? message : { topic: message.topic });
      };
      // What was told while the stream was on its way: its page may have asked before.
      const after = Number(call.query['after'] ?? Number.NaN);
      if (!Number.isNaN(after)) house.events.after(after).forEach(send);
      stream.onEnd(house.events.listen(send));
      return Promise.resolve();
    },
  };
}
