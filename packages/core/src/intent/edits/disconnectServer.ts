import { objectOf } from '../collections/index.ts';
import { ports } from '../collections/tenants.ts';
import { serverPortKey, type ServerPort } from '../intent.ts';
import { portSchema, sideSchema } from '../schemas/objects.ts';
import { whole } from '../schemas/words.ts';
import { done, editFields, missing, refuse, type EditKindOf } from './edit.ts';

export interface DisconnectServer {
  readonly kind: 'disconnectServer';
  readonly rack: number;
  readonly side: ServerPort['side'];
  readonly port: string;
}

export const disconnectServer: EditKindOf<DisconnectServer> = {
  kind: 'disconnectServer',
  schema: editFields('disconnectServer', {
    rack: whole('The rack', 1, 9999).required('the rack is missing'),
    side: sideSchema,
    port: portSchema,
  }),
  apply: (intent, edit) => {
    const key = serverPortKey(edit);
    return objectOf(intent, 'port', key)
      ? done(ports.take(intent, key))
      : refuse(intent, missing('server on port', edit.port));
  },
  sentence: (edit, before) => {
    const server = before && objectOf(before, 'port', serverPortKey(edit))?.server;
    return server
      ? `Free port ${edit.port} of rack ${edit.rack} from ${server}`
      : `Free port ${edit.port} of rack ${edit.rack}`;
  },
  subjects: (edit) => [`port:${serverPortKey(edit)}`],
  makes: { of: 'port', remove: (_key, { rack, side, port }) => ({ kind: 'disconnectServer', rack, side, port }) },
};
