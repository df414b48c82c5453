import { SPOKEN_BY_NONE, statementPlace } from '../../network/sessions.ts';
import { found, type DesignRule, type RuleSpot } from '../rule.ts';

const asked = (reason: string | null): string | null => (reason === SPOKEN_BY_NONE ? null : reason);

export const bgpSessionUp: DesignRule = {
  id: 'bgp-session-up',
  title: 'Every BGP session comes up, by the words of both ends',
  severity: 'error',
  source: 'RFC 4271 §6.2, §8; RFC 7938 §5',
  reads: [],
  judge: ({ sessions }) =>
    sessions
      .filter((s) => (!s.up || !s.ipv4 || !s.evpn) && s.unsure === undefined)
      // What neither end asks for is not missing: EVPN over loopbacks has no IPv4.
      .map((s) => (s.up ? { ...s, ipv4Reason: asked(s.ipv4Reason), evpnReason: asked(s.evpnReason) } : s))
      .flatMap((s) => {
        const at = s.stopped ?? { host: s.host };
        const spot: RuleSpot = { host: at.host, configPlace: s.stopped?.configPlace ?? statementPlace(s) };
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
        const why = s.ipv4Reason ?? s.evpnReason;
        return why === null
          ? []
          : [
              found(
                bgpSessionUp,
                spot,
                `${s.host}: ${s.ipv4Reason === null ? 'EVPN' : 'IPv4'} to ${s.farHost} over ${s.port ?? s.peer} stays down: ${why}.`,
                'Activate the address family at both ends.',
              ),
            ];
      }),
};
