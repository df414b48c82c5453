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

/** What is said of each in a sentence, and the word for it when it is up. */
const WHAT = { ipv4: 'IPv4 ', ipv6: 'IPv6 ', evpn: 'EVPN ', adjacent: '' } as const;
const UP_WORDS = { ipv4: 'Established', ipv6: 'Established', evpn: 'Established', adjacent: 'Full' } as const;

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
  return expected.flatMap(({ peer, up }) => {
    const words = up.flatMap((what) => {
      const word = what === 'adjacent' ? adjacent.get(peer) : seen.get(peer)?.[what];
      return word === UP_WORDS[what] ? [] : [`${WHAT[what]}${word ?? 'absent'}`];
    });
    return words.length > 0 ? [{ peer, words: `${peer} (${words.join(', ')})` }] : [];
  });
}
/** Peers that must be up and are not, by what a switch says now; neighbours by OSPF are asked for where some must be there. */
export async function missingOn(
  d: Driver,
  required: readonly ExpectedPeer[],
  seen?: PeerStates,
): Promise<readonly MissingPeer[]> {
  const adjacent = required.some((r) => r.up.includes('adjacent')) ? await d.adjacent() : undefined;
  return missingPeers(required, seen ?? (await d.peers()), adjacent);
}
export const wordsOf = (missing: readonly MissingPeer[]): string[] => missing.map((m) => m.words);
