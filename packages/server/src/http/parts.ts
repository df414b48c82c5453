import {
  checkRackPattern,
  problem,
  checkFabricPattern,
  type FabricPattern,
  type Finding,
  type Pool,
  type RackPattern,
  type SwitchModel,
} from '@anthemion/core';
import { sightOf } from '@anthemion/contract';
import type { House } from '../services/house.ts';
import { keepModel, removePart } from '../services/parts.ts';
import { deletePool, makePool, poolsWithUse, putPool } from '../services/pools.ts';
import { ledgerPage } from '../store/ledger.ts';
import { allParts, putPart } from '../store/parts.ts';
import { refused } from '../trouble.ts';
import type { Handlers } from './routes.ts';

const named = (params: Readonly<Record<string, string>>, part: { readonly name: string }): void => {
  if (params['name'] !== part.name)
    throw refused([
      problem('name-same', '/name', 'The name in the path and in the body differ.', `Use ${params['name']}.`),
    ]);
};
const clean = (findings: readonly Finding[]): void => {
  if (findings.length > 0) throw refused(findings);
};

/** Parts that patterns are made of, and pools with their ledger. */
export function partsHandlers(house: House): Handlers {
  const { db, events } = house;
  return {
    'GET /api/parts': () => allParts(db),
    'PUT /api/models/:name': async ({ params, body }) => {
      const model = body as SwitchModel;
      named(params, model);
      await keepModel(house, model);
    },
    'DELETE /api/models/:name': ({ params }) => removePart(house, 'model', params['name']!),
    'DELETE /api/rack-patterns/:name': ({ params }) => removePart(house, 'rack', params['name']!),
    'DELETE /api/fabric-patterns/:name': ({ params }) => removePart(house, 'fabric', params['name']!),
    'PUT /api/rack-patterns/:name': async ({ params, body }) => {
      const rack = body as RackPattern;
      named(params, rack);
      clean(checkRackPattern(rack, (await allParts(db)).models));
      await putPart(db, 'rack', rack);
      events.tell('parts', rack.name);
    },
    'PUT /api/fabric-patterns/:name': async ({ params, body }) => {
      const pattern = body as FabricPattern;
      named(params, pattern);
      clean(checkFabricPattern(pattern, await allParts(db)));
      await putPart(db, 'fabric', pattern);
      events.tell('parts', pattern.name);
    },

    'GET /api/pools': () => poolsWithUse(house),
    'POST /api/pools': ({ body }) => makePool(house, body as Pool),
    'PUT /api/pools/:name': async ({ params, body }) => {
      named(params, body as Pool);
      await putPool(house, body as Pool);
    },
    'DELETE /api/pools/:name': ({ params }) => deletePool(house, params['name']!),
    'GET /api/ledger': ({ query, page, user }) =>
      ledgerPage(db, page, { pool: query['pool'], fabric: query['fabric'] }, sightOf(user)),
  };
}
