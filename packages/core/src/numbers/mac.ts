/** A MAC address as lower-case text with colons. */
export type Mac = string;

export const isMac = (text: string): boolean => /^([0-9a-f]{2}:){5}[0-9a-f]{2}$/.test(text);
/** A MAC address however it is written, `52-54-00-12-34-56`, `5254.0012.3456`, as it is here; null = it is none. */
export function macOf(text: string): Mac | null {
  const digits = text.trim().toLowerCase().replaceAll(/[:.-]/g, '');
  return /^[0-9a-f]{12}$/.test(digits) && /^\w{12}$|^(\w\w[:-]){5}\w\w$|^(\w{4}\.){2}\w{4}$/.test(text.trim())
    ? digits.replaceAll(/(..)(?!$)/g, '$1:')
    : null;
}
const hex = (n: number): string => n.toString(16).padStart(2, '0');

/** Locally administered unicast MAC `02:00:` + the four bytes of a 32-bit number. */
export const localMac = (value: number): Mac =>
  `02:00:${hex(value >>> 24)}:${hex((value >>> 16) & 255)}:${hex((value >>> 8) & 255)}:${hex(value & 255)}`;

/** Anycast gateway MAC of a VLAN: locally administered, the VLAN in the last two bytes. */
export const gatewayMac = (vlan: number): Mac => `02:00:5e:00:${hex(vlan >>> 8)}:${hex(vlan & 255)}`;

/** System MAC both halves of a pair share on a multihomed LAG: fabric number and rack number inside. */
export const pairSystemMac = (fabricNumber: number, rack: number): Mac =>
  `02:ae:${hex(fabricNumber >>> 8)}:${hex(fabricNumber & 255)}:${hex(rack >>> 8)}:${hex(rack & 255)}`;

/** Why a MAC should not be a gateway's: group bit, or the VRRP ranges (RFC 9568 §7.3). */
export function refusedGatewayMac(mac: Mac): string | null {
  if (!isMac(mac)) return 'not a MAC address';
  if (parseInt(mac.slice(0, 2), 16) & 1) return 'a group (multicast) address';
  if (mac.startsWith('00:00:5e:00:01:') || mac.startsWith('00:00:5e:00:02:'))
    return 'in the VRRP range and would clash with real VRRP (RFC 9568)';
  return null;
}
