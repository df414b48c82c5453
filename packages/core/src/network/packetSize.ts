import { vlanOfPort } from '../config/vlanOfPort.ts';
import { lagKey, sviKey } from '../config/interfaces.ts';
import { vxlanKey } from '../config/overlay.ts';
import type { Place, SwitchConfig } from '../config/switchConfig.ts';
import { VXLAN_OVERHEAD_IPV4 } from '../numbers/vni.ts';
import { lagDevice, sviDevice, vxlanDevice } from './devices.ts';
import type { Filtered } from './filters.ts';
import { DEFAULT_MTU, sviMtu } from './interfaces.ts';

/**
 * A device that a packet has to fit: one that it leaves by, bridged, routed, in the first piece of a tunnel or on the tunnel’s
 * further way; or one that it comes in by.
 */
export interface SizeCheck {
  readonly host: string;
  /** Null = it is not known which. */
  readonly device: string | null;
  readonly does: 'bridges' | 'routes' | 'tunnels' | 'carries' | 'hears';
}

/** A packet as large as one asks: bytes of IP, its header with it. `whole`: it asks not to be cut (RFC 791, DF). */
export interface PacketSize {
  readonly bytes: number;
  readonly whole: boolean;
}

/** A bridge lets a frame pass that is larger than its port by a tag of 802.1Q, whether it has one or not (Linux). */
const TAG = 4;

/** The MTU of a device of a switch, and what says it; undefined = there is none of that name. */
export function mtuOf(
  config: SwitchConfig,
  device: string,
): { readonly mtu: number; readonly place: Place } | undefined {
  const lag = config.lags.find((l) => lagDevice(l) === device);
  if (lag) return { mtu: lag.mtu ?? DEFAULT_MTU, place: ['lags', lagKey(lag), 'mtu'] };
  const port = config.ports.find((p) => p.name === device);
  if (port) {
    const own = { mtu: port.mtu ?? DEFAULT_MTU, place: ['ports', port.name, 'mtu'] as Place };
    // A VLAN of a port carries no more than the port does.
    const whole = mtuOf(config, vlanOfPort(device, () => true)?.port ?? '');
    return whole && whole.mtu < own.mtu ? whole : own;
  }
  const vxlan = config.vxlans.find((v) => vxlanDevice(v) === device);
  if (vxlan) return { mtu: vxlan.mtu ?? DEFAULT_MTU, place: ['vxlans', vxlanKey(vxlan), 'mtu'] };
  const svi = config.svis.find((s) => sviDevice(s) === device);
  if (!svi) return undefined;
  const mtu = sviMtu(config, svi);
  const said = svi.mtu === mtu;
  return { mtu, place: said ? ['svis', sviKey(svi), 'mtu'] : ['bridge', 'mtu'] };
}

/** Does a packet fit? Trouble with `unsure` = it may be that it does not. */
export function fits(config: SwitchConfig, { host, device, does }: SizeCheck, { bytes, whole }: PacketSize): Filtered {
  const found = device === null ? undefined : mtuOf(config, device);
  if (!found) {
    const words = `through which port of ${host} it goes is not known, and so not what fits`;
    return { trouble: null, unsure: words };
  }
  const { mtu, place } = found;
  const inTunnel = does === 'tunnels' || does === 'carries';
  const total = inTunnel ? bytes + VXLAN_OVERHEAD_IPV4 : bytes;
  if (total <= mtu) return { trouble: null, unsure: null };
  const what = inTunnel ? `${bytes} bytes and ${VXLAN_OVERHEAD_IPV4} around them` : `${bytes} bytes`;
  const words = `${device} of ${host} has MTU ${mtu}: ${what} are too large for it`;
  const trouble = { host, words, configPlace: place };
  switch (does) {
    case 'bridges':
      return { trouble, unsure: total > mtu + TAG ? null : `${words}, but for the room of a tag` };
    case 'routes':
    case 'tunnels':
      return { trouble, unsure: whole ? null : `${words}, but it may go in pieces` };
    case 'carries':
      return { trouble, unsure: `${words}, but it may go in pieces` };
    case 'hears':
      return { trouble, unsure: `${words}, but a port may take in more than it sends` };
  }
}
