import { onceFor } from '../onceFor.ts';
import { vrfEnd, whyUnheard, type NetworkModel } from './networkModel.ts';
import type { TenantNode } from './nextHop.ts';
import { targetsMeet } from './overlay.ts';
import type { CarriedVrf } from './vrfs.ts';

/** Who may hear whom by route targets (RFC 4364 §4.3.1), over all VRFs that work. */
export class Targets {
  private readonly exporters = new Map<string, TenantNode[]>();
  private readonly importers = new Map<string, TenantNode[]>();
  private readonly views: NetworkModel['views'];

  constructor({ views }: NetworkModel) {
    this.views = views;
    const add = (map: Map<string, TenantNode[]>, key: string, node: TenantNode): void => {
      const known = map.get(key);
      if (known) known.push(node);
      else map.set(key, [node]);
    };
    for (const [host, view] of views)
      for (const vrf of view.vrfs.values()) {
        if (vrf.l3Vni === undefined || vrf.broken !== null) continue;
        const node = { host, vrf: vrf.name };
        for (const e of vrf.exports) for (const key of [e, automatic(e)]) add(this.exporters, key, node);
        for (const i of vrf.imports) add(this.importers, i, node);
      }
  }

  private carried({ host, vrf }: TenantNode): CarriedVrf | undefined {
    const carried = vrf === undefined ? undefined : this.views.get(host)!.vrfs.get(vrf);
    return carried?.l3Vni === undefined || carried.broken !== null ? undefined : carried;
  }
  private others(node: TenantNode, found: readonly TenantNode[][], meet: (c: CarriedVrf) => boolean): TenantNode[] {
    // What a switch exports itself it does not import (FRR 8.4.4).
    return [...new Set(found.flat())].filter((n) => n.host !== node.host && meet(this.carried(n)!));
  }
  /** What a VRF exports and imports, as one word; VRFs of which it is the same hear and are heard by the same others. */
  wordsOf(node: TenantNode): string {
    const own = this.carried(node);
    return own ? `${own.exports.join(' ')}\n${own.imports.join(' ')}` : '';
  }
  /** VRFs of a switch that import the routes of a VRF of another. */
  listenersOn(host: string, speaker: TenantNode): string[] {
    const there = this.carried(speaker);
    if (!there || host === speaker.host) return [];
    const own = [...this.views.get(host)!.vrfs.values()].filter((v) => this.carried({ host, vrf: v.name }));
    return own.filter((v) => targetsMeet(there.exports, v.imports)).map((v) => v.name);
  }
  /** VRFs of other switches whose routes a VRF imports. */
  speakersTo(node: TenantNode): TenantNode[] {
    const own = this.carried(node);
    if (!own) return [];
    const found = own.imports.map((i) => this.exporters.get(i) ?? []);
    return this.others(node, found, (c) => targetsMeet(c.exports, own.imports));
  }
  /** VRFs of other switches that import the routes of a VRF. */
  listenersTo(node: TenantNode): TenantNode[] {
    const own = this.carried(node);
    if (!own) return [];
    const found = own.exports.flatMap((e) => [this.importers.get(e) ?? [], this.importers.get(automatic(e)) ?? []]);
    return this.others(node, found, (c) => targetsMeet(own.exports, c.imports));
  }
}
/** What an automatic import looks for in a target. */
const automatic = (target: string): string => `*${target.slice(target.lastIndexOf(':'))}`;

/** The targets of a model, once. */
export const targetsIn = onceFor((model: NetworkModel): Targets => new Targets(model));

/** Switches whose routes a VRF imports and can use, in the order of the model: by their targets, whatever their VNI. */
export function l3ImportsOf(model: NetworkModel, host: string, vrfName: string): string[] {
  const here = model.views.get(host)?.vrfs.get(vrfName);
  if (!here) return [];
  const heard = targetsIn(model)
    .speakersTo({ host, vrf: vrfName })
    .filter((n) => {
      const there = model.views.get(n.host)!.vrfs.get(n.vrf!)!;
      return whyUnheard(model, vrfEnd(host, here), vrfEnd(n.host, there)) === null;
    });
  return [...new Set(heard.map((n) => n.host))].sort((a, b) => model.index.get(a)! - model.index.get(b)!);
}
