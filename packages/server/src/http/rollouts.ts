import type { RolloutRequest } from '@anthemion/contract';
import { layOut } from '@anthemion/core';
import type { ServerContext } from '../context.ts';
import { changeState, liveState } from '../changes/fabricState.ts';
import { notThere } from './problem.ts';
import type { Handlers } from './routes.ts';

const HEARTBEAT_MS = 15_000;

export function rolloutHandlers({ db, runner, bench }: ServerContext): Handlers {
  const door = () => {
    if (!bench) throw notThere('bench beside this server');
    return bench;
  };
  return {
    'GET /api/rollouts': () => runner.all(),
    'POST /api/rollouts': async ({ body, user }) =>
      runner.answer(await runner.begin(body as RolloutRequest, user.name)),
    'GET /api/rollouts/:id': ({ params }) => runner.answer(params['id']!),
    'GET /api/rollouts/:id/log': ({ params, query }) => runner.logOf(params['id']!, query['host']),
    'GET /api/rollouts/:id/events': async ({ params, request, response }) => {
      const id = params['id']!;
      await runner.answer(id);
      response.set({ 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' });
      response.flushHeaders();
      let waiting = false;
      const tell = (): void => {
        if (waiting) return;
        waiting = true;
        // Many steps in one moment become one message.
        setTimeout(() => {
          waiting = false;
          void runner.answer(id).then((a) => response.write(`data: ${JSON.stringify(a)}\n\n`));
        }, 60);
      };
      tell();
      const off = runner.watch(id, tell);
      const beat = setInterval(() => response.write(': here\n\n'), HEARTBEAT_MS);
      request.on('close', () => {
        off();
        clearInterval(beat);
      });
    },
    'POST /api/rollouts/:id/pause': async ({ params }) => {
      await runner.pause(params['id']!);
      return runner.answer(params['id']!);
    },
    'POST /api/rollouts/:id/resume': async ({ params }) => {
      await runner.resume(params['id']!);
      return runner.answer(params['id']!);
    },
    'POST /api/rollouts/:id/retry': async ({ params }) => {
      await runner.retry(params['id']!);
      return runner.answer(params['id']!);
    },
    'POST /api/rollouts/:id/undo': async ({ params, user }) =>
      runner.answer(await runner.undo(params['id']!, user.name)),

    'GET /api/bench': async () => (bench ? bench.fleet() : { switches: [], cables: [] }),
    'POST /api/bench/cables': async ({ body }) => {
      const { fabric, change } = body as { fabric: string; change: string | null };
      const { intent } = change === null ? await liveState(db, fabric) : await changeState(db, change);
      const cables = layOut(intent).links.flatMap((l) => {
        const [a, b] = [intent.seating[l.leaf], intent.seating[l.spine]];
        return a !== undefined && b !== undefined
          ? [{ a: { serial: a, port: l.leafPort }, b: { serial: b, port: l.spinePort } }]
          : [];
      });
      await door().ask('PUT', '/cables', { cables });
      return { cabled: cables.length };
    },
    'POST /api/bench/faults': ({ body }) => door().ask('POST', '/faults', body),
    'POST /api/bench/pull': ({ body }) => door().ask('POST', '/pull', body),
    'POST /api/bench/hand-edit': ({ body }) => door().ask('POST', '/hand-edit', body),
  };
}
