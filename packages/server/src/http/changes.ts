import { sightOf, type ChangeRequest, type ChangeTitles } from '@anthemion/contract';
import type { Edit } from '@anthemion/core';
import { approve, askApproval } from '../services/approving.ts';
import type { Rehearsals } from '../jobs/rehearsals.ts';
import type { Changes } from '../services/changes.ts';
import type { House } from '../services/house.ts';
import { handOf } from './fabrics.ts';
import { seen, type Call, type Handlers } from './routes.ts';

export function changeHandlers(house: House, changes: Changes, rehearsals: Rehearsals): Handlers {
  /** Does something to the change of the path and answers with the change. */
  const after = (work: (id: string, call: Call) => Promise<void>) => async (call: Call) => {
    const id = call.params['id']!;
    await work(id, call);
    return changes.answer(id);
  };
  const position = ({ params }: Call): number => Number(params['position']);
  return {
    'GET /api/changes': ({ page, user }) => changes.page(page, sightOf(user)),
    'POST /api/changes': async ({ body, user, fabric }) =>
      changes.answer(await changes.open(body as ChangeRequest, handOf(user, fabric))),
    'GET /api/changes/:id': ({ params }) => changes.answer(params['id']!),
    'PATCH /api/changes/:id': after((id, call) =>
      changes.retitle(id, call.body as ChangeTitles, handOf(call.user, call.fabric), seen(call)),
    ),
    'POST /api/changes/:id/edits': after((id, call) =>
      changes.addEdits(id, (call.body as { edits: Edit[] }).edits, handOf(call.user, call.fabric), call.version),
    ),
    'DELETE /api/changes/:id/edits/:position': after((id, call) =>
      changes.undoEdit(id, position(call), handOf(call.user, call.fabric), seen(call)),
    ),
    'POST /api/changes/:id/edits/:position/keep': after((id, call) =>
      changes.keepEdit(id, position(call), handOf(call.user, call.fabric), seen(call)),
    ),
    'POST /api/changes/:id/prove': after((id, call) => changes.prove(id, call.version)),
    'POST /api/changes/:id/approve': after((id, call) =>
      approve(house, id, call.user.name, (call.body as { note: string }).note, seen(call)),
    ),
    'POST /api/changes/:id/ask': after((id, call) => askApproval(house, id, call.user.name, seen(call))),
    'POST /api/changes/:id/rehearsal': ({ params, user }) => rehearsals.start(params['id']!, user.name),
    'GET /api/changes/:id/rehearsal': ({ params }) => rehearsals.answer(params['id']!),
    'GET /api/changes/:id/clashes': (call) =>
      house.compiler.run<'clashes'>({ do: 'clashes', fabric: call.fabric!, change: call.params['id']! }),
    'POST /api/changes/:id/withdraw': after((id, call) => changes.withdraw(id, seen(call))),
  };
}
