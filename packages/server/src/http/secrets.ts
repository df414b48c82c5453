import type { SecretRequest, SwitchAccountRequest } from '@anthemion/contract';
import type { House } from '../services/house.ts';
import { forgetSecret, listSecrets, setSecret } from '../services/namedSecrets.ts';
import { deleteSwitchAccount, listSwitchAccounts, setSwitchAccount } from '../services/switchAccounts.ts';
import type { Sealing } from '../store/sealing.ts';
import type { Reading } from '../watch/reading.ts';
import type { Handlers } from './routes.ts';

/** What is kept sealed: accounts used on switches, and secrets of configurations. Values come in and never go out. */
export function secretHandlers(house: House, sealing: Sealing, reading: Reading): Handlers {
  return {
    'GET /api/switch-accounts': () => listSwitchAccounts(house, sealing),
    'PUT /api/switch-accounts/:name': async ({ params, body, user }) => {
      await setSwitchAccount(house, sealing, params['name']!, body as SwitchAccountRequest, user.name);
      await reading.mended();
    },
    'DELETE /api/switch-accounts/:name': async ({ params }) => {
      await deleteSwitchAccount(house, params['name']!);
      await reading.mended();
    },
    'GET /api/secrets': () => listSecrets(house),
    'PUT /api/secrets/:name': ({ params, body, user }) =>
      setSecret(house, sealing, params['name']!, body as SecretRequest, user.name),
    'DELETE /api/secrets/:name': ({ params }) => forgetSecret(house, params['name']!),
  };
}
