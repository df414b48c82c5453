import { configDifferences, dialectWriting, type ConfigFiles } from '@anthemion/core';
import type { AdjacentStates, Driver, PeerStates } from '../../reach/driver.ts';
import type { ExpectedPeer } from '../../workers/tasks/expect.ts';

/** Do two texts make the same configuration, with nothing in the first that is not understood and not in the second? */
export function meansTheSame(running: ConfigFiles, target: ConfigFiles): boolean {
  const dialect = dialectWriting(target);
  // A document that is gone says nothing, and what it said is not said.
  if (!dialect || Object.keys(target).some((name) => !(name in running))) return false;
  const [a, b] = [dialect.parse(running), dialect.parse(target)];
  const known = new Set(b.unread.map((u) => `${u.file} ${u.text}`));
  return configDifferences(b.config, a.config).length === 0 && a.unread.every((u) => known.has(`${u.file} ${u.text}`));
}

/** A peer that must be up and is not. */
export interface MissingPeer {
  readonly peer: string;
  /** What the switch says of it. */
  readonly words: string;
}
/** Peers that must be up and are not; empty = settled. */
function missingPeers(
  expected: readonly ExpectedPeer[],
  seen: PeerStates,
  adjacent: AdjacentStates = new Map(),
): MissingPeer[] {
  return expected.flatMap((e) => {
    const { peer } = e;
    if (e.adjacent) {
      const word = adjacent.get(peer) ?? 'absent';
      return word === 'Full' ? [] : [{ peer, words: `${peer} (${word})` }];
    }
    const s = seen.get(peer);
    const down = [
      e.ipv4 && s?.ipv4 !== 'Established' ? `IPv4 ${s?.ipv4 ?? 'absent'}` : '',
      e.ipv6 && s?.ipv6 !== 'Established' ? `IPv6 ${s?.ipv6 ?? 'absent'}` : '',
      e.evpn && s?.evpn !== 'Established' ? `EVPN ${s?.evpn ?? 'absent'}` : '',
    ].filter(Boolean);
    return down.length > 0 ? [{ peer, words: `${peer} (${down.join(', ')})` }] : [];
  });
}
/** Peers that must be up and are not, by what a switch says now; neighbours by OSPF are asked for where some must be there. */
export async function missingOn(
  d: Driver,
  required: readonly ExpectedPeer[],
  seen?: PeerStates,
): Promise<readonly MissingPeer[]> {
  const adjacent = required.some((r) => r.adjacent) ? await d.adjacent() : undefined;
  return missingPeers(required, seen ?? (await d.peers()), adjacent);
}
export const wordsOf = (missing: readonly MissingPeer[]): string[] => missing.map((m) => m.words);
