import type { Finding } from '../../finding.ts';
import { checkDrive, type Drive } from '../../hardware/drive.ts';
import { cablesOfLink, outsideKey, rackPatternAt, serverPortKey, type FabricIntent } from '../../intent/intent.ts';
import { checkPortDrive } from '../../intent/portDrive.ts';
import type { Layout } from '../../layout/links.ts';
import { portsOfSeats } from '../../layout/seatPorts.ts';
import { groupBy } from '../../numbers/order.ts';
import { found, type FabricRule } from '../rule.ts';

/** Links whose FEC is said of all, on ports that have no such thing; one finding for all ports of a kind. */
function linksWrong({ linkFec }: FabricIntent['settings'], intent: FabricIntent, layout: Layout): Finding[] {
  if (linkFec === 'unsaid') return [];
  const ports = portsOfSeats(intent);
  const ends = layout.links.flatMap((link) =>
    [link.a, link.b].flatMap(({ seat: id, port }) => {
      const seat = layout.seatById.get(id)!;
      const speed = ports(seat).ports.get(port);
      return speed === undefined ? [] : [{ host: seat.host, port, speed }];
    }),
  );
  return [...groupBy(ends, (e) => e.speed).values()].flatMap((alike) => {
    const [{ host, port, speed }] = alike as [(typeof ends)[number]];
    const more = alike.length === 1 ? '' : ` and ${alike.length - 1} more`;
    return checkDrive({ fec: linkFec }, port, speed, '').map(({ message, cure = '' }) =>
      found(
        portsDriven,
        { host, subjects: ['setting:linkFec'], configPlace: ['ports', port, 'fec'] },
        `${host} ${port}${more}: ${message}`,
        cure,
      ),
    );
  });
}

export const portsDriven: FabricRule = {
  id: 'ports-driven',
  title: 'Ports are told speeds and FEC that they have',
  severity: 'error',
  source: 'IEEE 802.3 clauses 74, 91, 108; speeds of the switch model',
  scope: 'layout',
  judge: ({ intent, compiled: { layout } }) => {
    // Mostly none says anything.
    const isDriven = (d: Drive): boolean => d.speed !== undefined || d.fec !== undefined;
    const said = [
      ...intent.ports.filter(isDriven).map((p) => ({ said: p, subject: `port:${serverPortKey(p)}` as const })),
      ...intent.outside
        .filter(isDriven)
        .flatMap((o) =>
          cablesOfLink(o).map(({ port }) => ({ said: { ...o, port }, subject: `outside:${outsideKey(o)}` as const })),
        ),
    ];
    const wrong = said.flatMap(({ said: p, subject }) => {
      const pattern = rackPatternAt(intent, p.rack);
      const host = layout.seats.find((s) => s.rack === p.rack)?.host ?? '';
      return (pattern ? checkPortDrive(intent, pattern, p, '') : []).map(({ message, cure = '' }) =>
        found(portsDriven, { host, subjects: [subject] }, `${host}: ${message}`, cure),
      );
    });
    return [...linksWrong(intent.settings, intent, layout), ...wrong];
  },
};
