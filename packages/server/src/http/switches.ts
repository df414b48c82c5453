import type { BenchDoor } from '../reach/benchDoor.ts';
import type { Reach } from '../reach/reach.ts';
import type { House } from '../services/house.ts';
import { sightOf, type HostKeysRequest, type SwitchPatch } from '@anthemion/contract';
import {
  acceptHostKeys,
  forgetSwitch,
  importSwitches,
  patchSwitch,
  readSwitch,
  releaseSwitch,
} from '../services/switches.ts';
import { switchPage } from '../store/switches.ts';
import { notThere } from '../trouble.ts';
import type { Handlers } from './routes.ts';

/** The inventory, and the bench where one is attached. */
export function switchHandlers(house: House, reach: Reach, bench: BenchDoor | null): Handlers {
  const door = (): BenchDoor => {
    if (!bench) throw notThere('bench beside this server');
    return bench;
  };
  return {
    'GET /api/switches': ({ page, user }) => switchPage(house.db, page, sightOf(user)),
    'POST /api/switches/import': async ({ body }) => ({
      imported: await importSwitches(house, (body as { csv: string }).csv),
    }),
    'POST /api/switches/:serial/read': async ({ params }) => ({
      identity: await readSwitch(house, reach, params['serial']!),
    }),
    'POST /api/switches/:serial/release': ({ params, body, user }) =>
      releaseSwitch(house, reach, params['serial']!, (body as { reason: string }).reason, user.name),
    'POST /api/switches/:serial/forget': ({ params, body, user }) =>
      forgetSwitch(house, params['serial']!, (body as { reason: string }).reason, user.name),
    'PATCH /api/switches/:serial': ({ params, body }) => patchSwitch(house, params['serial']!, body as SwitchPatch),
    'POST /api/switches/host-keys': ({ body }) => acceptHostKeys(house, (body as HostKeysRequest).accept),

    'GET /api/bench': () => (bench ? bench.fleet() : Promise.resolve({ switches: [], cables: [] })),
    'POST /api/bench/cables': async ({ body }) => {
      const { fabric, change } = body as { fabric: string; change: string | null };
      const { cables } = await house.compiler.run<'surroundings'>({ do: 'surroundings', fabric, change });
      await door().ask('PUT', '/cables', { cables });
      return { cabled: cables.length };
    },
    'POST /api/bench/faults': ({ body }) => door().ask('POST', '/faults', body),
    'POST /api/bench/pull': ({ body }) => door().ask('POST', '/pull', body),
    'POST /api/bench/hand-edit': ({ body }) => door().ask('POST', '/hand-edit', body),
  };
}
