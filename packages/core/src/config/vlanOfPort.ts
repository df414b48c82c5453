import type { VlanId } from '../numbers/vni.ts';

/**
 * What a VLAN of a port is called that is routed by itself: a port of its own, whose frames have that tag on the cable
 * (802.1Q). Without a VLAN, the port.
 */
export const vlanPort = (port: string, vlan: VlanId | undefined): string =>
  vlan === undefined ? port : `${port}.${vlan}`;

/**
 * The port and the tag that such a name stands for; null = it is that of a whole port. Labels of ports may have a dot
 * themselves (`port1.2`).
 * @param isPort is there a whole port of that name? What names none is no VLAN of it
 */
export function vlanOfPort(
  name: string,
  isPort: (port: string) => boolean,
): { readonly port: string; readonly vlan: VlanId } | null {
  const [, port, vlan] = /^(.+)\.(\d{1,4})$/.exec(name) ?? [];
  const number = Number(vlan);
  return port !== undefined && number >= 1 && number <= 4094 && isPort(port) ? { port, vlan: number } : null;
}
