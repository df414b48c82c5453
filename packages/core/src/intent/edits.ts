import type { SwitchModel } from '../hardware/switchModel.ts';
import type { FabricPattern, FabricSettings, RackPattern } from '../patterns/patterns.ts';
import type { SecretRef } from '../secrets/secretRef.ts';
import type { Network, PoolRoles, Rack, ServerPort, Snippet, Vrf } from './intent.ts';

/** One typed step on the intent inside a change. `kind` names the step; see `applyEdit`, `describeEdit`, `invertEdit`. */
export type Edit =
  | {
      readonly kind: 'layFabric';
      readonly pattern: FabricPattern;
      readonly models: readonly SwitchModel[];
      readonly rackPatterns: readonly RackPattern[];
    }
  | { readonly kind: 'clearFabric' }
  | { readonly kind: 'changeSettings'; readonly settings: Partial<FabricSettings> }
  | { readonly kind: 'choosePools'; readonly pools: Partial<PoolRoles> }
  | { readonly kind: 'setSpines'; readonly count: number }
  | { readonly kind: 'addRack'; readonly rack: Rack; readonly rackPattern?: RackPattern; readonly model?: SwitchModel }
  | { readonly kind: 'removeRack'; readonly number: number }
  | { readonly kind: 'putModel'; readonly model: SwitchModel }
  | { readonly kind: 'removeModel'; readonly name: string }
  | { readonly kind: 'putRackPattern'; readonly rackPattern: RackPattern }
  | { readonly kind: 'removeRackPattern'; readonly name: string }
  | { readonly kind: 'placeRack'; readonly number: number; readonly place: string }
  | { readonly kind: 'takeSeat'; readonly seat: string; readonly serial: string }
  | { readonly kind: 'clearSeat'; readonly seat: string }
  | { readonly kind: 'addVrf'; readonly vrf: Vrf }
  | { readonly kind: 'changeVrf'; readonly name: string; readonly vrf: Vrf }
  | { readonly kind: 'removeVrf'; readonly name: string }
  | { readonly kind: 'addNetwork'; readonly network: Network }
  | { readonly kind: 'changeNetwork'; readonly name: string; readonly network: Network }
  | { readonly kind: 'carryNetwork'; readonly name: string; readonly racks: readonly number[] }
  | { readonly kind: 'removeNetwork'; readonly name: string }
  | { readonly kind: 'connectServer'; readonly port: ServerPort }
  | {
      readonly kind: 'disconnectServer';
      readonly rack: number;
      readonly side: ServerPort['side'];
      readonly port: string;
    }
  | { readonly kind: 'putSnippet'; readonly snippet: Snippet }
  | { readonly kind: 'removeSnippet'; readonly name: string }
  | { readonly kind: 'putSecret'; readonly secret: SecretRef }
  | { readonly kind: 'removeSecret'; readonly name: string };

export type EditKind = Edit['kind'];
export type EditOf<K extends EditKind> = Extract<Edit, { kind: K }>;

const list = (items: readonly (string | number)[]): string =>
  items.length <= 3 ? items.join(', ') : `${items.slice(0, 3).join(', ')} and ${items.length - 3} more`;
const plural = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;

