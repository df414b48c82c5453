import { vniEnd, vtepsHeard, whyUnheard, type NetworkModel } from '../network/networkModel.ts';
import { absenceDoubt } from '../network/modelDoubts.ts';
import { vtepsDoubt } from '../network/uncertain.ts';
import { parseCidr, prefixOf } from '../numbers/ipv4.ts';
import type { Hearing } from './answer.ts';
import { routeTo } from './routesOf.ts';

/** What every switch has of a prefix of the underlay. */
export function hearersOf(model: NetworkModel, text: string): readonly Hearing[] | string {
  const cidr = parseCidr(text);
  if (!cidr) return `${text} is no prefix`;
  return model.switches.map(({ host }) => {
    const route = routeTo(model, host, prefixOf(cidr));
    const way = ({ over, to, path }: NonNullable<typeof route>['ways'][number]): string =>
      to === null ? over : `${to} over ${over}${path.length > 0 ? `, path ${path.join(' ')}` : ''}`;
    return { host, hears: route?.ways.map(way) ?? [], deafTo: [], unsure: route ? route.unsure : absenceDoubt(model) };
  });
}

/** Who carries a VNI, whom each hears, and whom not. */
export function carriersOf(model: NetworkModel, vni: number): readonly Hearing[] | string {
  const carriers = model.carriers.get(vni);
  if (!carriers) return `no switch carries VNI ${vni}`;
  return carriers.map((host) => {
    const here = vniEnd(host, vni, model.views.get(host)!.l2Vnis.get(vni)!);
    const deafTo = carriers.flatMap((other) => {
      if (other === host) return [];
      const trouble = whyUnheard(model, here, vniEnd(other, vni, model.views.get(other)!.l2Vnis.get(vni)!));
      return trouble ? [{ host: other, because: trouble }] : [];
    });
    return { host, hears: vtepsHeard(model, host, vni), deafTo, unsure: vtepsDoubt(model, host, vni) };
  });
}
