import type { VlanId } from '../numbers/vni.ts';

/**
 * What a VLAN of a port is called that is routed by itself: a port of its own, whose frames have that tag on the cable
 * (802.1Q). Without a VLAN, the port.
 */
export const vlanPort = (port: string, vlan: VlanId | undefined): string =>
  vlan === undefined ? port : `${port}.${vlan}`;

/** The port and the tag that such a name stands for; null = it is that of a whole port. */
export function vlanOfPort(name: string): { readonly port: string; readonly vlan: VlanId } | null {
  const [, port, vlan] = /^(.+)\.(\d{1,4})$/.exec(name) ?? [];
  const number = Number(vlan);
  return port !== undefined && number >= 1 && number <= 4094 ? { port, vlan: number } : null;
}
