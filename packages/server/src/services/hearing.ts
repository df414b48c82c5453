import type { HeardAnswer, HeardAt } from '@anthemion/contract';
import { problem, soughtHost, type HeardHost, type SoughtHost } from '@anthemion/core';
import PQueue from 'p-queue';
import { SwitchTrouble } from '../reach/driver.ts';
import type { Reaching } from '../reach/reach.ts';
import { refused, words } from '../trouble.ts';
import type { Hearing } from '../workers/tasks/hearing.ts';
import type { House } from './house.ts';

/** Switches asked at the same time. */
const AT_ONCE = 12;
/** How long one may take to say what it hears, milliseconds. */
const PATIENCE_MS = 10_000;

function fits({ mac, port, addresses }: HeardHost, { servers }: Hearing, sought: SoughtHost): boolean {
  switch (sought.is) {
    case 'mac':
      return mac === sought.mac;
    case 'address':
      return addresses.includes(sought.address);
    case 'server':
      return servers.get(port)?.toLowerCase() === sought.server;
  }
}

async function within<T>(ms: number, work: Promise<T>): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, fail) => {
    timer = setTimeout(() => fail(new SwitchTrouble(`it did not answer within ${ms / 1000} s`)), ms);
  });
  return Promise.race([work, late]).finally(() => clearTimeout(timer));
}

/**
 * Asks the switches of a fabric on which port they hear somebody, now: those that can by what is live. Switches that are out
 * of service are asked as well, as nothing is judged by it.
 * @param text a server by its name, a MAC address or an address
 */
export async function whereHeard(house: House, reach: Reaching, fabric: string, text: string): Promise<HeardAnswer> {
  const sought = soughtHost(text);
  const asked = await house.compiler.run<'hearing'>({ do: 'hearing', fabric, sought });
  if (asked.length === 0)
    throw refused([
      sought.is === 'server'
        ? problem(
            'host-known',
            '/what',
            `No server ${text.trim()} is on a port of ${fabric}.`,
            'Write its name as under Ports, or its MAC address or address.',
          )
        : problem('host-known', '/what', `No switch with servers sits in ${fabric} yet.`, 'Seat its switches first.'),
    ]);
  const heard: HeardAt[] = [];
  const silent: { host: string; why: string }[] = [];
  const queue = new PQueue({ concurrency: AT_ONCE });
  await queue.addAll(
    asked.map((hearing) => async (): Promise<void> => {
      const { serial, host, seat, servers, networks } = hearing;
      try {
        for (const one of await within(
          PATIENCE_MS,
          reach.on(serial, (driver) => driver.heard()),
        )) {
          if (!fits(one, hearing, sought)) continue;
          const network = one.vlan === null ? null : (networks.get(one.vlan) ?? null);
          heard.push({ host, seat, ...one, network, server: servers.get(one.port) ?? null });
        }
      } catch (error) {
        silent.push({ host, why: words(error) });
      }
    }),
  );
  const order = new Map(asked.map((a, i) => [a.host, i]));
  const inOrder = <T extends { readonly host: string }>(all: T[]): T[] =>
    all.sort((a, b) => order.get(a.host)! - order.get(b.host)!);
  return { heard: inOrder(heard), asked: asked.length - silent.length, silent: inOrder(silent) };
}
