import {
  cablesBySerial,
  DEMO_FABRICS,
  demoIntent,
  layOut,
  serialFor,
  type DemoFabric,
  type FabricIntent,
} from '@anthemion/core';
import type { Fleet, FleetCable } from './fleet.ts';

/** Switches for fabrics of one's own. */
const SPARES = ['TV-S32C', 'TV-S32C', 'TV-L48F', 'TV-L48F', 'TV-L48F', 'TV-L48F'];

/** The cables a fabric's plan asks for, between the switches that sit in its seats. */
export function cablesFor(intent: FabricIntent): FleetCable[] {
  return cablesBySerial(intent, layOut(intent)).map((cable) => ({ ...cable, pulled: false }));
}

/** The switches of fabrics of the demo, cabled as planned, and six spares. */
export function demoFleet(password: string, fabrics: readonly DemoFabric[] = DEMO_FABRICS.slice(0, 1)): Fleet {
  const intents = fabrics.map(demoIntent);
  const switches = [
    ...intents.flatMap((i) => layOut(i).seats.map((s) => ({ serial: i.seating[s.id]!, model: s.model }))),
    ...SPARES.map((model, i) => ({ serial: serialFor('st', i, model), model })),
  ];
  return {
    username: 'anthemion',
    password,
    switches: switches.map((s) => ({ ...s, port: 0, faults: [] })),
    cables: intents.flatMap(cablesFor),
  };
}
