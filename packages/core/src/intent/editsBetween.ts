import { applyEdit } from './applyEdit.ts';
import type { Edit } from './edits.ts';
import { serverPortKey, type FabricIntent } from './intent.ts';

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
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

  // Take away from the leaves of the document upwards …
  const keptPorts = new Map(to.ports.map((p) => [serverPortKey(p), p]));
  for (const p of start.ports)
    if (!same(keptPorts.get(serverPortKey(p)), p))
      step({ kind: 'disconnectServer', rack: p.rack, side: p.side, port: p.port });
  for (const s of start.snippets) if (!names(to.snippets).has(s.name)) step({ kind: 'removeSnippet', name: s.name });
  const toNetworks = names(to.networks);
  for (const n of start.networks) if (!toNetworks.has(n.name)) step({ kind: 'removeNetwork', name: n.name });
  // Networks that change are taken to neutral ground first where they would get in one another's way.
  for (const n of start.networks) {
    const next = toNetworks.get(n.name);
    if (
      next &&
      !same(n, next) &&
      (n.vlan !== next.vlan || n.vrf !== next.vrf || n.vni !== next.vni || n.subnet !== next.subnet)
    )
      step({ kind: 'removeNetwork', name: n.name });
  }
  for (const v of start.vrfs) {
    const next = names(to.vrfs).get(v.name);
    if (!next) step({ kind: 'removeVrf', name: v.name });
  }
  const toRacks = new Map(to.racks.map((r) => [r.number, r]));
  for (const r of start.racks) {
    const next = toRacks.get(r.number);
    if (!next || next.slot !== r.slot || next.pattern !== r.pattern) step({ kind: 'removeRack', number: r.number });
  }
  for (const seat of Object.keys(start.seating))
    if (to.seating[seat] !== start.seating[seat]) step({ kind: 'clearSeat', seat });

  // … and build up from the root.
  if (start.spines.count !== to.spines.count) step({ kind: 'setSpines', count: to.spines.count });
  for (const r of to.racks) {
    const now = start.racks.find((x) => x.number === r.number);
    const rackPattern = to.rackPatterns.find((p) => p.name === r.pattern);
    const model = to.models.find((m) => m.name === rackPattern?.leafModel);
    if (!now)
      step({
        kind: 'addRack',
        rack: r,
        ...(rackPattern &&
        !same(
          start.rackPatterns.find((p) => p.name === r.pattern),
          rackPattern,
        )
          ? { rackPattern }
          : {}),
        ...(model &&
        !same(
          start.models.find((m) => m.name === model.name),
          model,
        )
          ? { model }
          : {}),
      });
    else if (now.place !== r.place) step({ kind: 'placeRack', number: r.number, place: r.place ?? '' });
  }
  for (const [seat, serial] of Object.entries(to.seating))
    if (start.seating[seat] !== serial) step({ kind: 'takeSeat', seat, serial });
  for (const v of to.vrfs) {
    const now = names(start.vrfs).get(v.name);
    if (!now) step({ kind: 'addVrf', vrf: v });
    else if (!same(now, v)) step({ kind: 'changeVrf', name: v.name, vrf: v });
  }
  for (const n of to.networks) {
    const now = names(start.networks).get(n.name);
    if (!now) step({ kind: 'addNetwork', network: n });
    else if (!same({ ...now, racks: n.racks }, n)) step({ kind: 'changeNetwork', name: n.name, network: n });
    else if (!same(now, n)) step({ kind: 'carryNetwork', name: n.name, racks: n.racks });
  }
  const nowPorts = new Set(start.ports.map(serverPortKey));
  for (const p of to.ports) if (!nowPorts.has(serverPortKey(p))) step({ kind: 'connectServer', port: p });
  for (const s of to.snippets)
    if (!same(names(start.snippets).get(s.name), s)) step({ kind: 'putSnippet', snippet: s });
  return edits;
}

/** The edits that undo `edit` on the intent it was applied to. */
export function invertEdit(edit: Edit, before: FabricIntent): Edit[] {
  return editsBetween(applyEdit(before, edit).intent, before);
}
