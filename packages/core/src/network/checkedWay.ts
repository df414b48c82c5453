import { Checks, type Check, type ChecksOf } from './checkpoints.ts';
import { filtered, filtersAnywhere, type Filtered, type Packet } from './filters.ts';
import type { Way } from './flows.ts';
import type { HostPort, NetworkModel, ReadSwitch } from './networkModel.ts';
import { fits, type PacketSize } from './packetSize.ts';
import { overTables, overVrf } from './routedChecks.ts';

/** Every filter that packets meet from one server to another, and what they have to fit where their size counts. */
function checksOn(model: NetworkModel, a: HostPort, b: HostPort, way: Way, of: ChecksOf): Checks {
  const out = new Checks(model, of);
  const [from, to] = [out.server(a), out.server(b)];
  const far = a.switch !== b.switch;
  if (way.bridged && !far) out.bridged(a.switch, from, to);
  else if (way.bridged && way.vni !== null && model.trunks.length === 0) {
    out.bridged(a.switch, from, out.vxlan(a.switch, way.vni));
    out.across(way.vni, a.switch, b.switch);
    out.bridged(b.switch, out.vxlan(b.switch, way.vni), to);
  } else if (way.bridged) out.unknown = 'which bridges it goes through is spanning tree’s choice';
  else {
    out.up(a.switch, from, out.svi(a.switch, a.vlan));
    if (way.steps) overTables(out, model, a, b, way.steps);
    else overVrf(out, a, b, way.vni);
    out.down(b.switch, to, out.svi(b.switch, b.vlan));
  }
  return out;
}

/** What becomes of packets on a way. */
export interface CheckedWay extends Filtered {
  /** Who routes them, so that it knows the flow. */
  readonly routers: ReadonlySet<string>;
  /** Filters were asked about them: other traffic may fare otherwise. */
  readonly asked: boolean;
}
/**
 * Takes packets through every filter on their way, and, where their size is said, through every device.
 * @param known switches that routed what this answers: they know the flow; undefined = it is the first of its flow
 */
export function checkedWay(
  model: NetworkModel,
  a: HostPort,
  b: HostPort,
  way: Way,
  packet: Packet,
  size: PacketSize | null,
  known?: ReadonlySet<string>,
): CheckedWay {
  const routers = new Set<string>();
  let asked = false;
  const filtering = filtersAnywhere(model);
  if (size === null && !filtering) return { trouble: null, unsure: null, routers, asked };
  const of = { sized: size !== null, six: packet.family === 'ip6', answers: known !== undefined };
  const { stages, unknown } = checksOn(model, a, b, way, of);
  let unsure = unknown;
  const judge = (check: Check): Filtered => {
    if (!('at' in check)) return fits(model.views.get(check.host)!.config, check, size!);
    const { at, packet: what } = check;
    const sw: ReadSwitch = model.switches[model.index.get(at.host)!]!;
    if (what !== 'traffic') {
      const found = filtered(sw, what, at);
      return check.known && found.trouble
        ? { trouble: null, unsure: found.unsure ?? `${found.trouble.words}, but its end may be known already` }
        : found;
    }
    if (at.layer === 'routed') routers.add(at.host);
    asked ||= (sw.config.filters ?? []).length > 0;
    const states: Packet['states'] =
      known === undefined ? packet.states : known.has(at.host) ? ['established'] : ['new', 'invalid'];
    return filtered(sw, { ...packet, states }, at);
  };
  const along = (row: readonly Check[]): Filtered => {
    let doubt: string | null = null;
    for (const check of row) {
      const { trouble, unsure: why } = judge(check);
      doubt ??= why;
      if (trouble) return { trouble, unsure: doubt };
    }
    return { trouble: null, unsure: doubt };
  };
  /** What may stop it, where its size is asked about: something further on may stop it for certain. */
  let perhaps: CheckedWay | null = null;
  for (const stage of stages) {
    const rows = stage.map(along);
    const stopped = rows.find((r) => r.trouble !== null);
    unsure ??= rows.find((r) => r.unsure !== null)?.unsure ?? null;
    if (!stopped) continue;
    const everyWay = rows.every((r) => r.trouble !== null);
    if (!everyWay) unsure ??= `the load is shared, and on one of the ways ${stopped.trouble!.words}`;
    if (size === null) return { trouble: stopped.trouble, unsure, routers, asked };
    if (everyWay && rows.every((r) => r.unsure === null))
      return { trouble: stopped.trouble, unsure: unknown, routers, asked };
    perhaps ??= { trouble: stopped.trouble, unsure, routers, asked };
  }
  return perhaps ?? { trouble: null, unsure, routers, asked };
}
