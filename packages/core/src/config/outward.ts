import { DIALECT_NAMES, PORT_NAMING, type DialectName } from '../hardware/dialects.ts';
import { lagNumber } from '../hardware/lagNumber.ts';
import { outsideKey } from '../intent/intent.ts';
import { familyWith } from '../intent/neighbourPlace.ts';
import type { OutwardLink } from '../layout/links.ts';
import { sideOf } from '../layout/seats.ts';
import type { IpFamily } from '../numbers/address.ts';
import { naturally } from '../numbers/order.ts';
import { describedBy } from '../patterns/descriptions.ts';
import type { LagConfig, PortConfig } from './interfaceParts.ts';
import { neighbourCause } from './neighbours.ts';
import type { Cause, OriginContext } from './section.ts';
import type { OutwardPort, SeatInputs } from './seatInputs.ts';
import type { SeatNeighbour } from './seatNeighbours.ts';
import { vlanOfPort, vlanPort } from './vlanOfPort.ts';

/** Ports that lead out of the fabric: what they are told, and why. */

/** What the LAG of an outside link is called; it is numbered after its first port. */
const lagOf = (dialect: DialectName, first: string): string => PORT_NAMING[dialect].lag(lagNumber(first));

/** The addresses that somebody speaks to routers outside from, and whose they are. */
function addressedFor(here: readonly SeatNeighbour[]): Pick<PortConfig, 'addresses' | 'ipv6Addresses' | 'vrf'> {
  const of = (family: IpFamily): string[] => here.filter((n) => familyWith(n) === family).map((n) => n.address);
  const [ipv4, ipv6] = [of(4), of(6)];
  return {
    addresses: ipv4,
    ...(ipv6.length > 0 ? { ipv6Addresses: ipv6 } : {}),
    ...(here[0] ? { vrf: here[0].vrf } : {}),
  };
}

/** The ports of a link to something outside, or the LAG of them, and its VLANs that somebody speaks over. */
export function deriveOutward(
  cables: readonly OutwardPort[],
  { fabric: { settings }, neighbours, dialect }: SeatInputs,
  into: { readonly ports: PortConfig[]; readonly lags: LagConfig[] },
): void {
  const [{ port: first, far, driven, lag }] = cables as [OutwardPort];
  const said = (port: string, own: string): string =>
    describedBy(settings, 'outsideDescription', { system: far.name, port, own });
  const mtu = settings.linkMtu;
  const speaking = neighbours.filter((n) => n.port === first);
  const members = cables.map((c) => c.port).sort(naturally);
  const whole = lag === undefined ? first : lagOf(dialect, lag);
  const description = said(cables.map((c) => c.far.port).join('+'), whole);
  if (lag !== undefined)
    for (const { port, far: end } of cables)
      into.ports.push({ name: port, description: said(end.port, port), mtu, ...driven, addresses: [] });
  if (lag !== undefined && speaking.length === 0) {
    into.lags.push({ number: lagNumber(lag), description, mtu, members });
    return;
  }
  for (const vlan of new Set([undefined, ...speaking.map((n) => n.vlan)])) {
    // A VLAN of a port is as open and as fast as the port, and a LAG as its members.
    const own = vlan !== undefined ? {} : lag === undefined ? driven : { members };
    const addressed = addressedFor(speaking.filter((n) => n.vlan === vlan));
    into.ports.push({
      name: vlanPort(whole, vlan),
      description: vlanPort(description, vlan),
      mtu,
      ...own,
      ...addressed,
    });
  }
}

/** Cables of a seat that are the switch’s to configure. */
const outwardOf = ({ layout, seat }: OriginContext): OutwardLink[] =>
  layout.outward.filter((o) => o.a.seat === seat.id && o.kind !== 'management');
const linkCause = ({ far, lag, a }: OutwardLink, { seat }: OriginContext): Cause => ({
  subject: `outside:${outsideKey({ rack: seat.rack!, side: sideOf(seat), port: lag ?? a.port })}`,
  label: `link to ${far.name}`,
});

/** Why a port that leads out of the fabric, a LAG of such, or a VLAN of either is as it is; null = it is none. */
export function outwardPortCause(name: string, field: string, context: OriginContext): Cause | null {
  const { intent, seat } = context;
  const outward = outwardOf(context);
  const dialect = intent.models.find((m) => m.name === seat.model)?.dialect ?? DIALECT_NAMES[0];
  const cableOf = (port: string): OutwardLink | undefined =>
    outward.find((o) => o.a.port === port || (o.lag !== undefined && lagOf(dialect, o.lag) === port));
  const at = vlanOfPort(name, (port) => cableOf(port) !== undefined);
  const cable = cableOf(at?.port ?? name);
  if (!cable) return null;
  const isMember = cable.lag !== undefined && cable.a.port === name;
  const addressed = field === 'addresses' || field === 'ipv6Addresses';
  // A VLAN of a port is there for who speaks over it.
  const speaks =
    !isMember && (addressed || field === 'vrf' || at !== null)
      ? neighbourCause(context, {
          port: vlanPort(cable.lag ?? cable.a.port, at?.vlan),
          ...(addressed ? { family: field === 'addresses' ? 4 : 6 } : {}),
        })
      : null;
  return speaks ?? linkCause(cable, context);
}

/** Why a LAG of ports that lead out of the fabric is as it is, by its number; null = it is none. */
export function outwardLagCause(number: string, context: OriginContext): Cause | null {
  const cable = outwardOf(context).find((o) => o.lag !== undefined && String(lagNumber(o.lag)) === number);
  return cable ? linkCause(cable, context) : null;
}
