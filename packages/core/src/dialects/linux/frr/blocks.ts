import { parseIpv4 } from '../../../numbers/ipv4.ts';

/** `true` = read; a string = understood but wrong; `false` = not a line of this block. */
export type Reading = boolean | string;
/** Read, and it speaks of IPv4 unicast: FRR takes lines of that family in the router itself as well. */
export const AS_IPV4 = 'as ipv4 unicast' as const;
export type AsIpv4 = { readonly as: typeof AS_IPV4 };
/** A block of the file, which reads its own lines. */
export type Block = {
  readonly path: string;
  /** Word that closes it beside `exit`. */
  readonly exit?: string;
  read(words: readonly string[], line: string): Reading | Block | AsIpv4;
};
/** Seen on FRR 8.4.4: what a router, or its EVPN family, does not know as its own is taken for IPv4 unicast. */
export const isEvpn = (block: Block): boolean => /\.evpn(\.|$)/.test(block.path);

/** A whole number between two bounds, or null. */
export const whole = (text: string | undefined, from: number, to: number): number | null =>
  text !== undefined && /^\d+$/.test(text) && Number(text) >= from && Number(text) <= to ? Number(text) : null;

const isTarget = (text: string): boolean => {
  const m = /^(\d+):(\d+)$/.exec(text);
  if (m) return Number(m[1]) > 65535 ? Number(m[1]) <= 4294967295 && Number(m[2]) <= 65535 : Number(m[2]) <= 4294967295;
  const ip = /^(\d+\.\d+\.\d+\.\d+):(\d+)$/.exec(text);
  return ip !== null && parseIpv4(ip[1]!) !== null && Number(ip[2]) <= 65535;
};

/** Reads `rd` and `route-target` lines, which VNIs and VRFs have alike. */
export function readTargets(
  words: readonly string[],
  into: { rd?: string; imports: string[]; exports: string[] },
): Reading {
  if (words[0] === 'rd') {
    if (!isTarget(words[1] ?? '')) return 'an RD is router-id:number or AS:number';
    into.rd = words[1]!;
    return true;
  }
  if (words[0] !== 'route-target') return false;
  const [, way, ...targets] = words;
  if (targets.length === 0 || !targets.every(isTarget)) return 'a route target is AS:number';
  if (way === 'import' || way === 'both') into.imports.push(...targets);
  if (way === 'export' || way === 'both') into.exports.push(...targets);
  return way === 'import' || way === 'export' || way === 'both' ? true : 'a route target is import, export or both';
}

export function readRedistribution(words: readonly string[], into: { connected?: { routeMap?: string } }): Reading {
  if (words[0] !== 'redistribute') return false;
  if (words[1] !== 'connected') return `redistribution of ${words[1] ?? 'nothing'} is not modelled`;
  if (words.length === 2) into.connected = {};
  else if (words[2] === 'route-map' && words[3] !== undefined) into.connected = { routeMap: words[3] };
  else return 'after connected stands route-map and its name';
  return true;
}

/** Lines of an address family that a router takes without one, and then means IPv4 unicast. */
export const isOfIpv4 = (w: readonly string[]): boolean =>
  w[0] === 'redistribute' ||
  w[0] === 'maximum-paths' ||
  (w[0] === 'neighbor' && (w[2] === 'activate' || w[2] === 'allowas-in')) ||
  (w[0] === 'no' && w[1] === 'neighbor' && w[3] === 'activate');

export type Draft<T> = { -readonly [K in keyof T]: T[K] };
/** Says which place of the SwitchConfig the line that is being read speaks of. */
export type Mark = (place: string) => true;
