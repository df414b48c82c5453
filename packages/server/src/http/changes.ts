import type { ChangeRequest, ChangeTitles } from '@anthemion/contract';
import type { Edit } from '@anthemion/core';
import type { Request } from 'express';
import type { ServerContext } from '../context.ts';
import type { Changes } from '../changes/changes.ts';
import { readSettings } from './parts.ts';
import { HttpProblem } from './problem.ts';
import type { Handlers } from './routes.ts';

/** Version in If-Match, where the caller gives one. */
function ifMatch(request: Request): number | undefined {
  const given = request.get('if-match');
  if (given === undefined) return undefined;
  const m = /^"?(\d+)"?$/.exec(given);
  if (!m) throw new HttpProblem(400, 'If-Match takes the version of the change, such as "3".');
  return Number(m[1]);
}

export function changeHandlers({ db }: ServerContext, changes: Changes): Handlers {
  return {
    'GET /api/changes': () => changes.summaries(),
    'POST /api/changes': async ({ body, user }) => changes.answer(await changes.open(body as ChangeRequest, user.name)),
    'GET /api/changes/:id': ({ params }) => changes.answer(params['id']!),
    'PATCH /api/changes/:id': async ({ params, body }) => {
      await changes.retitle(params['id']!, body as ChangeTitles);
      return changes.answer(params['id']!);
    },
    'POST /api/changes/:id/edits': async ({ params, body, user, request }) => {
      await changes.addEdits(params['id']!, (body as { edits: Edit[] }).edits, user.name, ifMatch(request));
      return changes.answer(params['id']!);
    },
    'DELETE /api/changes/:id/edits/:position': async ({ params, request }) => {
      await changes.undoEdit(params['id']!, Number(params['position']), ifMatch(request));
      return changes.answer(params['id']!);
    },
    'POST /api/changes/:id/edits/:position/keep': async ({ params }) => {
      await changes.keepEdit(params['id']!, Number(params['position']));
      return changes.answer(params['id']!);
    },
    'POST /api/changes/:id/prove': async ({ params }) => {
      await changes.prove(params['id']!);
      return changes.answer(params['id']!);
    },
    'POST /api/changes/:id/approve': async ({ params, body, user }) => {
      await changes.approve(
        params['id']!,
        user.name,
        (body as { note: string }).note,
        (await readSettings(db)).secondPerson,
      );
      return changes.answer(params['id']!);
    },
    'POST /api/changes/:id/withdraw': async ({ params }) => {
      await changes.withdraw(params['id']!);
      return changes.answer(params['id']!);
    },
  };
}
