import { onceFor } from '../onceFor.ts';
import { doubtsOf, doubtWords, type Doubt, type SwitchDoubts } from './doubts.ts';
import { settleFamilies, type HostPort, type NetworkModel } from './networkModel.ts';
import type { Session } from './sessions.ts';

/** What is doubted on each switch that has a doubt. */
const doubtsIn = onceFor(
  (model: NetworkModel): ReadonlyMap<string, SwitchDoubts> =>
    new Map(
      model.switches.flatMap((s) => {
        const doubts = doubtsOf(s);
        return doubts ? [[s.host, doubts] as const] : [];
      }),
    ),
);

/** What of one end may change a session. */
function doubtAtEnd(model: NetworkModel, host: string, peer: string | null, port: string | null): Doubt | undefined {
  const doubts = doubtsIn(model).get(host);
  if (!doubts) return undefined;
  const group = model.views.get(host)?.config.bgp?.peers.find((p) => p.name === peer)?.group;
  return (
    doubts.routing ??
    (peer === null ? undefined : doubts.peers.get(peer)) ??
    (group === undefined ? undefined : doubts.peers.get(group)) ??
    (port === null ? undefined : doubts.ports.get(port))
  );
}

/** The line because of which it is uncertain whether a session is up; null = none. What has no cable is down for certain. */
function doubtOfSession(model: NetworkModel, s: Session): Doubt | null {
  const far = s.port === null ? undefined : model.plan.get(`${s.host} ${s.port}`);
  if (s.port !== null && far === undefined) return null;
  return (
    doubtAtEnd(model, s.host, s.peer, s.port) ??
    (far === undefined ? undefined : doubtAtEnd(model, far.host, s.farPeer ?? far.port, far.port)) ??
    null
  );
}

/** Why it is uncertain whether a session is up; null = it is not. */
export const sessionDoubt = (model: NetworkModel, s: Session): string | null => inWords(doubtOfSession(model, s));

const inWords = (doubt: Doubt | null): string | null => doubt && doubtWords(doubt);

/** An address of two switches: what is sent to it arrives at either, whoever it is for. */
function sharedAddress(model: NetworkModel, host: string, address: string | undefined): string | null {
  const other = address === undefined ? undefined : model.holders.get(address)?.find((h) => h !== host);
  return other === undefined ? null : `${address} of ${host} is ${other}’s too: what is sent there arrives at either`;
}

/** The network as it would be if lines that are not understood had done something to the sessions they doubt. */
interface World extends Pick<NetworkModel, 'underlay' | 'evpn'> {
  readonly doubt: Doubt;
}
/** A doubted session as it would be if it came up after all. */
const asUp = (s: Session): Session => (s.farPeer === null ? s : { ...s, up: true, ipv4: true, evpn: true });
const isWhole = (s: Session): boolean => s.up && s.ipv4 && s.evpn;

/**
 * What might be: for each switch with a doubt its doubted sessions down, and those that are down up; and all that are
 * doubted down at once. An answer that is the same in all of them does not hang on the lines that are not understood.
 */
const worlds = onceFor((model: NetworkModel): World[] => {
  const doubted = new Map<string, { readonly doubt: Doubt; readonly sessions: Set<Session> }>();
  const every = new Set<Session>();
  for (const s of model.sessions) {
    const doubt = doubtOfSession(model, s);
    if (!doubt) continue;
    every.add(s);
    const known = doubted.get(doubt.host);
    if (known) known.sessions.add(s);
    else doubted.set(doubt.host, { doubt, sessions: new Set([s]) });
  }
  const world = (doubt: Doubt, sessions: readonly Session[]): World => ({ doubt, ...settleFamilies(model, sessions) });
  const without = (gone: ReadonlySet<Session>): Session[] => model.sessions.filter((s) => !gone.has(s));
  const out = [...doubted.values()].flatMap(({ doubt, sessions }) => [
    world(doubt, without(sessions)),
    ...([...sessions].every(isWhole)
      ? []
      : [
          world(
            doubt,
            model.sessions.map((s) => (sessions.has(s) ? asUp(s) : s)),
          ),
        ]),
  ]);
  const [first] = doubted.values();
  return first && doubted.size > 1 ? [...out, world(first.doubt, without(every))] : out;
});

/** The first of the lines without whose sessions something about `router` and `origin` would be otherwise. */
function relationDoubt(
  model: NetworkModel,
  router: string,
  origin: string,
  differ: (world: World, at: number) => boolean,
): Doubt | null {
  const all = doubtsIn(model);
  if (all.size === 0) return null;
  const own = all.get(router)?.routing ?? all.get(origin)?.routing;
  if (own) return own;
  const at = model.index.get(origin)! * model.underlay.size + model.index.get(router)!;
  return worlds(model).find((w) => differ(w, at))?.doubt ?? null;
}

