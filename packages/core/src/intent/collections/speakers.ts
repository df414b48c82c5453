import { parseAddress, formatAddress } from '../../numbers/address.ts';
import { speakersKey, type KnownSpeaker, type NetworkSpeakers } from '../intent.ts';
import { policyKey } from '../policies.ts';
import { speakersSchema } from '../schemas/objects.ts';
import { listOf, whole, words } from './collection.ts';
import { onOff, prefixes } from './told.ts';

/** `node-1 10.40.0.11, node-2 10.40.0.12`. */
export const knownText = (known: readonly KnownSpeaker[] = []): string =>
  known.map((k) => `${k.server} ${k.address}`).join(', ');
/** Reads what `knownText` writes; between two there may also be a line’s end. Null = it is not written so. */
export function readKnown(text: string): readonly KnownSpeaker[] | undefined | null {
  const said = text.split(/[,;\n]/).flatMap((t) => (t.trim() === '' ? [] : [t.trim().split(/\s+/)]));
  if (said.length === 0) return undefined;
  const known = said.flatMap(([server, address, ...more]) => {
    const parsed = address === undefined ? null : parseAddress(address);
    return server === undefined || parsed === null || more.length > 0
      ? []
      : [{ server, address: formatAddress(parsed) }];
  });
  return known.length === said.length ? known : null;
}

/** Servers that speak BGP to the gateway of their network, by network and range. */
export const speakers = listOf('speakers', speakersKey, {
  kind: 'speakers',
  word: 'BGP servers',
  schema: speakersSchema,
  lately: true,
  named: (key, s) => (s ? `BGP servers ${s.from} of network ${s.network}` : `BGP servers ${key.replace('/', ' ')}`),
  freeing: 'Change what is said of its servers that speak BGP, or take it away, first.',
  fields: [
    words<NetworkSpeakers, 'network'>('network', 'network'),
    words<NetworkSpeakers, 'from'>('from', 'who may call'),
    whole<NetworkSpeakers, 'asn'>('asn', 'AS number'),
    prefixes('takes', 'takes from them', 'nothing', []),
    prefixes('tells', 'tells them', 'nothing', []),
    {
      key: 'known',
      label: 'known',
      empty: 'nobody',
      value: (s) => s.known,
      text: (s) => knownText(s.known),
      read: readKnown,
      form: 'Write server and address, and a comma before the next.',
    },
    whole<NetworkSpeakers, 'limit'>('limit', 'most prefixes', 'no limit'),
    words<NetworkSpeakers, 'password'>('password', 'password', 'none'),
    onOff('bfd', 'BFD'),
    onOff('originate', 'default route told'),
    whole<NetworkSpeakers, 'hold'>('hold', 'hold time', 'default'),
    onOff('closed', 'closed on purpose'),
    words<NetworkSpeakers, 'mapIn'>('mapIn', 'map in', 'none'),
    words<NetworkSpeakers, 'mapOut'>('mapOut', 'map out', 'none'),
  ],
  refers: (s) => [
    { to: `network:${s.network}`, ends: 'goes' },
    ...[s.mapIn, s.mapOut].flatMap((name) =>
      name === undefined ? [] : ({ to: `policy:${policyKey({ is: 'route-map', name })}`, ends: 'holds' } as const),
    ),
    ...(s.password === undefined ? [] : [{ to: `secret:${s.password}`, ends: 'holds' } as const]),
  ],
});
