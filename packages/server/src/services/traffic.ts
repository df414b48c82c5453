import type { TrafficAnswer } from '@anthemion/contract';
import { trafficBetween, type Octets } from '@anthemion/core';
import { SwitchTrouble } from '../reach/driver.ts';
import { notNow, notThere, Trouble } from '../trouble.ts';
import type { Reading } from '../watch/reading.ts';
import type { House } from './house.ts';

/** Between the two readings of its counters, milliseconds. */
const APART_MS = 2000;

/** Asks a switch twice, now, what its ports have counted: what goes over those that lead somewhere by what is live. */
export async function trafficOf(
  house: House,
  reading: Pick<Reading, 'ask'>,
  fabric: string,
  seat: string,
  apartMs = APART_MS,
): Promise<TrafficAnswer> {
  const of = await house.compiler.run<'ports of'>({ do: 'ports of', fabric, seat });
  if (of === null) throw notThere(`seat ${seat} in ${fabric}`);
  const { host, serial, ends } = of;
  if (serial === null) throw notNow(`No switch sits in seat ${seat}.`);
  const unasked = (error: unknown): never => {
    throw error instanceof SwitchTrouble ? new Trouble('no answer', `${host} was not asked: ${error.message}.`) : error;
  };
  const count = (): Promise<{ readonly at: number; readonly octets: ReadonlyMap<string, Octets> }> =>
    reading
      .ask(serial, async (driver) => {
        const octets = await driver.octets();
        return { at: performance.now(), octets: new Map([...octets].filter(([port]) => ends.has(port))) };
      })
      .catch(unasked);
  const before = await count();
  await new Promise((done) => setTimeout(done, apartMs));
  const after = await count();
  const seconds = (after.at - before.at) / 1000;
  const { ports, anew } = trafficBetween(before.octets, after.octets, seconds);
  return { host, seconds, ports: ports.map((p) => ({ ...p, to: ends.get(p.port)! })), anew };
}
