import type { HeardAnswer, HeardAt } from '@anthemion/contract';
import { problem, soughtHost, type HeardHost, type SoughtHost } from '@anthemion/core';
import { refused, words } from '../trouble.ts';
import type { Reading } from '../watch/reading.ts';
import type { Hearing } from '../workers/tasks/hearing.ts';
import type { House } from './house.ts';

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

/**
 * Asks the switches of a fabric on which port they hear somebody, now: those that can by what is live, over the lines they
 * are read by.
 * @param text a server by its name, a MAC address or an address
 */
export async function whereHeard(
  house: House,
  reading: Pick<Reading, 'ask'>,
  fabric: string,
  text: string,
): Promise<HeardAnswer> {
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
  await Promise.all(
    asked.map(async (hearing): Promise<void> => {
      const { serial, host, seat, servers, networks } = hearing;
      try {
        for (const one of await reading.ask(serial, (driver) => driver.heard())) {
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
