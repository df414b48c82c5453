/** An autonomous system number, 32 bits (RFC 6793). */
export type Asn = number;

const RESERVED = new Map<number, string>([
  [0, 'RFC 7607'],
  [23456, 'AS_TRANS, RFC 6793'],
  [65535, 'RFC 7300'],
  [4294967295, 'RFC 7300'],
]);

/** Why a number cannot be an AS number, or null when it can. */
export function refusedAsn(asn: number): string | null {
  if (!Number.isInteger(asn) || asn < 0 || asn > 4294967295) return 'outside 1–4294967294';
  const source = RESERVED.get(asn);
  return source === undefined ? null : `reserved (${source})`;
}

/** Private use (RFC 6996) or documentation (RFC 5398). */
export const isPrivateAsn = (asn: Asn): boolean =>
  (asn >= 64512 && asn <= 65534) ||
  (asn >= 4200000000 && asn <= 4294967294) ||
  (asn >= 64496 && asn <= 64511) ||
  (asn >= 65536 && asn <= 65551);
