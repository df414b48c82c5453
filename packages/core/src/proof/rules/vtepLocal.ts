import { vxlanKey, vxlanWords } from '../../config/overlay.ts';
import { found, hostByHost, type RuleSpot } from '../rule.ts';

export const vtepLocal = hostByHost({
  id: 'vtep-local',
  title: 'VXLAN starts at an own, announced address',
  severity: 'error',
  source: 'RFC 7348 §5; the others must have a route to it',
  reads: ['loopbacks', 'port addresses', 'vxlans'],
  judgeHost: ({ views }, host) => {
    const out = [];
    const view = views.get(host)!;
    for (const v of view.config.vxlans) {
      const spot: RuleSpot = { host, configPlace: ['vxlans', vxlanKey(v), 'localAddress'] };
      if (v.localAddress === undefined)
        out.push(
          found(
            vtepLocal,
            spot,
            `${host} ${vxlanWords(v)} has no local tunnel address.`,
            'Give it the VTEP address of the switch.',
          ),
        );
      else if (!view.ownAddresses.has(v.localAddress))
        out.push(
          found(
            vtepLocal,
            spot,
            `${host} ${vxlanWords(v)} starts at ${v.localAddress}, which the switch does not have.`,
            `Use ${view.config.loopbacks.at(-1) ?? 'a loopback address'}.`,
          ),
        );
      else if (!view.announced.has(v.localAddress))
        out.push(
          found(
            vtepLocal,
            spot,
            `${host} does not announce its VTEP ${v.localAddress}.`,
            'Let the redistribution’s prefix list permit it.',
          ),
        );
    }
    return out;
  },
});
