import { sameContent as same } from '../numbers/content.ts';
import { applyEdit } from './applyEdit.ts';
import type { Edit } from './edits.ts';
import { serverPortKey, type FabricIntent, type Network } from './intent.ts';

const names = <T extends { readonly name: string }>(items: readonly T[]): Map<string, T> =>
  new Map(items.map((i) => [i.name, i]));

function changed<T extends object>(from: T, to: T): Partial<T> {
  const out: Partial<T> = {};
  for (const key of Object.keys(to) as (keyof T)[]) if (!same(from[key], to[key])) out[key] = to[key];
  return out;
}

/**
 * The edits that turn one intent into another: used to return to an earlier revision as a new change, and to invert an
 * edit. Applying them to `from` gives `to`, for intents of one fabric.
 */
export function editsBetween(from: FabricIntent, to: FabricIntent): Edit[] {
  const edits: Edit[] = [];
  let start = from;
  // A fabric that was laid out differently, or not at all, is cleared and laid again; the rest is worked from there.
  if (from.pattern !== to.pattern || from.parallel !== to.parallel || from.spines.model !== to.spines.model) {
    if (from.pattern !== '') edits.push({ kind: 'clearFabric' });
    if (to.pattern !== '')
      edits.push({
        kind: 'layFabric',
        models: to.models,
        rackPatterns: to.rackPatterns,
        pattern: {
          name: to.pattern,
          description: '',
          spines: to.spines,
          parallel: to.parallel,
          racks: [],
          settings: to.settings,
        },
      });
    for (const edit of edits) start = applyEdit(start, edit).intent;
  }
  const step = (edit: Edit): void => {
    edits.push(edit);
    start = applyEdit(start, edit).intent;
  };
  const settings = changed(start.settings, to.settings);
  if (Object.keys(settings).length > 0) step({ kind: 'changeSettings', settings });
  const pools = changed(start.pools, to.pools);
  if (Object.keys(pools).length > 0) step({ kind: 'choosePools', pools });

  // VRFs and networks that would get in one another's way are taken to neutral ground: removed, and added again later.
  const toVrfs = names(to.vrfs);
  const toNetworks = names(to.networks);
  const vlanHeld = (vlan: number, but: string): boolean =>
    start.vrfs.some((v) => v.name !== but && v.transitVlan === vlan) || start.networks.some((n) => n.vlan === vlan);
  const vrfStays = (name: string): boolean => {
    const [now, next] = [start.vrfs.find((v) => v.name === name), toVrfs.get(name)];
    return now !== undefined && next !== undefined && (same(now, next) || !vlanHeld(next.transitVlan, name));
  };
  const keptVrfs = new Set(start.vrfs.map((v) => v.name).filter(vrfStays));
  const late: Edit[] = [];
  const networkStays = (n: Network): boolean => {
    const next = toNetworks.get(n.name);
    return (
      next !== undefined &&
      keptVrfs.has(n.vrf) &&
      n.vlan === next.vlan &&
      n.vrf === next.vrf &&
      n.vni === next.vni &&
      n.subnet === next.subnet
    );
  };
  const keptNetworks = new Set(start.networks.filter(networkStays).map((n) => n.name));

  // Take away from the leaves of the document upwards …
  const keptPorts = new Map(to.ports.map((p) => [serverPortKey(p), p]));
  for (const p of start.ports) {
    const stands = [...p.tagged, ...(p.untagged === undefined ? [] : [p.untagged])].every((n) => keptNetworks.has(n));
    if (!stands || !same(keptPorts.get(serverPortKey(p)), p))
      step({ kind: 'disconnectServer', rack: p.rack, side: p.side, port: p.port });
  }
  for (const s of start.snippets) if (!names(to.snippets).has(s.name)) step({ kind: 'removeSnippet', name: s.name });
  for (const s of start.secrets) if (!names(to.secrets).has(s.name)) late.push({ kind: 'removeSecret', name: s.name });
  for (const n of start.networks) if (!keptNetworks.has(n.name)) step({ kind: 'removeNetwork', name: n.name });
  for (const v of start.vrfs) if (!keptVrfs.has(v.name)) step({ kind: 'removeVrf', name: v.name });
  const toRacks = new Map(to.racks.map((r) => [r.number, r]));
  const kindIn = (intent: FabricIntent, pattern: string): string | undefined =>
    intent.rackPatterns.find((p) => p.name === pattern)?.kind;
  for (const r of start.racks) {
    const next = toRacks.get(r.number);
    const stays =
      next?.slot === r.slot && next.pattern === r.pattern && kindIn(start, r.pattern) === kindIn(to, r.pattern);
    if (!stays) step({ kind: 'removeRack', number: r.number });
  }
  for (const seat of Object.keys(start.seating))
    if (to.seating[seat] !== start.seating[seat]) step({ kind: 'clearSeat', seat });

  // Rack patterns and models change under what stays; what is not used any more goes.
  for (const p of to.rackPatterns)
    if (!same(names(start.rackPatterns).get(p.name), p)) step({ kind: 'putRackPattern', rackPattern: p });
  for (const p of start.rackPatterns)
    if (!names(to.rackPatterns).has(p.name)) step({ kind: 'removeRackPattern', name: p.name });
  for (const m of to.models) if (!same(names(start.models).get(m.name), m)) step({ kind: 'putModel', model: m });
  for (const m of start.models) if (!names(to.models).has(m.name)) step({ kind: 'removeModel', name: m.name });

  // … and build up from the root.
  if (start.spines.count !== to.spines.count) step({ kind: 'setSpines', count: to.spines.count });
  for (const r of to.racks) {
    const now = start.racks.find((x) => x.number === r.number);
    if (!now) step({ kind: 'addRack', rack: r });
    else if (now.place !== r.place) step({ kind: 'placeRack', number: r.number, place: r.place ?? '' });
  }
  for (const [seat, serial] of Object.entries(to.seating))
    if (start.seating[seat] !== serial) step({ kind: 'takeSeat', seat, serial });
  for (const v of to.vrfs) {
    const now = names(start.vrfs).get(v.name);
    if (now && !same(now, v)) step({ kind: 'changeVrf', name: v.name, vrf: v });
  }
  for (const v of to.vrfs) if (!names(start.vrfs).has(v.name)) step({ kind: 'addVrf', vrf: v });
  for (const n of to.networks) {
    const now = names(start.networks).get(n.name);
    if (!now) step({ kind: 'addNetwork', network: n });
    else if (!same({ ...now, racks: n.racks }, n)) step({ kind: 'changeNetwork', name: n.name, network: n });
    else if (!same(now, n)) step({ kind: 'carryNetwork', name: n.name, racks: n.racks });
  }
  const nowPorts = new Set(start.ports.map(serverPortKey));
  for (const p of to.ports) if (!nowPorts.has(serverPortKey(p))) step({ kind: 'connectServer', port: p });
  for (const s of to.secrets) if (!same(names(start.secrets).get(s.name), s)) step({ kind: 'putSecret', secret: s });
  for (const s of to.snippets)
    if (!same(names(start.snippets).get(s.name), s)) step({ kind: 'putSnippet', snippet: s });
  // A secret goes once no snippet that stays writes it.
  for (const edit of late) step(edit);
  return edits;
}

/** The edits that undo `edit` on the intent it was applied to. */
export function invertEdit(edit: Edit, before: FabricIntent): Edit[] {
  return editsBetween(applyEdit(before, edit).intent, before);
}
