import type { SwitchConfig } from '../config/switchConfig.ts';
import { contains, parseCidr, prefixOf, type Prefix } from '../numbers/ipv4.ts';

/** Does a prefix list permit the prefix? An undefined list permits nothing; the end of a list denies. */
export function permits(config: SwitchConfig, listName: string, prefix: Prefix): boolean {
  const list = config.prefixLists.find((l) => l.name === listName);
  for (const e of list?.entries ?? []) {
    const p = parseCidr(e.prefix);
    if (!p || !contains(prefixOf(p), prefix)) continue;
    const low = e.ge ?? p.length;
    const high = e.le ?? (e.ge === undefined ? p.length : 32);
    if (prefix.length >= low && prefix.length <= high) return e.permit;
  }
  return false;
}

/** Does a route map let a prefix through? Without a map everything passes; an undefined map passes nothing. */
export function passes(config: SwitchConfig, mapName: string | undefined, prefix: Prefix): boolean {
  if (mapName === undefined) return true;
  const map = config.routeMaps.find((m) => m.name === mapName);
  for (const e of map?.entries ?? [])
    if (e.matchPrefixList === undefined || permits(config, e.matchPrefixList, prefix)) return e.permit;
  return false;
}
