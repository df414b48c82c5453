import { neighbourTable } from './neighbours.ts';
import { leakTable } from './leaks.ts';
import { networkTable } from './networks.ts';
import { outsideTable } from './outside.ts';
import { portTable } from './ports.ts';
import { rackTable } from './racks.ts';
import { routeTable } from './routes.ts';
import { seatTable } from './seats.ts';
import { speakersTable } from './speakers.ts';
import { vrfTable } from './vrfs.ts';

/** Kinds of objects that come from a spreadsheet and go into one. */
export const TABLES = {
  racks: rackTable,
  seats: seatTable,
  vrfs: vrfTable,
  networks: networkTable,
  ports: portTable,
  outside: outsideTable,
  neighbours: neighbourTable,
  speakers: speakersTable,
  routes: routeTable,
  leaks: leakTable,
} as const;
export type TableName = keyof typeof TABLES;
