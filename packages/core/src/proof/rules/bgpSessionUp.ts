import type { Finding } from '../../finding.ts';
import { isClosed, isTenants, SPOKEN_BY_NONE, statementPlace, type Session } from '../../network/sessions.ts';
import { groupBy } from '../../numbers/order.ts';
import { found, type DesignRule, type RuleSpot } from '../rule.ts';

/** What neither end asks for is not missing: EVPN over loopbacks has no IPv4. */
const asked = (reason: string | null): string | null => (reason === SPOKEN_BY_NONE ? null : reason);

const FAMILIES = [
  ['IPv4', 'ipv4Reason'],
  ['IPv6', 'ipv6Reason'],
  ['EVPN', 'evpnReason'],
] as const;

/** Sessions of which nobody can say whether they come up, each reason once a switch. */
function unsureSessions(sessions: readonly Session[]): Finding[] {
  const unsure = sessions.filter((s) => s.unsure !== undefined);
  return [...groupBy(unsure, (s) => `${s.host} ${s.unsure}`).values()].map((alike) => {
    const [s] = alike as [Session];
    const more = alike.length === 1 ? '' : ` and of ${alike.length - 1} more`;
    return {
      ...found(
        bgpSessionUp,
        { host: s.host, configPlace: statementPlace(s) },
        `${s.host}: whether the session to ${s.farHost ?? s.peer}${more} comes up cannot be said: ${s.unsure}.`,
        'Look at it on the switch once it is there; before and after, it counts as down.',
      ),
      severity: 'warning' as const,
    };
  });
}

export const bgpSessionUp: DesignRule = {
  id: 'bgp-session-up',
  title: 'Every BGP session comes up, by the words of both ends',
  severity: 'error',
  scope: 'network',
  source: 'RFC 4271 §6.2, §8; RFC 7938 §5',
  reads: [],
  judge: ({ sessions }) => [
    ...unsureSessions(sessions),
    ...sessions
      .filter((s) => (!s.up || !s.ipv4 || !s.ipv6 || !s.evpn) && s.unsure === undefined)
      .flatMap((s) => {
        const at = s.stopped ?? { host: s.host };
        const spot: RuleSpot = { host: at.host, configPlace: s.stopped?.configPlace ?? statementPlace(s) };
        // What a tenant tells outside may be closed for a while.
        if (isTenants(s) && isClosed(s))
          return [
            {
              ...found(
                bgpSessionUp,
                spot,
                `${s.host}: the session to ${s.farHost ?? s.peer} over ${s.port ?? s.peer} is ${s.reason}.`,
                'Open it again under Outside when it is to carry routes.',
              ),
              severity: 'note' as const,
            },
          ];
        if (!s.up)
          return [
            found(
              bgpSessionUp,
              spot,
              `${s.host}: the session to ${s.farHost ?? s.peer} over ${s.port ?? s.peer} stays down: ${s.reason}.`,
              s.stopped
                ? 'Let BGP pass before it: TCP to and from port 179, and ICMPv6 where neighbours have no addresses.'
                : 'Make both ends agree, and check the cable.',
            ),
          ];
        const [family, why] =
          FAMILIES.map(([word, field]) => [word, asked(s[field])] as const).find(([, r]) => r !== null) ?? [];
        return !why
          ? []
          : [
              found(
                bgpSessionUp,
                spot,
                `${s.host}: ${family} to ${s.farHost} over ${s.port ?? s.peer} stays down: ${why}.`,
                'Activate the address family at both ends.',
              ),
            ];
      }),
  ],
};
