import fc from 'fast-check';
import { checkDrive, FECS, SPEEDS, type Drive } from '../hardware/drive.ts';
import { rackPatternAt, type FabricIntent } from '../intent/intent.ts';
import { checkPortDrive } from '../intent/portDrive.ts';
import { layOut } from '../layout/layout.ts';
import { portsOfSeats } from '../layout/seatPorts.ts';
import type { DescriptionSchemes } from '../patterns/descriptions.ts';
import { LINK_FECS, RESTARTS, type LinkFec } from '../patterns/patterns.ts';
import { borderIntents, wideIntents } from './fabricOf.ts';

const drives: fc.Arbitrary<Drive> = fc.record(
  { speed: fc.constantFrom(...SPEEDS), fec: fc.constantFrom(...FECS) },
  { requiredKeys: [] },
);
const schemes: fc.Arbitrary<DescriptionSchemes> = fc.record({
  linkDescription: fc.constantFrom('{far} {port}', 'to {far} ({port})', '{own}: {far}', 'fabric link'),
  serverDescription: fc.constantFrom('{server}', '{rack}/{own} {server}', 'server {server}.', '{server}, rack {rack}'),
  outsideDescription: fc.constantFrom('{system} {port}', '{own} = {system}:{port}', 'outside'),
});

/** Whether all links of a fabric have ports that such a code is for. */
const linksHave = (intent: FabricIntent, fec: LinkFec): boolean => {
  if (fec === 'unsaid') return true;
  const [layout, ports] = [layOut(intent), portsOfSeats(intent)];
  return layout.links.every((l) =>
    [l.a, l.b].every(({ seat, port }) => {
      const speed = ports(layout.seatById.get(seat)!).ports.get(port);
      return speed === undefined || checkDrive({ fec }, port, speed, '').length === 0;
    }),
  );
};

/** Fabrics whose ports are told speeds and FEC that they have, some are shut, and all are described in some way. */
export const drivenIntents: fc.Arbitrary<FabricIntent> = fc
  .tuple(
    fc.oneof(wideIntents, borderIntents),
    fc.constantFrom(...LINK_FECS),
    fc.record({ restart: fc.constantFrom(...RESTARTS), restartTime: fc.constantFrom(120, 60) }),
    schemes,
    fc.infiniteStream(fc.tuple(drives, fc.integer({ min: 0, max: 5 }))),
  )
  .map(([intent, fec, restarting, described, stream]) => {
    const linkFec = linksHave(intent, fec) ? fec : 'unsaid';
    const told = <P extends FabricIntent['ports'][number] | FabricIntent['outside'][number]>(p: P): P => {
      const [drive, shut] = stream.next().value!;
      const pattern = rackPatternAt(intent, p.rack);
      const fits = pattern && checkPortDrive(intent, pattern, { ...drive, port: p.port }, '').length === 0;
      return { ...p, ...(fits ? drive : {}), ...(shut === 0 ? { shut: true } : {}) };
    };
    return {
      ...intent,
      settings: { ...intent.settings, linkFec, ...restarting, ...described },
      ports: intent.ports.map(told),
      outside: intent.outside.map(told),
    };
  });
