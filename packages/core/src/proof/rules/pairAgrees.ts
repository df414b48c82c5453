import { lagKey, lagWords } from '../../config/interfaces.ts';
import { esiOf, segmentWords } from '../../config/pairing.ts';
import { groupBy } from '../../numbers/order.ts';
import { found, type DesignRule, type RuleSpot } from '../rule.ts';

export const pairAgrees: DesignRule = {
  id: 'pair-agrees',
  title: 'Both switches of a multihomed LAG agree',
  severity: 'error',
  scope: 'network',
  source: 'RFC 7432 §5, §8.1; RFC 8365 §8.3; IEEE 802.1AX: links with one system at their far end are one LAG',
  reads: ['lags'],
  judge: ({ switches }) => {
    const ends = switches.flatMap(({ host, config }) =>
      config.lags.filter((l) => l.segment).map((l) => ({ host, lag: l, config })),
    );
    const out = [];
    for (const same of groupBy(ends, (e) => esiOf(e.lag.segment!)).values()) {
      const a = same[0]!;
      const esi = segmentWords(a.lag.segment!);
      for (const [host, here] of groupBy(same, (e) => e.host))
        if (here.length > 1)
          out.push(
            found(
              pairAgrees,
              { host, configPlace: ['lags', lagKey(here[1]!.lag), 'segment'] },
              `${host} uses Ethernet segment ${esi} on ${here.map((h) => lagWords(h.lag)).join(' and ')}.`,
              'Give each LAG its own number.',
            ),
          );
      if (same.length === 1)
        out.push(
          found(
            pairAgrees,
            { host: a.host, configPlace: ['lags', lagKey(a.lag)] },
            `${a.host} ${lagWords(a.lag)}: no other switch has Ethernet segment ${esi}.`,
            'Configure the LAG on the other half of the pair, with the same segment.',
          ),
        );
      for (const b of same.slice(1)) {
        const vlans = (e: typeof a): string => JSON.stringify(e.lag.bridging ?? {});
        const spot: RuleSpot = { host: b.host, configPlace: ['lags', lagKey(b.lag)] };
        if (vlans(a) !== vlans(b))
          out.push(
            found(
              pairAgrees,
              spot,
              `${b.host} ${lagWords(b.lag)} and ${a.host} ${lagWords(a.lag)} are one LAG but carry different VLANs.`,
              'Give both the same VLANs.',
            ),
          );
        const [own, other] = [a.lag.actorSystem, b.lag.actorSystem];
        if (own !== other || own === undefined)
          out.push(
            found(
              pairAgrees,
              {
                ...spot,
                configPlace: other === undefined ? ['lags', lagKey(b.lag)] : ['lags', lagKey(b.lag), 'actorSystem'],
              },
              `${b.host} ${lagWords(b.lag)} shows ${other ?? 'itself'} as its system, ${a.host} ${lagWords(a.lag)} ${own ?? 'itself'}: a server takes them for two LAGs and uses one.`,
              'Give both the same bond-ad-actor-system.',
            ),
          );
        if (a.lag.mtu !== b.lag.mtu)
          out.push(
            found(
              pairAgrees,
              spot,
              `${b.host} ${lagWords(b.lag)} has MTU ${b.lag.mtu ?? 'default'}, ${a.host} ${lagWords(a.lag)} has ${a.lag.mtu ?? 'default'}.`,
              'Give both the same MTU.',
            ),
          );
      }
    }
    return out;
  },
};