/** Why the paths of `router` to a loopback of `origin` are uncertain; null = they are not. */
export const pathsDoubt = (model: NetworkModel, router: string, origin: string, address: string): string | null =>
  sharedAddress(model, origin, address) ??
  inWords(relationDoubt(model, router, origin, (w, at) => w.underlay.counts[at] !== model.underlay.counts[at]));

/** The line because of which it is uncertain whether routes of `origin` come to `router` and can be used there. */
const arrivalDoubt = (model: NetworkModel, router: string, origin: string): Doubt | null =>
  relationDoubt(model, router, origin, (w, at) =>
    (['underlay', 'evpn'] as const).some((f) => (w[f].counts[at] === 0) !== (model[f].counts[at] === 0)),
  );

/** Why it is uncertain whom a switch hears in a VNI; null = it is not. */
export const vtepsDoubt = (model: NetworkModel, host: string, vni: number): string | null =>
  inWords(doubtOfVteps(model, host, vni));
function doubtOfVteps(model: NetworkModel, host: string, vni: number): Doubt | null {
  const all = doubtsIn(model);
  if (all.size === 0) return null;
  for (const h of [host, ...(model.carriers.get(vni) ?? [])]) {
    const doubts = all.get(h);
    const found = doubts?.vnis.get(vni) ?? doubts?.routing ?? doubts?.bridging;
    if (found) return found;
    const between = h === host ? null : arrivalDoubt(model, host, h);
    if (between) return between;
  }
  // A switch may carry it by a line that is not understood.
  for (const [, doubts] of all) if (doubts.vnis.has(vni)) return doubts.vnis.get(vni)!;
  return null;
}

/** Why it is uncertain whose routes a switch imports into a VRF; null = it is not. */
export function importsDoubt(model: NetworkModel, host: string, vrf: string): string | null {
  const vni = model.views.get(host)?.vrfs.get(vrf)?.l3Vni;
  for (const c of vni === undefined ? [] : (model.l3Carriers.get(vni) ?? [])) {
    const shared = sharedAddress(model, c.host, model.views.get(c.host)!.vrfs.get(c.vrf)!.vtep);
    if (shared !== null) return shared;
  }
  return inWords(doubtOfImports(model, host, vrf));
}
function doubtOfImports(model: NetworkModel, host: string, vrf: string): Doubt | null {
  const all = doubtsIn(model);
  if (all.size === 0) return null;
  const vni = model.views.get(host)?.vrfs.get(vrf)?.l3Vni;
  const carriers = vni === undefined ? [] : (model.l3Carriers.get(vni) ?? []);
  for (const c of [{ host, vrf }, ...carriers]) {
    const doubts = all.get(c.host);
    const found =
      doubts?.vrfs.get(c.vrf) ??
      (vni === undefined ? undefined : doubts?.vnis.get(vni)) ??
      doubts?.routing ??
      doubts?.bridging;
    if (found) return found;
    const between = c.host === host ? null : arrivalDoubt(model, host, c.host);
    if (between) return between;
  }
  return null;
}

/** Why it is uncertain whether two servers reach each other, in words; null = it is not. */
export function reachDoubt(model: NetworkModel, a: HostPort, b: HostPort): string | null {
  const shared = tunnelEndsShared(model, a, b);
  if (shared !== null) return shared;
  const all = doubtsIn(model);
  if (all.size === 0) return null;
  for (const h of [a, b]) {
    const doubts = all.get(h.switch);
    const view = model.views.get(h.switch);
    if (!doubts || !view) continue;
    const vni = view.vniOfVlan.get(h.vlan);
    const vrf = view.sviByVlan.get(h.vlan)?.vrf;
    const found =
      doubts.bridging ??
      doubts.routing ??
      doubts.ports.get(h.port) ??
      doubts.vlans.get(h.vlan) ??
      (vni === undefined ? undefined : doubts.vnis.get(vni)) ??
      (vrf === undefined ? undefined : doubts.vrfs.get(vrf));
    if (found) return doubtWords(found);
  }
  if (a.switch === b.switch) return null;
  return inWords(arrivalDoubt(model, a.switch, b.switch) ?? arrivalDoubt(model, b.switch, a.switch));
}

/** The ends of the tunnels between their switches. */
function tunnelEndsShared(model: NetworkModel, a: HostPort, b: HostPort): string | null {
  if (a.switch === b.switch) return null;
  for (const { switch: host } of [a, b])
    for (const { localAddress } of model.views.get(host)?.config.vxlans ?? []) {
      const shared = sharedAddress(model, host, localAddress);
      if (shared !== null) return shared;
    }
  return null;
}
