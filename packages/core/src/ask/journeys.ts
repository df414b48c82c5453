import { lagKey, lagWords, sviKey } from '../config/interfaces.ts';
import { vxlanKey } from '../config/overlay.ts';
import { tableWords, type FlowStep, type Way } from '../network/flows.ts';
import { PING, type Traffic } from '../network/traffic.ts';
import { hostReach, waysBetween } from '../network/multihoming.ts';
import type { HostPort, NetworkModel } from '../network/networkModel.ts';
import type { Trouble } from '../network/trouble.ts';
import { underlaySteps } from '../network/underlayWays.ts';
import { formatAddress, parseAddress } from '../numbers/address.ts';
import { naturally } from '../numbers/order.ts';
import { familyOfText } from '../numbers/prefix.ts';
import type { Because, Hop, Journey } from './answer.ts';
import { tenantRoute } from './tenantRoutes.ts';

/** Where a frame of a server comes in or goes out. */
function atPort(model: NetworkModel, h: HostPort, does: string): Hop {
  const lag = model.views.get(h.switch)?.lagOfPort.get(h.port);
  const words = `${lag ? lagWords(lag) : h.port} carries VLAN ${h.vlan}`;
  const because: Because = {
    host: h.switch,
    words,
    configPlace: lag ? ['lags', lagKey(lag), 'bridging'] : ['ports', h.port, 'bridging'],
  };
  return { at: [h.switch], does, because: [because] };
}

/** The switches that packets to a VTEP go over, step by step; those of one step share the load. */
function underlayHops(model: NetworkModel, from: string, to: string, vtep: string): Hop[] {
  return underlaySteps(model, from, to, vtep).flatMap((hops): Hop[] => {
    const at = [...new Set(hops.map((h) => h.to))].filter((h) => h !== to).sort(naturally);
    if (at.length === 0) return [];
    const because = hops.map(({ host, words, configPlace }): Because => ({ host, words, configPlace }));
    return [{ at, does: `on to ${vtep}${at.length > 1 ? ', the load is shared' : ''}`, because }];
  });
}

/** What a table does with packets, and what lies between where it sends them through EVPN. */
function tableHops(model: NetworkModel, { node, route }: FlowStep): Hop[] {
  const { host, vrf } = node;
  const answer = tenantRoute(model, host, vrf, route.prefix);
  if (!answer) return [];
  const over = answer.ways.map((w) => (w.to === null ? w.over : `${w.over} of ${w.to}`));
  const does =
    route.kind === 'connected'
      ? `has ${answer.prefix} itself: ${over[0]}`
      : `sends it on ${tableWords(node)} by ${answer.prefix}: ${over.join(', ')}${over.length > 1 ? ', the load is shared' : ''}`;
  const [first] = answer.ways;
  const tunnel = route.kind === 'evpn' && first?.to ? first.over.split(' ').at(-1)! : null;
  return [
    { at: [host], does, because: answer.because },
    ...(tunnel === null ? [] : underlayHops(model, host, first!.to!, tunnel)),
  ];
}

