/** VXLAN network identifier, 24 bits, 0 reserved (RFC 7348 §5). */
export type Vni = number;
export type VlanId = number;

export const VNI_MIN = 1;
export const VNI_MAX = 16777215;
export const isVni = (n: number): boolean => Number.isInteger(n) && n >= VNI_MIN && n <= VNI_MAX;
/** IEEE 802.1Q: 1–4094. */
export const isVlan = (n: number): boolean => Number.isInteger(n) && n >= 1 && n <= 4094;

/** Bytes VXLAN adds over IPv4: Ethernet 14 + IPv4 20 + UDP 8 + VXLAN 8 (RFC 7348 §5). */
export const VXLAN_OVERHEAD_IPV4 = 50;
