import { configDifferences, dialectWriting, type ConfigFiles } from '@anthemion/core';
import type { PeerStates } from '../../reach/driver.ts';
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

/** Peers that must be up and are not, in words; empty = settled. */
export function missingPeers(expected: readonly ExpectedPeer[], seen: PeerStates): string[] {
  return expected.flatMap((e) => {
    const s = seen.get(e.peer);
    const down = [
      e.ipv4 && s?.ipv4 !== 'Established' ? `IPv4 ${s?.ipv4 ?? 'absent'}` : '',
      e.ipv6 && s?.ipv6 !== 'Established' ? `IPv6 ${s?.ipv6 ?? 'absent'}` : '',
      e.evpn && s?.evpn !== 'Established' ? `EVPN ${s?.evpn ?? 'absent'}` : '',
    ].filter(Boolean);
    return down.length > 0 ? [`${e.peer} (${down.join(', ')})`] : [];
  });
}
