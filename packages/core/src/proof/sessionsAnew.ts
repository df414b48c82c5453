import type { CompiledFabric } from '../compile/compileFabric.ts';
import { routersIn } from '../config/bgp.ts';
import type { Finding } from '../finding.ts';
import type { EffectivePeer, RouterView } from '../network/bgp.ts';
import { viewOf } from '../network/switchView.ts';

/** As many switches are named at most; the rest is counted. */
const NAMED = 3;

/** Words of a session that FRR 8.4.4 closes it for when they change; timers, policies, limits and BFD it takes up as it is. */
const CLOSES: readonly (readonly [words: string, of: (peer: EffectivePeer, router: RouterView) => unknown])[] = [
  ['the families they speak', (p) => `${p.ipv4} ${p.ipv6} ${p.evpn}`],
  ['the router id', (_, r) => r.speaker.routerId],
  ['the AS number they show', (p) => p.localAs],
  ['TTL security', (p) => p.ttlSecurity],
  ['the password', (p) => p.password],
  ['where they come from', (p) => p.updateSource],
  ['who calls', (p) => p.passive],
];

/**
 * Says where sessions that stand before and after a change are closed by it and come up again, each time one of their ends gets
 * its text. What both ends must share is said by `bothEnds`.
 * @param seated does a switch sit there already
 */
export function sessionsAnew(
  after: CompiledFabric,
  before: CompiledFabric,
  seated: (host: string) => boolean,
): Finding[] {
  const was = new Map(before.switches.map((s) => [s.seat.id, s]));
  /** Switches, and ends on them, by why. */
  const found = new Map<string, { readonly hosts: Set<string>; ends: number }>();
  for (const { seat, config } of after.switches) {
    const old = was.get(seat.id)?.config;
    if (!old?.bgp || !config.bgp || old.bgp === config.bgp || !seated(seat.host)) continue;
    const [then, now] = [viewOf(old), viewOf(config)];
    for (const { vrf, speaker } of routersIn(config)) {
      // Most tenants speak to nobody.
      const [a, b] = speaker.peers.length === 0 ? [null, null] : [then.router(vrf), now.router(vrf)];
      if (!a || !b) continue;
      for (const peer of b.peers) {
        const known = a.peerByName.get(peer.name);
        if (!known) continue;
        for (const [words, of] of CLOSES) {
          if (of(known, a) === of(peer, b)) continue;
          const one = found.get(words) ?? { hosts: new Set(), ends: 0 };
          one.hosts.add(seat.host);
          one.ends++;
          found.set(words, one);
        }
      }
    }
  }
  return [...found].map(([words, { hosts, ends }]): Finding => {
    const named = [...hosts].slice(0, NAMED).join(', ');
    const more = hosts.size > NAMED ? ` and ${hosts.size - NAMED} more` : '';
    return {
      rule: 'sessions-start-anew',
      severity: 'warning',
      message: `${ends} BGP session ends of ${named}${more} start anew, as ${words} change: for some seconds after each gets its text nothing goes over them.`,
      cure: 'It goes in waves, a few switches at a time: roll it out when what hangs on one switch alone may stand still for some seconds.',
      subjects: ['fabric'],
    };
  });
}
