import { ports } from '../collections/tenants.ts';
import { serverPortKey, type ServerPort } from '../intent.ts';
import { serverPortSchema } from '../schemas/objects.ts';
import { checkServerPort } from './checkTenants.ts';
import { editFields, unless, type EditKindOf } from './edit.ts';

export interface ConnectServer {
  readonly kind: 'connectServer';
  readonly port: ServerPort;
}

export const connectServer: EditKindOf<ConnectServer> = {
  kind: 'connectServer',
  schema: editFields('connectServer', { port: serverPortSchema }),
  apply: (intent, { port }) =>
    unless(checkServerPort(intent, port), intent, () => ports.put(intent, serverPortKey(port), port)),
  sentence: ({ port }) =>
    `Connect ${port.server} to rack ${port.rack} ${port.port}${port.side === 'both' ? '' : ` (${port.side})`}${port.shut ? ', shut' : ''}`,
  subjects: ({ port }) => [`port:${serverPortKey(port)}`],
  makes: { of: 'port', add: (port) => ({ kind: 'connectServer', port }) },
};
