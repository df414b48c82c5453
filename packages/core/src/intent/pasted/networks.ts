import { sameContent } from '../../numbers/content.ts';
import type { FabricIntent, Network } from '../intent.ts';
import { proposeVlan } from '../proposals.ts';
import { racksOf } from '../racksText.ts';
import { pastedEdits, type PastedColumn, type PastedEdits } from './pastedEdits.ts';

type Key = 'name' | 'vrf' | 'vlan' | 'vni' | 'subnet' | 'mtu' | 'racks';
const COLUMNS: readonly PastedColumn<Key>[] = [
  { key: 'name', called: ['network', 'name'] },
  { key: 'vrf', called: ['vrf', 'tenant'] },
  { key: 'vlan', called: ['vlan'] },
  { key: 'vni', called: ['vni'] },
  { key: 'subnet', called: ['subnet', 'prefix'] },
  { key: 'mtu', called: ['mtu'] },
  { key: 'racks', called: ['racks', 'rack'] },
];
const NUMBERS = ['vlan', 'vni', 'mtu'] as const;
const DEFAULT_LENGTH = 24;

/**
 * Name, VRF, and as far as said VLAN, VNI, subnet, MTU, racks: adds the network, or changes the one of that name. A VNI or
 * subnet that the network has drawn stays drawn, so a table that was exported can be pasted back.
 * @param values what the fabric has drawn, by key
 */
export function pastedNetworks(
  intent: FabricIntent,
  values: Readonly<Record<string, string>>,
  cells: readonly (readonly string[])[],
): PastedEdits {
  return pastedEdits(intent, cells, COLUMNS, (row, now) => {
    const { name, vrf, subnet } = row;
    if (name === undefined) return 'The network has no name.';
    const known = now.networks.find((n) => n.name === name);
    if (vrf === undefined && !known) return `${name} has no VRF. Write it in the second column.`;
    const wrong = NUMBERS.find((k) => row[k] !== undefined && !/^\d{1,8}$/.test(row[k]));
    if (wrong !== undefined) return `“${row[wrong]!}” is no ${wrong.toUpperCase()}. Write a whole number.`;
    const racks = row.racks === undefined ? undefined : racksOf(row.racks);
    if (racks === null) return `“${row.racks!}” are no racks. Write them as 1-3, 7.`;
    const length = /\/(\d{1,2})$/.exec(subnet ?? '')?.[1];
    const isDrawn = (key: 'vni' | 'subnet'): boolean =>
      known !== undefined && known[key] === undefined && row[key] === values[`network:${name}/${key}`];
    const isDefault = (key: 'mtu'): boolean =>
      known !== undefined && known[key] === undefined && row[key] === String(now.settings.tenantMtu);
    const chosen = (key: (typeof NUMBERS)[number]): boolean =>
      row[key] !== undefined && !(key === 'vni' && isDrawn(key)) && !(key === 'mtu' && isDefault(key));
    const said: Partial<Network> = {
      ...(vrf === undefined ? {} : { vrf }),
      ...(subnet === undefined || isDrawn('subnet') ? {} : { subnet }),
      ...(length === undefined ? {} : { subnetLength: Number(length) }),
      ...(racks === undefined ? {} : { racks }),
      ...Object.fromEntries(NUMBERS.filter(chosen).map((k) => [k, Number(row[k])])),
    };
    if (known) {
      const next = { ...known, ...said };
      return sameContent(known, next) ? [] : [{ kind: 'changeNetwork', name, network: next }];
    }
    const network: Network = {
      name,
      vrf: vrf!,
      vlan: proposeVlan(now),
      subnetLength: DEFAULT_LENGTH,
      racks: now.racks.map((r) => r.number),
      ...said,
    };
    return [{ kind: 'addNetwork', network }];
  });
}
