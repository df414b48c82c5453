import { portNames } from '../hardware/portNames.ts';
import type { SwitchModel } from '../hardware/switchModel.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { cablesOf, type Layout } from '../layout/links.ts';

/**
 * What the switches of a layout call their ports, for whoever has to do with the switches themselves.
 * @returns the name of a port by switch and label; what is no switch of it keeps its words
 */
export function portsOnSwitches(
  models: readonly SwitchModel[],
  { seats }: Pick<Layout, 'seats'>,
): (at: { readonly host: string; readonly port: string }) => string {
  const byName = new Map(models.map((m) => [m.name, m]));
  const names = new Map(seats.map((s) => [s.host, portNames(byName.get(s.model))]));
  return ({ host, port }) => names.get(host)?.nameOf(port) ?? port;
}

/** Cables by what the switches at their ends call the ports. */
export function cablesOnSwitches<T extends { readonly a: PortAt; readonly b: PortAt }>(
  cables: readonly T[],
  portOf: (at: PortAt) => string,
): T[] {
  return cables.map((c) => ({ ...c, a: { ...c.a, port: portOf(c.a) }, b: { ...c.b, port: portOf(c.b) } }));
}
type PortAt = { readonly host: string; readonly port: string };

/** The cables between switches that are seated, by serial and by what the switches call the ports. */
export function cablesBySerial(
  { models, seating }: Pick<FabricIntent, 'models' | 'seating'>,
  layout: Layout,
): { readonly a: { serial: string; port: string }; readonly b: { serial: string; port: string } }[] {
  const serials = new Map(layout.seats.map((s) => [s.host, seating[s.id]]));
  return cablesOnSwitches(cablesOf(layout), portsOnSwitches(models, layout)).flatMap(({ a, b }) => {
    const [at, to] = [serials.get(a.host), serials.get(b.host)];
    return at !== undefined && to !== undefined
      ? [{ a: { serial: at, port: a.port }, b: { serial: to, port: b.port } }]
      : [];
  });
}