function journey(model: NetworkModel, a: HostPort, b: HostPort, way: Way): Journey {
  const hops: Hop[] = [atPort(model, a, `takes what ${a.host} sends in on ${a.port}, VLAN ${a.vlan}`)];
  const view = model.views.get(a.switch);
  const svi = view?.sviByVlan.get(a.vlan);
  if (view && !way.bridged && svi)
    hops.push({
      at: [a.switch],
      does: `routes it in ${svi.vrf === undefined ? 'no VRF' : `VRF ${svi.vrf}`}`,
      because: [
        { host: a.switch, words: `${a.gateway} is the gateway of VLAN ${a.vlan}`, configPlace: ['svis', sviKey(svi)] },
      ],
    });
  for (const step of way.steps ?? []) hops.push(...tableHops(model, step));
  const { trouble } = way;
  const done = (arrives: boolean, all: readonly Hop[]): Journey => ({ from: a.host, to: b.host, arrives, hops: all });
  const stops = (all: readonly Hop[], { host, words, configPlace }: Trouble): Journey => {
    const because = [{ host, words, ...(configPlace ? { configPlace } : {}) }];
    return done(false, [...all, { at: [host], does: `it stops here: ${words}`, because }]);
  };
  const filtered = trouble?.configPlace?.[0] === 'filters';
  if (trouble && !filtered) return stops(hops, trouble);
  const taken = hops.length;
  const arrives = (): Journey => {
    if (!trouble) return done(true, [...hops, atPort(model, b, `gives it to ${b.host} on ${b.port}, VLAN ${b.vlan}`)]);
    // Filters stop it on a way that leads on: it came as far as their switch.
    const met = hops.findIndex((h, i) => i > 0 && h.at.includes(trouble.host));
    return stops(hops.slice(0, trouble.host === a.switch || met < 0 ? taken : met + 1), trouble);
  };
  if (way.steps) return arrives();
  const far = model.views.get(b.switch);
  const tunnel = way.vni === null ? undefined : far?.vxlanByVni.get(way.vni);
  const vtep = tunnel?.localAddress;
  if (way.vni !== null && vtep !== undefined) {
    const own = view!.vxlanByVni.get(way.vni);
    hops.push({
      at: [a.switch],
      does: `sends it in VNI ${way.vni} to ${vtep} of ${b.switch}`,
      because: own
        ? [{ host: a.switch, words: `VNI ${way.vni} is on its bridge`, configPlace: ['vxlans', vxlanKey(own)] }]
        : [],
    });
    hops.push(...underlayHops(model, a.switch, b.switch, vtep));
    hops.push({
      at: [b.switch],
      does: `takes it out of VNI ${way.vni}`,
      because: [
        {
          host: b.switch,
          words: `VNI ${way.vni} ends at ${vtep}`,
          configPlace: ['vxlans', vxlanKey(tunnel!), 'localAddress'],
        },
      ],
    });
  } else if (a.switch !== b.switch) {
    // No VNI crosses the fabric: it is bridged from switch to switch.
    const does = `sends it over trunks to ${b.switch}; spanning tree chooses the way`;
    hops.push({ at: [a.switch], does, because: [] });
  }
  return arrives();
}

/** Whether one server reaches another and has its answer, with the ways there and back; a string says why there is no answer. */
export function journeys(
  model: NetworkModel,
  from: string,
  to: string,
  traffic: Traffic = PING,
): { readonly ok: boolean; readonly unsure: string | null; readonly ways: readonly Journey[] } | string {
  const find = (name: string): HostPort[] => {
    const address = parseAddress(name);
    const ip = address ? formatAddress(address) : name;
    return model.hosts.filter((h) => h.host === name || h.ip === ip);
  };
  const [mine, theirs] = [find(from), find(to)];
  if (mine.length === 0 || theirs.length === 0) return `there is no server ${mine.length > 0 ? to : from}`;
  // They speak by a family that both have, where an address does not say it by the one that was written down first.
  const a = mine.find((h) => theirs.some((o) => familyOfText(o.ip) === familyOfText(h.ip)));
  const b = a && theirs.find((h) => familyOfText(h.ip) === familyOfText(a.ip));
  if (!a || !b)
    return `${from} has IPv${familyOfText(mine[0]!.ip)} alone and ${to} IPv${familyOfText(theirs[0]!.ip)}: no address of one can be sent to from the other`;
  if (a === b) return 'it is one and the same server';
  const { ok, unsure } = hostReach(model, a, b, traffic);
  const all = waysBetween(model, a, b, traffic);
  // Of several ways one that does not arrive says more.
  const { asks, tells, both } = all.find((w) => w.both.there.trouble ?? w.both.back?.trouble) ?? all[0]!;
  const { there, back } = both;
  return { ok, unsure, ways: [journey(model, ...asks, there), ...(back ? [journey(model, ...tells, back)] : [])] };
}
