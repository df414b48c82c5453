import { sameContent } from '../../numbers/content.ts';
import type { ItemOfKind } from '../collections/index.ts';
import type { ObjectKind } from '../../subject.ts';
import type { FabricIntent, Network } from '../intent.ts';
import type { Edit } from './index.ts';

/** By which edits objects of a kind come, change and go. */
export interface Making<Item> {
  readonly add: (item: Item, key: string) => Edit;
  readonly remove: (key: string, item: Item) => Edit;
  /** Changes it in its place; null = it cannot be: it is removed and made anew. */
  readonly change: (is: Item, was: Item) => Edit | null;
  /** Though it could be changed in its place: must it go first, so that it is in nobody's way? */
  readonly anew?: (is: Item, was: Item, from: FabricIntent, to: FabricIntent) => boolean;
}
/** Values under fixed names are changed together, by one edit. */
export interface Patching {
  readonly patch: (values: Readonly<Record<string, unknown>>) => Edit;
}

/** Kinds whose objects come and go, one by one. */
export type MadeKind = Exclude<ObjectKind, 'fabric' | 'setting' | 'pool' | 'spines'>;

const rackKind = (intent: FabricIntent, pattern: string): string | undefined =>
  intent.rackPatterns.find((p) => p.name === pattern)?.kind;
/** Where a network is known by others: VLAN, VNI and subnet may be exchanged between two, so both leave theirs first. */
const sameAddress = (a: Network, b: Network): boolean =>
  a.vlan === b.vlan && a.vrf === b.vrf && a.vni === b.vni && a.subnet === b.subnet;

/** A new kind of object that comes and goes is one more row. */
export const MAKING: { readonly [K in MadeKind]: Making<ItemOfKind<K>> } = {
  model: {
    add: (model) => ({ kind: 'putModel', model }),
    change: (model) => ({ kind: 'putModel', model }),
    remove: (name) => ({ kind: 'removeModel', name }),
  },
  rackPattern: {
    add: (rackPattern) => ({ kind: 'putRackPattern', rackPattern }),
    change: (rackPattern) => ({ kind: 'putRackPattern', rackPattern }),
    remove: (name) => ({ kind: 'removeRackPattern', name }),
  },
  rack: {
    add: (rack) => ({ kind: 'addRack', rack }),
    change: (is, was) =>
      is.slot === was.slot && is.pattern === was.pattern && is.pod === was.pod
        ? { kind: 'placeRack', number: is.number, place: is.place ?? '' }
        : null,
    remove: (_key, rack) => ({ kind: 'removeRack', number: rack.number }),
    anew: (is, was, from, to) => rackKind(from, was.pattern) !== rackKind(to, is.pattern),
  },
  seat: {
    add: (serial, seat) => ({ kind: 'takeSeat', seat, serial }),
    change: () => null,
    remove: (seat) => ({ kind: 'clearSeat', seat }),
  },
  vrf: {
    add: (vrf) => ({ kind: 'addVrf', vrf }),
    change: (vrf) => ({ kind: 'changeVrf', name: vrf.name, vrf }),
    remove: (name) => ({ kind: 'removeVrf', name }),
    anew: (is, was, from) =>
      from.vrfs.some((v) => v.name !== was.name && v.transitVlan === is.transitVlan) ||
      from.networks.some((n) => n.vlan === is.transitVlan),
  },
  network: {
    add: (network) => ({ kind: 'addNetwork', network }),
    change: (is, was) =>
      sameContent({ ...was, racks: is.racks }, is)
        ? { kind: 'carryNetwork', name: is.name, racks: is.racks }
        : { kind: 'changeNetwork', name: is.name, network: is },
    remove: (name) => ({ kind: 'removeNetwork', name }),
    anew: (is, was) => !sameAddress(is, was),
  },
  port: {
    add: (port) => ({ kind: 'connectServer', port }),
    change: () => null,
    remove: (_key, { rack, side, port }) => ({ kind: 'disconnectServer', rack, side, port }),
  },
  secret: {
    add: (secret) => ({ kind: 'putSecret', secret }),
    change: (secret) => ({ kind: 'putSecret', secret }),
    remove: (name) => ({ kind: 'removeSecret', name }),
  },
  snippet: {
    add: (snippet) => ({ kind: 'putSnippet', snippet }),
    change: (snippet) => ({ kind: 'putSnippet', snippet }),
    remove: (name) => ({ kind: 'removeSnippet', name }),
  },
};

/** In the order in which they are patched; the spines before the racks that stand under them. */
export const PATCHING: Readonly<Record<'setting' | 'pool' | 'spines', Patching>> = {
  setting: { patch: (settings) => ({ kind: 'changeSettings', settings }) },
  pool: { patch: (pools) => ({ kind: 'choosePools', pools }) },
  spines: { patch: (values) => ({ kind: 'setSpines', ...values }) },
};

export const isPatched = (kind: ObjectKind): kind is keyof typeof PATCHING => Object.hasOwn(PATCHING, kind);
export const isMade = (kind: ObjectKind): kind is MadeKind => Object.hasOwn(MAKING, kind);
// Rows of different items under one type: each is used with items of its own only.
export const makingOf = (kind: MadeKind): Making<unknown> => MAKING[kind] as unknown as Making<unknown>;
