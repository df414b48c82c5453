import type { PrefixList, PrefixListEntry, RouteMap, RouteMapEntry } from '../../config/policy.ts';
import { parseCidr } from '../../numbers/ipv4.ts';
import { unmodelled, type Block, type TopLines } from './blocks.ts';
import type { Draft } from './draft.ts';
import { whole } from './words.ts';

const way = (permit: boolean): string => (permit ? 'permit' : 'deny');

export function prefixListLines({ name, entries }: PrefixList): string {
  let out = '';
  for (const e of entries)
    out +=
      `\nip prefix-list ${name} seq ${e.seq} ${way(e.permit)} ${e.prefix}` +
      (e.ge === undefined ? '' : ` ge ${e.ge}`) +
      (e.le === undefined ? '' : ` le ${e.le}`);
  return `${out}\n!`;
}

export function routeMapBlocks({ name, entries }: RouteMap): string {
  let out = '';
  for (const e of entries)
    out +=
      `\nroute-map ${name} ${way(e.permit)} ${e.seq}` +
      (e.matchPrefixList === undefined ? '' : `\n match ip address prefix-list ${e.matchPrefixList}`) +
      '\nexit';
  return `${out}\n!`;
}

const routeMap: Block<{ readonly name: string; readonly entry: Draft<RouteMapEntry> }> = {
  name: 'route-map',
  read: (w, line, { name, entry }, reading) => {
    const m = /^match ip address prefix-list (\S+)$/.exec(line);
    if (w[0] === 'description') return reading.at(['routeMaps', name]);
    if (!m) return w[0] === 'match' || w[0] === 'set' ? unmodelled(`“${line}” is not modelled`) : false;
    entry.matchPrefixList = m[1]!;
    return reading.at(['routeMaps', name, 'entries', String(entry.seq), 'matchPrefixList']);
  },
};

/** A line without a number comes after the last one, at the next five. */
const nextSeq = (entries: readonly PrefixListEntry[] = []): number =>
  Math.floor(Math.max(0, ...entries.map((e) => e.seq)) / 5) * 5 + 5;

/** Adds to a list of a name. */
function add<T>(lists: Map<string, T[]>, name: string, item: T): void {
  const list = lists.get(name);
  if (list) list.push(item);
  else lists.set(name, [item]);
}

export const policyLines: TopLines = {
  ip: (w, line, reading) => {
    if (w[1] !== 'prefix-list') return false;
    const m = /^ip prefix-list (\S+)(?: seq (\d+))? (permit|deny) (\S+)(?: ge (\d+))?(?: le (\d+))?$/.exec(line);
    if (!m || (m[4] !== 'any' && !parseCidr(m[4]!)))
      return 'a prefix list line is: ip prefix-list NAME [seq N] permit|deny PREFIX [ge N] [le N]';
    const any = m[4] === 'any';
    const entry: Draft<PrefixListEntry> = {
      seq: m[2] === undefined ? nextSeq(reading.draft.prefixLists.get(m[1]!)) : Number(m[2]),
      permit: m[3] === 'permit',
      prefix: any ? '0.0.0.0/0' : m[4]!,
    };
    if (m[5] !== undefined) entry.ge = Number(m[5]);
    if (m[6] !== undefined || any) entry.le = any ? 32 : Number(m[6]);
    const length = parseCidr(entry.prefix)!.length;
    if (
      (entry.ge !== undefined && (entry.ge <= length || entry.ge > 32)) ||
      (entry.le !== undefined && (entry.le < (entry.ge ?? length) || entry.le > 32))
    )
      return {
        why: `the daemon refuses it, and with it what is sent in one piece with it: length ${length} < ge ≤ le ≤ 32 must hold`,
        taken: false,
        // Lists and maps in a row are one transaction: which of them are lost depends on what stands around (FRR 8.4.4).
        doubts: ['prefixLists'],
      };
    add(reading.draft.prefixLists, m[1]!, entry);
    return reading.at(['prefixLists', m[1]!]);
  },
  'route-map': (w, _line, reading) => {
    const [, name, permit] = w;
    const seq = whole(w[3], 1, 65535);
    if (name === undefined || (permit !== 'permit' && permit !== 'deny') || seq === null)
      return 'a route map opens with: route-map NAME permit|deny N';
    const entry: Draft<RouteMapEntry> = { seq, permit: permit === 'permit' };
    add(reading.draft.routeMaps, name, entry);
    return reading.open(routeMap, { name, entry }, ['routeMaps', name]);
  },
};
