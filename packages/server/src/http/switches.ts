import type { BenchDoor } from '../reach/benchDoor.ts';
import type { Reach } from '../reach/reach.ts';
import type { House } from '../services/house.ts';
import type { Reading } from '../watch/reading.ts';
import { sightOf, type HostKeysRequest, type SwitchPatch, type VersionRequest } from '@anthemion/contract';
import { backupOf, backupsOf } from '../services/backups.ts';
import { acceptVersion } from '../services/softwareVersions.ts';
import {
  acceptHostKeys,
  forgetSwitch,
  importSwitches,
  patchSwitch,
  readSwitch,
  removeSwitch,
  releaseSwitch,
  takeBackIn,
  takeOut,
} from '../services/switches.ts';
import { switchPage } from '../store/switches.ts';
import { notThere } from '../trouble.ts';
import type { Handlers } from './routes.ts';
import { sendZip } from './zip.ts';

/** The inventory, and the bench where one is attached. */
export function switchHandlers(house: House, reach: Reach, reading: Reading, bench: BenchDoor | null): Handlers {
  const door = (): BenchDoor => {
    if (!bench) throw notThere('bench beside this server');
    return bench;
  };
  const atBench = async (path: string, body: unknown): Promise<unknown> => {
    const done = await door().ask('POST', path, body);
    house.events.tell('bench');
    return done;
  };
  return {
    'GET /api/switches': ({ page, user }) => switchPage(house.db, page, sightOf(user)),
    'POST /api/switches/import': async ({ body }) => ({
      imported: await importSwitches(house, (body as { csv: string }).csv),
    }),
    'GET /api/switches/:serial/backups': ({ params, page, user }) =>
      backupsOf(house.db, params['serial']!, page, sightOf(user)),
    'GET /api/switches/:serial/backups/:id': ({ params, user }) => backupOf(house.db, params, sightOf(user)),
    'GET /api/switches/:serial/backups/:id/files.zip': async ({ params, user, response }) => {
      const { serial, host, id, files } = await backupOf(house.db, params, sightOf(user));
      const folder = host === '' ? serial : host;
      const inFolder = new Map(Object.entries(files).map(([name, text]) => [`${folder}/${name}`, text]));
      sendZip(response, `${folder}-${id}`, inFolder, house.now());
    },
    'POST /api/switches/:serial/read': async ({ params }) => {
      const serial = params['serial']!;
      const identity = await readSwitch(house, reach, serial);
      await reading.readOneNow(serial);
      return { identity };
    },
    'POST /api/switches/:serial/out-of-service': ({ params, body, user }) =>
      takeOut(house, params['serial']!, (body as { reason: string }).reason, user.name),
    'POST /api/switches/:serial/in-service': async ({ params }) => {
      await takeBackIn(house, params['serial']!);
      await reading.mended(params['serial']!);
    },
    'POST /api/switches/:serial/release': ({ params, body, user }) =>
      releaseSwitch(house, reach, params['serial']!, (body as { reason: string }).reason, user.name),
    'POST /api/switches/:serial/accept-version': ({ params, body, user }) =>
      acceptVersion(house, params['serial']!, body as VersionRequest, user.name),
    'POST /api/switches/:serial/forget': ({ params, body, user }) =>
      forgetSwitch(house, params['serial']!, (body as { reason: string }).reason, user.name),
    'DELETE /api/switches/:serial': ({ params }) => removeSwitch(house, reach, params['serial']!),
    'PATCH /api/switches/:serial': async ({ params, body }) => {
      await patchSwitch(house, params['serial']!, body as SwitchPatch);
      await reading.mended(params['serial']!);
    },
    'POST /api/switches/host-keys': async ({ body }) => {
      const { accept } = body as HostKeysRequest;
      const done = await acceptHostKeys(house, accept);
      for (const { serial } of accept) await reading.mended(serial);
      return done;
    },

    'GET /api/bench': () => (bench ? bench.fleet() : Promise.resolve({ switches: [], cables: [] })),
    'POST /api/bench/cables': async ({ body }) => {
      const { fabric, change } = body as { fabric: string; change: string | null };
      const { cables, routers } = await house.compiler.run<'surroundings'>({ do: 'surroundings', fabric, change });
      await door().ask('PUT', '/cables', { cables, routers });
      house.events.tell('bench');
      return { cabled: cables.length };
    },
    'POST /api/bench/faults': ({ body }) => atBench('/faults', body),
    'POST /api/bench/pull': ({ body }) => atBench('/pull', body),
    'POST /api/bench/swap': ({ body }) => atBench('/swap', body),
    'POST /api/bench/hand-edit': ({ body }) => atBench('/hand-edit', body),
  };
}
