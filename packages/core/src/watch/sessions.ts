import type { NetworkModel } from '../network/networkModel.ts';
import { isTenants } from '../network/sessions.ts';
import type { WatchedSwitch } from './seen.ts';

/** A BGP session between two switches of the fabric: both ends together are one. */
export interface SessionState {
  readonly host: string;
  readonly peer: string;
  /** Port it runs over at this end; null = between loopbacks, by whatever way leads there. */
  readonly port: string | null;
  /** What it is meant to carry. */
  readonly carries: { readonly ipv4: boolean; readonly evpn: boolean };
  readonly farHost: string;
  readonly farPeer: string;
  readonly stand: 'up' | 'down' | 'unread' | 'out';
  /** Word an end that was read has for it where it is down, such as Active. */
  readonly word: string | null;
}

/** Sessions that are meant to be up, each once, beside what the switches say of them. */
export function sessionStates(meant: NetworkModel, switches: ReadonlyMap<string, WatchedSwitch>): SessionState[] {
  const out: SessionState[] = [];
  const done = new Set<string>();
  for (const s of meant.sessions) {
    if (!s.up || s.farHost === null || s.farPeer === null || isTenants(s)) continue;
    if (done.has(`${s.farHost} ${s.farPeer}`)) continue;
    done.add(`${s.host} ${s.peer}`);
    const ends = [
      [switches.get(s.host), s.peer],
      [switches.get(s.farHost), s.farPeer],
    ] as const;
    const { host, peer, port, farHost, farPeer } = s;
    const base = { host, peer, port, farHost, farPeer, carries: { ipv4: s.ipv4, evpn: s.evpn } };
    if (ends.some(([w]) => !w || w.out)) {
      out.push({ ...base, stand: 'out', word: null });
      continue;
    }
    const words = ends.flatMap(([w, peer]) => {
      if (!w?.seen) return [];
      const said = w.seen.peers.get(peer);
      const bad = (
        [
          [s.ipv4, said?.ipv4],
          [s.evpn, said?.evpn],
        ] as const
      ).find(([wanted, word]) => wanted && word !== 'Established');
      return [bad ? (bad[1] ?? 'not there') : null];
    });
    const word = words.find((w) => w !== null) ?? null;
    out.push({ ...base, stand: words.length === 0 ? 'unread' : word === null ? 'up' : 'down', word });
  }
  return out;
}
