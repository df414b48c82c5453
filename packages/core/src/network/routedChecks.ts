import { familyOfText } from '../numbers/prefix.ts';
import type { Checks } from './checkpoints.ts';
import { sviDevice } from './devices.ts';
import type { Devices } from './filters.ts';
import type { FlowStep } from './flows.ts';
import { subnetOf, subnetsIn } from './localRoutes.ts';
import type { HostPort, NetworkModel } from './networkModel.ts';
import type { TenantNode } from './nextHop.ts';
import type { Session } from './sessions.ts';

/** Routed within a VRF: at its own switch, or there and at the far one. */
export function overVrf(out: Checks, a: HostPort, b: HostPort, vni: number | null): void {
  const own = out.svi(a.switch, a.vlan);
  if (a.switch === b.switch) {
    out.routed(a.switch, own, out.svi(b.switch, b.vlan));
    return;
  }
  const l3 = vni === null ? null : out.l3(a.switch, vni);
  const there = vni === null ? null : out.l3(b.switch, vni);
  if (vni === null || !l3 || !there) {
    out.routed(a.switch, own, null);
    out.unknown = 'over which bridges it goes then is not known';
    return;
  }
  out.routed(a.switch, own, l3);
  out.down(a.switch, out.vxlan(a.switch, vni));
  out.across(vni, a.switch, b.switch);
  // In the VNI of one network it is bridged there; in that of a VRF it is routed once more.
  if (out.svi(b.switch, b.vlan)?.names[0] === there.names[0]) {
    out.bridged(b.switch, out.vxlan(b.switch, vni), out.server(b));
    return;
  }
  out.up(b.switch, out.vxlan(b.switch, vni));
  out.routed(b.switch, there, out.svi(b.switch, b.vlan));
}

/** From table to table, by the first way of each. */
export function overTables(
  out: Checks,
  model: NetworkModel,
  a: HostPort,
  b: HostPort,
  steps: readonly FlowStep[],
): void {
  let came = out.svi(a.switch, a.vlan);
  steps.forEach(({ node, route }, i) => {
    const { host, vrf } = node;
    const next = steps[i + 1]?.node;
    const ways = 'ways' in route ? route.ways : [];
    if (ways.length > 1 || ('written' in route && route.written.length > 1)) out.unknown ??= 'the load is shared';
    if (!next) {
      const svi = route.kind === 'connected' ? route.subnets.find((s) => s.svi)?.svi : undefined;
      out.routed(host, came, svi ? out.svi(host, svi.vlan) : null);
      const vni = svi && model.views.get(host)!.vniOfVlan.get(svi.vlan);
      if (host === b.switch) return;
      if (vni === undefined) {
        out.unknown ??= 'over which bridges it goes then is not known';
        return;
      }
      out.down(host, out.vxlan(host, vni), null);
      out.across(vni, host, b.switch);
      return;
    }
    const leakedFrom = ways[0]?.leakedFrom;
    // It leaves over an interface of the other table: filters of both may see it, in which order is not known.
    if (leakedFrom) out.unknown ??= `it goes from ${vrf ?? 'one table'} to ${leakedFrom.vrf} within ${host}`;
    if (leakedFrom && next.host === host) return;
    const of = leakedFrom ? leakedFrom.vrf : vrf;
    const vni = of === undefined ? undefined : model.views.get(host)!.vrfs.get(of)?.l3Vni;
    const session = ways[0]?.session;
    if (session === null && vni !== undefined) {
      out.routed(host, came, out.l3(host, vni));
      out.down(host, out.vxlan(host, vni));
      out.across(vni, host, next.host);
      out.up(next.host, out.vxlan(next.host, vni));
      came = out.l3(next.host, vni);
      return;
    }
    const link = session && ways[0]?.via === undefined ? linkOf(model, node, session, next) : null;
    if (!link) {
      out.unknown ??= 'over which port it goes there is not known';
      out.routed(host, came, null);
      came = null;
      return;
    }
    out.routed(host, came, link.from.interface);
    if (link.from.bridged) out.down(host, link.from.bridged, link.from.interface);
    if (link.to.bridged) out.up(next.host, link.to.bridged, link.to.interface);
    came = link.to.interface;
  });
}

/** An end of a link between two tables: what is routed over, and the port beneath it where that is the interface of a VLAN. */
interface LinkEnd {
  readonly interface: Devices;
  readonly bridged: Devices | null;
}
/** The link that packets take from a table to the one that told it; null = it is over no cable, or not known. */
function linkOf(
  model: NetworkModel,
  from: TenantNode,
  told: Session,
  to: TenantNode,
): { readonly from: LinkEnd; readonly to: LinkEnd } | null {
  const own = told.port === null ? undefined : model.plan.end(told.host, told.port);
  if (own?.host !== from.host || told.host !== to.host || told.farPeer === null) return null;
  // Each end calls the other by its address on the link, which lies in its own subnet there.
  const ends = [endOf(model, from, own.port, told.farPeer), endOf(model, to, told.port!, told.peer)] as const;
  return ends[0] && ends[1] ? { from: ends[0], to: ends[1] } : null;
}
function endOf(model: NetworkModel, { host, vrf }: TenantNode, port: string, peer: string): LinkEnd | null {
  const { config, portByName } = model.views.get(host)!;
  const inVrf = vrf === undefined ? {} : { vrf };
  if (portByName.get(port)?.bridging === undefined) return { interface: { names: [port], ...inVrf }, bridged: null };
  const svi = subnetOf(subnetsIn(config, vrf, familyOfText(peer)), peer)?.svi;
  return svi ? { interface: { names: [sviDevice(svi)], ...inVrf }, bridged: { names: [port] } } : null;
}
