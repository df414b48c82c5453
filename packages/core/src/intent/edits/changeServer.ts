import { sameContent } from '../../numbers/content.ts';
import { objectOf } from '../collections/index.ts';
import { changeSentence } from '../collections/sentences.ts';
import { ports } from '../collections/tenants.ts';
import { serverPortKey, type ServerPort } from '../intent.ts';
import { serverPortSchema } from '../schemas/objects.ts';
import { checkServerPort } from './checkTenants.ts';
import { editFields, missing, refuse, unless, type EditKindOf } from './edit.ts';

/** The server on a port as a whole; it stays on that port. */
export interface ChangeServer {
  readonly kind: 'changeServer';
  readonly port: ServerPort;
}

/** What is done, where it is one thing alone that has words of its own: shut, opened, another server. */
function alone(was: ServerPort, is: ServerPort): string | null {
  const [{ shut: before = false, server, ...rest }, { shut = false, server: next, ...same }] = [was, is];
  if (!sameContent(rest, same)) return null;
  const port = `port ${is.port} of rack ${is.rack}`;
  if (shut !== before && server === next) return `${shut ? 'Shut' : 'Open'} ${port}, where ${server} is`;
  return shut === before && server !== next ? `Put ${next} on ${port} in place of ${server}` : null;
}

export const changeServer: EditKindOf<ChangeServer> = {
  kind: 'changeServer',
  schema: editFields('changeServer', { port: serverPortSchema }),
  apply: (intent, { port }) => {
    const key = serverPortKey(port);
    return objectOf(intent, 'port', key)
      ? unless(checkServerPort(ports.take(intent, key), port), intent, () => ports.put(intent, key, port))
      : refuse(intent, missing('server on port', port.port));
  },
  sentence: ({ port }, before) => {
    const key = serverPortKey(port);
    const was = before && objectOf(before, 'port', key);
    return (was ? alone(was, port) : null) ?? changeSentence(before, 'port', key, port);
  },
  subjects: ({ port }) => [`port:${serverPortKey(port)}`],
  makes: {
    of: 'port',
    // Other networks may wait for one another, and a name for another port: such a port is freed first and connected last.
    change: (is, was) => {
      const [{ shut: _, speed: __, fec: ___, ...rest }, { shut: _s, speed: _p, fec: _f, ...before }] = [is, was];
      return sameContent(rest, before) ? { kind: 'changeServer', port: is } : null;
    },
  },
};
