import { lagKey } from '../../config/interfaces.ts';
import { segmentWords } from '../../config/pairing.ts';
import { groupBy } from '../../numbers/order.ts';
import { vtepsHeard, type NetworkModel } from '../../network/networkModel.ts';
import { endsHeard, forwardsFloods, segmentsIn, type SegmentEnd } from '../../network/segments.ts';
import { found, type DesignRule } from '../rule.ts';

/** A switch that floods one VNI to both ends of a segment; undefined = there is none. */
function flooder(model: NetworkModel, a: SegmentEnd, b: SegmentEnd): string | undefined {
  for (const vni of a.vnis.filter((v) => b.vnis.includes(v))) {
    const both = [a, b].map((e) => e.vtep);
    const found = model.carriers.get(vni)?.find((host) => {
      if (host === a.host || host === b.host) return false;
      const heard = vtepsHeard(model, host, vni);
      return both.every((vtep) => vtep !== undefined && heard.includes(vtep));
    });
    if (found !== undefined) return found;
  }
  return undefined;
}

export const segmentElectsOne: DesignRule = {
  id: 'segment-elects-one',
  title: 'Of the switches of a multihomed server one forwards what is flooded',
  severity: 'error',
  scope: 'network',
  source: 'RFC 7432 §8.1, §8.5; RFC 9785',
  reads: ['bridge', 'lags', 'outsideL3Vni', 'ports', 'vrfs', 'vxlans'],
  judge: (model) => {
    const doubled = [...segmentsIn(model).values()].flatMap((ends) => {
      const [first, ...others] = ends.filter((e) => forwardsFloods(model, e));
      return others.flatMap((e) => {
        const floods = flooder(model, first!, e);
        return floods === undefined ? [] : [{ first: first!, other: e, floods }];
      });
    });
    // What parts two switches parts them for all they share.
    return [...groupBy(doubled, (d) => `${d.first.host} ${d.other.host}`).values()].map((same) => {
      const { first, other, floods } = same[0]!;
      const deaf = endsHeard(model, other).some((o) => o.host === first.host) ? first : other;
      const mute = deaf === other ? first : other;
      const more = same.length > 1 ? ` and to ${same.length - 1} more` : '';
      return found(
        segmentElectsOne,
        { host: deaf.host, configPlace: ['lags', lagKey(deaf.lag), 'segment'] },
        `${first.host} and ${other.host} both forward what is flooded to segment ${segmentWords(other.lag.segment!)}${more}, so that servers get twice what ${floods} floods: ${deaf.host} hears no EVPN route of ${mute.host}.`,
        'Bring the EVPN sessions between them up, and give both a VTEP of their own.',
      );
    });
  },
};
