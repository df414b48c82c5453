import type { Dialect } from '@anthemion/core';
import type { Sealing } from '../store/sealing.ts';
import type { Driver } from './driver.ts';
import { LinuxDriver } from './linuxDriver.ts';
import type { Transport } from './transport.ts';

/** Who speaks to switches of a dialect, over any transport that reaches them; a dialect without one does not compile. */
const DRIVERS: Readonly<Record<Dialect['name'], new (dialect: Dialect, line: Transport, sealing: Sealing) => Driver>> =
  { linux: LinuxDriver };

export const driverOf = (dialect: Dialect, line: Transport, sealing: Sealing): Driver =>
  new DRIVERS[dialect.name](dialect, line, sealing);