/** The edit as a sentence for people. */
export function describeEdit(edit: Edit): string {
  switch (edit.kind) {
    case 'layFabric': {
      const racks = edit.pattern.racks.reduce((n, r) => n + r.count, 0);
      return `Lay out from pattern ${edit.pattern.name}: ${plural(edit.pattern.spines.count, 'spine')}, ${plural(racks, 'rack')}`;
    }
    case 'clearFabric':
      return 'Clear the whole fabric';
    case 'changeSettings':
      return `Set ${list(Object.entries(edit.settings).map(([k, v]) => `${k} to ${String(v)}`))}`;
    case 'choosePools':
      return `Draw from pools ${list([...new Set(Object.values(edit.pools).filter(Boolean))])}`;
    case 'setSpines':
      return `Have ${plural(edit.count, 'spine')}`;
    case 'addRack':
      return `Add rack ${edit.rack.number} (${edit.rack.pattern})`;
    case 'removeRack':
      return `Remove rack ${edit.number}`;
    case 'putModel':
      return `Describe switch model ${edit.model.name} anew`;
    case 'removeModel':
      return `Forget switch model ${edit.name}`;
    case 'putRackPattern':
      return `Make rack pattern ${edit.rackPattern.name} anew`;
    case 'removeRackPattern':
      return `Forget rack pattern ${edit.name}`;
    case 'placeRack':
      return `Rack ${edit.number} stands in ${edit.place || 'no named place'}`;
    case 'takeSeat':
      return `Seat ${edit.serial} as ${edit.seat}`;
    case 'clearSeat':
      return `Leave seat ${edit.seat} empty`;
    case 'addVrf':
      return `Add VRF ${edit.vrf.name}`;
    case 'changeVrf':
      return `Change VRF ${edit.name}`;
    case 'removeVrf':
      return `Remove VRF ${edit.name}`;
    case 'addNetwork':
      return `Add network ${edit.network.name} to VRF ${edit.network.vrf}`;
    case 'changeNetwork':
      return `Change network ${edit.name}`;
    case 'carryNetwork':
      return edit.racks.length === 0
        ? `Carry ${edit.name} on no rack`
        : `Carry ${edit.name} on rack ${list(edit.racks)}`;
    case 'removeNetwork':
      return `Remove network ${edit.name}`;
    case 'connectServer':
      return `Connect ${edit.port.server} to rack ${edit.port.rack} ${edit.port.port}${edit.port.side === 'both' ? '' : ` (${edit.port.side})`}${edit.port.shut ? ', shut' : ''}`;
    case 'disconnectServer':
      return `Free port ${edit.port} of rack ${edit.rack}`;
    case 'putSnippet':
      return `Put snippet ${edit.snippet.name} on ${edit.snippet.on === 'all' ? 'all switches' : edit.snippet.on}`;
    case 'removeSnippet':
      return `Take snippet ${edit.name} away`;
    case 'putSecret':
      return `Use secret ${edit.secret.name} (value ${edit.secret.digest.slice(0, 6)}…)`;
    case 'removeSecret':
      return `Use secret ${edit.name} no more`;
  }
}

/**
 * The intent objects an edit is about, e.g. `network:echo-store`. Used to trace a configuration line to its edit and
 * to name conflicts when a change is rebased.
 */
export function subjectsOf(edit: Edit): string[] {
  switch (edit.kind) {
    case 'layFabric':
    case 'clearFabric':
      return ['fabric'];
    case 'changeSettings':
      return Object.keys(edit.settings).map((k) => `setting:${k}`);
    case 'choosePools':
      return Object.keys(edit.pools).map((k) => `pool:${k}`);
    case 'setSpines':
      return ['spines'];
    case 'addRack':
      return [`rack:${edit.rack.number}`];
    case 'removeRack':
    case 'placeRack':
      return [`rack:${edit.number}`];
    case 'putModel':
      return [`model:${edit.model.name}`];
    case 'removeModel':
      return [`model:${edit.name}`];
    case 'putRackPattern':
      return [`rackPattern:${edit.rackPattern.name}`];
    case 'removeRackPattern':
      return [`rackPattern:${edit.name}`];
    case 'takeSeat':
    case 'clearSeat':
      return [`seat:${edit.seat}`];
    case 'addVrf':
      return [`vrf:${edit.vrf.name}`];
    case 'changeVrf':
    case 'removeVrf':
      return [`vrf:${edit.name}`];
    case 'addNetwork':
      return [`network:${edit.network.name}`];
    case 'changeNetwork':
    case 'carryNetwork':
    case 'removeNetwork':
      return [`network:${edit.name}`];
    case 'connectServer':
      return [`port:${edit.port.rack}.${edit.port.side}.${edit.port.port}`];
    case 'disconnectServer':
      return [`port:${edit.rack}.${edit.side}.${edit.port}`];
    case 'putSnippet':
      return [`snippet:${edit.snippet.name}`];
    case 'removeSnippet':
      return [`snippet:${edit.name}`];
    case 'putSecret':
      return [`secret:${edit.secret.name}`];
    case 'removeSecret':
      return [`secret:${edit.name}`];
  }
}
