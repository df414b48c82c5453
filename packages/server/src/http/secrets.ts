import type { SecretRequest, SwitchAccountRequest } from '@anthemion/contract';
import type { House } from '../services/house.ts';
import { forgetSecret, listSecrets, setSecret } from '../services/namedSecrets.ts';
import { deleteSwitchAccount, listSwitchAccounts, setSwitchAccount } from '../services/switchAccounts.ts';
import type { Sealing } from '../store/sealing.ts';
import type { Handlers } from './routes.ts';

/** What is kept sealed: accounts used on switches, and secrets of configurations. Values come in and never go out. */
export function secretHandlers(house: House, sealing: Sealing): Handlers {
  return {
    'GET /api/switch-accounts': () => listSwitchAccounts(house, sealing),
    'PUT /api/switch-accounts/:name': ({ params, body, user }) =>
      setSwitchAccount(house, sealing, params['name']!, body as SwitchAccountRequest, user.name),
    'DELETE /api/switch-accounts/:name': ({ params }) => deleteSwitchAccount(house, params['name']!),
    'GET /api/secrets': () => listSecrets(house),
    'PUT /api/secrets/:name': ({ params, body, user }) =>
      setSecret(house, sealing, params['name']!, body as SecretRequest, user.name),
    'DELETE /api/secrets/:name': ({ params }) => forgetSecret(house, params['name']!),
  };
}
