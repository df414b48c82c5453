import type { Layout } from '../layout/links.ts';
import { ownerOf } from '../pools/demands.ts';
import { originOf } from './origins.ts';
import type { OriginContext } from './section.ts';
import type { Place } from './switchConfig.ts';

/** Fields that name a switch among others, or are made of what names it. */
const NAMING: ReadonlySet<string> = new Set(['hostname', 'loopbacks', 'routerId', 'rd', 'asn', 'mac', 'localAddress']);

/**
 * Does every switch have its own of what stands at a place: its name, what is made of it, a value that is drawn for it or
 * for its rack, or where its links lead? What networks and VRFs have is the fabric's. Where two switches differ in that, they differ in nothing that somebody chose.
 */
export function isItsOwn(place: Place, context: OriginContext): boolean {
  const parts: readonly string[] = place;
  if (NAMING.has(parts.at(-1) ?? '')) return true;
  if (parts[0] === 'ports' && parts[2] === 'description') return isLink(parts[1]!, context.seat.id, context.layout);
  const value = originOf(place, context).value;
  return value !== undefined && !/^(network|vrf|fabric)\b/.test(ownerOf(value.key));
}

const isLink = (port: string, seat: string, { links }: Layout): boolean =>
  links.some((l) => [l.a, l.b].some((end) => end.seat === seat && end.port === port));
