import { naturally } from '../../numbers/order.ts';
import type { Subject } from '../../subject.ts';
import type { FabricIntent, Rack } from '../intent.ts';
import { rackSchema, serialText } from '../schemas/objects.ts';
import { rackOfSeat } from '../seatIds.ts';
import { listOf, recordOf, whole, words, type Collection } from './collection.ts';

export const racks = listOf('racks', (r) => String(r.number), {
  kind: 'rack',
  word: 'rack',
  schema: rackSchema,
  freeing: 'Remove that rack first.',
  fields: [
    whole<Rack, 'number'>('number', 'rack'),
    words<Rack, 'pattern'>('pattern', 'rack pattern'),
    whole<Rack, 'slot'>('slot', 'position on the spines'),
    whole<Rack, 'pod'>('pod', 'pod'),
    words<Rack, 'place'>('place', 'place'),
  ],
  refers: (r) => [{ to: `rackPattern:${r.pattern}`, ends: 'holds' }],
});

const seats = recordOf<string, 'seat'>('seating', (i) => i.seating, putSerial, {
  kind: 'seat',
  word: 'seat',
  schema: serialText,
  freeing: 'Leave that seat empty first.',
  labels: {},
  named: (key) => `seat ${key}`,
  fields: [{ key: '', label: 'switch', value: (s) => s, text: (s) => s }],
  refers: (_serial, seat) => {
    const rack = rackOfSeat(seat);
    return rack === null ? [] : [{ to: `rack:${rack}` as Subject, ends: 'goes' }];
  },
});
/** Switches in seats: serial by seat. */
export const seating: Collection<string, 'seat'> = {
  ...seats,
  take: (intent, seat) => {
    const { [seat]: _gone, ...left } = intent.seating;
    return { ...intent, seating: left };
  },
};

function putSerial(intent: FabricIntent, seat: string, serial: string): FabricIntent {
  const all = Object.entries({ ...intent.seating, [seat]: serial });
  return { ...intent, seating: Object.fromEntries(all.sort(([a], [b]) => naturally(a, b))) };
}
