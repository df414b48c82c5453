import { holds, sightOf, type FabricRequest, type TakeFileRequest, type User } from '@anthemion/contract';
import type { Changes, Hand } from '../services/changes.ts';
import { beginFabric, fabricsPage, removeFabric, returnTo, takeFile } from '../services/fabrics.ts';
import { find } from '../services/finding.ts';
import { today, type House } from '../services/house.ts';
import { revisionPage } from '../store/fabrics.ts';
import { sendZip } from './zip.ts';
import { fabricIn, type Call, type Handlers } from './routes.ts';

/** Who does something to a fabric (null = one that is only begun). */
export const handOf = (user: User, fabric: string | null): Hand => ({
  name: user.name,
  mayScript: holds(user, 'scripter', fabric),
});
/** The change of ?change=, or null for what is live. */
const changeIn = ({ query }: Call): string | null => query['change'] || null;

const momentsIn = (call: Call) => ({
  change: changeIn(call),
  left: call.query['left'] || 'live',
  right: call.query['right'] || 'running',
});

export function fabricHandlers(house: House, changes: Changes): Handlers {
  const { db, compiler } = house;
  return {
    'GET /api/fabrics': ({ page, user }) => fabricsPage(house, page, sightOf(user)),
    'GET /api/find': ({ query, user }) => find(house, query['q'] ?? '', query['near'] ?? '', sightOf(user)),
    'POST /api/fabrics': ({ body, user }) => beginFabric(house, body as FabricRequest, handOf(user, null)),
    'GET /api/fabrics/:name': (call) =>
      compiler.run<'fabric page'>({ do: 'fabric page', fabric: fabricIn(call), change: changeIn(call) }),
    'DELETE /api/fabrics/:name': (call) => removeFabric(house, fabricIn(call)),
    'GET /api/fabrics/:name/proof': (call) =>
      compiler.run<'live proof'>({
        do: 'live proof',
        fabric: fabricIn(call),
        change: null,
        today: today(house),
      }),
    'GET /api/fabrics/:name/ask': (call) =>
      compiler.run<'ask'>({
        do: 'ask',
        fabric: fabricIn(call),
        change: changeIn(call),
        question: call.query['question'] ?? '',
      }),
    'GET /api/fabrics/:name/routing': (call) =>
      compiler.run<'routing'>({
        do: 'routing',
        fabric: fabricIn(call),
        change: changeIn(call),
        of: call.query['of'] || null,
      }),
    'GET /api/fabrics/:name/outside': (call) =>
      compiler.run<'outside'>({ do: 'outside', fabric: fabricIn(call), change: changeIn(call) }),
    'GET /api/fabrics/:name/intent.yaml': async (call) => {
      const fabric = fabricIn(call);
      const text = await compiler.run<'intent file'>({ do: 'intent file', fabric, change: changeIn(call) });
      call.response.type('text/yaml').attachment(`${fabric}.yaml`).send(Buffer.from(text));
    },
    'GET /api/fabrics/:name/text/:seat': (call) =>
      compiler.run<'text page'>({
        do: 'text page',
        fabric: fabricIn(call),
        change: changeIn(call),
        seat: call.params['seat']!,
      }),
    'GET /api/fabrics/:name/between': (call) =>
      compiler.run<'between'>({ do: 'between', fabric: fabricIn(call), ...momentsIn(call) }),
    'GET /api/fabrics/:name/between/:seat': (call) => {
      const seat = call.params['seat']!;
      const other = call.query['with'] || seat;
      return compiler.run<'texts between'>({
        do: 'texts between',
        fabric: fabricIn(call),
        ...momentsIn(call),
        seat,
        with: other,
      });
    },
    'GET /api/fabrics/:name/texts.zip': async (call) => {
      const fabric = fabricIn(call);
      const moment = call.query['at'] || 'live';
      const files = await compiler.run<'texts of'>({ do: 'texts of', fabric, moment });
      sendZip(call.response, `${fabric}-${moment}`, files, house.now());
    },
    'GET /api/fabrics/:name/touched': (call) =>
      compiler.run<'touched'>({
        do: 'touched',
        fabric: fabricIn(call),
        change: changeIn(call),
        at: call.query['at'] ?? '',
      }),
    'GET /api/fabrics/:name/revisions': (call) => revisionPage(db, fabricIn(call), call.page),
    'POST /api/fabrics/:name/intent': (call) =>
      takeFile(house, changes, fabricIn(call), call.body as TakeFileRequest, handOf(call.user, call.fabric)),
    'POST /api/fabrics/:name/return': async (call) => ({
      change: await returnTo(
        house,
        changes,
        fabricIn(call),
        (call.body as { revision: number }).revision,
        handOf(call.user, call.fabric),
      ),
    }),
  };
}
