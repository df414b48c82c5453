import { draft, type Draft } from './cause.ts';
import type { LinkState } from './links.ts';
import type { WatchedSwitch } from './seen.ts';

/** So many switches that cannot be read at once are one cause. */
const MANY_SILENT = 3;

/** Switches that could not be read: gone, when every neighbour that was read has lost them too. */
export function silent(switches: readonly WatchedSwitch[], states: readonly LinkState[]): Draft[] {
  const gone: Draft[] = [];
  const mute: Mute[] = [];
  for (const s of switches) {
    if (s.seen || s.out || !s.meant) continue;
    const own = states.filter((l) => l.a.host === s.host || l.b.host === s.host);
    const lost = own.filter((l) => l.stand === 'no signal' || l.stand === 'not seen');
    const told = own.filter((l) => l.stand !== 'unread' && l.stand !== 'out');
    const why = s.why === null ? [] : [s.why];
    if (lost.length === 0 || lost.length < told.length)
      mute.push({ host: s.host, why, isSeen: told.some((l) => l.stand === 'up') });
    else
      gone.push(
        draft({
          key: `unread:${s.host}`,
          kind: 'unread',
          hosts: [s.host],
          title: `${s.host} is gone`,
          details: [
            ...why,
            `${lost.length === 1 ? 'its neighbour has' : `all ${lost.length} neighbours have`} no signal from it`,
          ],
          links: lost,
          deadHosts: [s.host],
        }),
      );
  }
  return [...gone, ...(mute.length < MANY_SILENT ? mute.map(muteCause) : [manyMute(mute)])];
}

/** A switch that does not answer, though nobody says that it is gone. */
interface Mute {
  readonly host: string;
  readonly why: readonly string[];
  readonly isSeen: boolean;
}
const muteCause = ({ host, why, isSeen }: Mute): Draft =>
  draft({
    key: `unread:${host}`,
    kind: 'unread',
    hosts: [host],
    title: `${host} cannot be read`,
    details: [
      ...why,
      isSeen
        ? 'its neighbours still see it: it runs, only its management does not answer'
        : 'nothing is known of it beyond that',
    ],
  });

/** Their reasons, each once: ports and addresses differ from switch to switch, so reasons are the same but for numbers. */
function reasonsOf(mute: readonly Mute[]): string[] {
  const reasons = new Map<string, Mute[]>();
  for (const m of mute) {
    const reason = m.why.join().replace(/\d+/g, '#');
    reasons.set(reason, [...(reasons.get(reason) ?? []), m]);
  }
  return [...reasons.values()].map((ms) => {
    const named = ms.slice(0, 4).map((m) => m.host);
    const more = ms.length > 4 ? ` and ${ms.length - 4} more` : '';
    return `${named.join(', ')}${more}${ms[0]!.why.length > 0 ? `: ${ms[0]!.why.join()}` : ''}`;
  });
}

function manyMute(mute: readonly Mute[]): Draft {
  const seen = mute.filter((m) => m.isSeen).length;
  const hosts = mute.map((m) => m.host);
  return draft({
    key: 'unread:many',
    kind: 'unread',
    hosts,
    title: `${hosts.length} switches cannot be read`,
    details: [
      ...reasonsOf(mute),
      ...(seen > 0 ? [`${seen} of them are still seen by their neighbours: they run`] : []),
      ...(seen < hosts.length
        ? [`nothing is known of ${seen === 0 ? 'them' : `the other ${hosts.length - seen}`}`]
        : []),
      'look for what they have in common: the way to their management, the account, this server',
    ],
  });
}
