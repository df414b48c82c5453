import { speakersKey, type NetworkSpeakers } from '../intent/intent.ts';
import { columnsOf, type Table } from './table.ts';

/** Network, range and AS number, what may be told, and as far as said what is told them, who is known, and the words of their sessions. */
export const speakersTable: Table<'speakers'> = {
  kind: 'speakers',
  columns: columnsOf('speakers', {
    network: {},
    from: { called: ['range'] },
    asn: { called: ['AS', 'ASN'] },
    takes: { called: ['takes'] },
    tells: { called: ['tells'] },
    known: { called: ['servers'] },
    limit: { called: ['limit'] },
    password: { called: ['secret'] },
    bfd: {},
    originate: {},
    hold: {},
    closed: {},
    mapIn: { called: ['in'] },
    mapOut: { called: ['out'] },
  }),
  reader: () => (row) => {
    const { network, from, asn, takes = [], tells = [], ...more } = row as Partial<NetworkSpeakers>;
    if (network === undefined || from === undefined || asn === undefined)
      return 'Write the network, who may call, and their AS number.';
    const item: NetworkSpeakers = { network, from, asn, takes, tells, ...more };
    return { key: speakersKey(item), item };
  },
};
