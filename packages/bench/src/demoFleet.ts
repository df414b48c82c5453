import {
  FABRIC_PATTERNS,
  layEdits,
  cablesBySerial,
  layOut,
  serialFor,
  skerryIntent,
  applyEdits,
  emptyIntent,
  type FabricIntent,
} from '@anthemion/core';
import type { Fleet, FleetCable } from './fleet.ts';

/** The cables a fabric's plan asks for, between the switches that sit in its seats. */
export function cablesFor(intent: FabricIntent): FleetCable[] {
  return cablesBySerial(layOut(intent), intent.seating).map((cable) => ({ ...cable, pulled: false }));
}

/** Skerry's fourteen switches, cabled as planned, and six spares for a fabric of one's own. */
export function demoFleet(password: string): Fleet {
  const skerry = skerryIntent();
  const spare = applyEdits(emptyIntent('holm', 'ho'), layEdits(FABRIC_PATTERNS[1]!)).intent;
  const switches = [
    ...layOut(skerry).seats.map((s) => ({ serial: skerry.seating[s.id]!, model: s.model })),
    ...layOut(spare).seats.map((s, i) => ({ serial: serialFor('ho', i, s.model), model: s.model })),
  ];
  return {
    username: 'anthemion',
    password,
    switches: switches.map((s) => ({ ...s, port: 0, faults: [] })),
    cables: cablesFor(skerry),
  };
}
