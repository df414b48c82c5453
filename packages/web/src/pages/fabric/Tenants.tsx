import { hasFamily, isRouted, networkMtu, type Network } from '@anthemion/core';
import { styled } from 'styled-components';
import { useMay } from '../../app/session.ts';
import { token } from '../../parts/theme.ts';
import { Button, Cap, Empty, Faded, Mono, Row } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { NetworkForm } from './NetworkForm.tsx';
import { VrfForm } from './VrfForm.tsx';
import { FabricPage, useFabricView, useSelection } from './FabricFrame.tsx';
import { useObjectRows } from './useObjectRows.tsx';

/** VRFs and networks: VLAN, VNI, subnet, gateway, on which racks. */
export function Tenants() {
  const { fabric, proof } = useFabricView();
  const { intent, values } = fabric;
  const [at, select] = useSelection();
  const may = useMay('designer');
  const rows = useObjectRows<Network>({
    table: 'networks',
    kind: 'network',
    keyOf: (n) => n.name,
    away: (n) => `Remove ${n} ${n === 1 ? 'network' : 'networks'}`,
    values: values,
  });
  const guilty = new Set(
    (proof?.findings ?? []).filter((f) => f.severity === 'error').flatMap((f) => f.subjects ?? []),
  );
  const six = intent.networks.some((n) => hasFamily(n, 6));
  const columns: TableColumn<Network>[] = [
    {
      id: 'name',
      title: 'Network',
      text: (n) => n.name,
      cell: (n) => (
        <Row $gap={6}>
          {guilty.has(`network:${n.name}`) && <StateMark mood="fallen" size={12} label="has a finding" />}
          {n.name}
        </Row>
      ),
      width: six ? '15%' : '18%',
    },
    { id: 'vrf', title: 'VRF', text: (n) => n.vrf || 'bridged only', width: six ? '11%' : '13%' },
    { id: 'vlan', title: 'VLAN', text: (n) => n.vlan, right: true, width: six ? '7%' : '8%' },
    {
      id: 'vni',
      title: 'VNI',
      text: (n) => values[`network:${n.name}/vni`] ?? '',
      cell: (n) => <Mono>{values[`network:${n.name}/vni`] ?? '–'}</Mono>,
      right: true,
      width: '9%',
    },
    {
      id: 'subnet',
      title: 'Subnet',
      text: (n) => values[`network:${n.name}/subnet`] ?? '',
      cell: (n) => <Mono>{values[`network:${n.name}/subnet`] ?? '–'}</Mono>,
      width: six ? '15%' : '17%',
    },
    ...(six
      ? [
          {
            id: 'subnet6',
            title: 'IPv6 subnet',
            text: (n: Network) => values[`network:${n.name}/subnet6`] ?? '',
            cell: (n: Network) => <Mono>{values[`network:${n.name}/subnet6`] ?? '–'}</Mono>,
            width: '21%',
          },
        ]
      : []),
    ...(intent.networks.some((n) => n.furtherSubnets)
      ? [
          {
            id: 'furtherSubnets',
            title: 'Further subnets',
            text: (n: Network) => (n.furtherSubnets ?? []).join(', '),
            cell: (n: Network) => <Mono>{n.furtherSubnets?.join(', ')}</Mono>,
            width: '17%',
          },
        ]
      : []),
    { id: 'mtu', title: 'MTU', text: (n) => networkMtu(intent, n), right: true, width: '8%' },
    { id: 'racks', title: 'Racks', text: (n) => n.racks.join(', '), width: six ? '9%' : '14%' },
    {
      id: 'ports',
      title: 'Servers',
      text: (n) => intent.ports.filter((p) => p.untagged === n.name || p.tagged.includes(n.name)).length,
      right: true,
    },
  ];
  const noVrf = intent.vrfs.length === 0 && isRouted(intent);
  const network = at?.startsWith('network:') ? intent.networks.find((n) => `network:${n.name}` === at) : undefined;
  const vrf = at?.startsWith('vrf:') ? intent.vrfs.find((v) => `vrf:${v.name}` === at) : undefined;
  const aside =
    at === 'new-network' ? (
      <NetworkForm key="new" />
    ) : at === 'new-vrf' ? (
      <VrfForm key="new" />
    ) : vrf ? (
      <VrfForm key={`vrf ${vrf.name}`} vrf={vrf} />
    ) : network ? (
      <NetworkForm key={network.name} network={network} />
    ) : undefined;
  return (
    <FabricPage flush aside={aside} asideLabel="Tenant">
      <Vrfs>
        <Cap>VRFs</Cap>
        {intent.vrfs.map((v) => (
          <VrfChip key={v.name} aria-pressed={vrf === v} onClick={() => select(`vrf:${v.name}`)}>
            {guilty.has(`vrf:${v.name}`) && <StateMark mood="fallen" size={12} label="has a finding" />}
            <b>{v.name}</b> <Faded>L3 VNI</Faded> <Mono>{values[`vrf:${v.name}/vni`] ?? '–'}</Mono> <Faded>VLAN</Faded>{' '}
            <Mono>{v.transitVlan}</Mono>{' '}
            <Faded>{intent.networks.filter((n) => n.vrf === v.name).length} networks</Faded>
          </VrfChip>
        ))}
        {intent.vrfs.length === 0 && (
          <Faded>{isRouted(intent) ? 'none yet' : 'none: a switched fabric is routed outside'}</Faded>
        )}
      </Vrfs>
      <DataTable<Network>
        label="Networks"
        rows={intent.networks}
        columns={columns}
        rowKey={(n) => n.name}
        selected={network?.name}
        onSelect={(n) => select(`network:${n.name}`)}
        fileName={`${fabric.name}-networks`}
        {...rows.does}
        actions={
          may && (
            <Row>
              {isRouted(intent) && <Button onPress={() => select('new-vrf')}>Add a VRF</Button>}
              <Button $kind="main" onPress={() => select('new-network')}>
                Add a network
              </Button>
            </Row>
          )
        }
        empty={
          <Empty
            title="No tenants yet"
            action={
              may && (
                <Button $kind="main" onPress={() => select(noVrf ? 'new-vrf' : 'new-network')}>
                  {noVrf ? 'Add the first VRF' : 'Add the first network'}
                </Button>
              )
            }
          >
            A VRF keeps the routes of one tenant apart; its networks live on the racks that carry them. The demo’s
            Skerry has two VRFs with eight networks. A list can be pasted from a spreadsheet: network, VRF, VLAN, VNI,
            subnet, MTU, racks; families, the IPv6 subnet and further subnets, where headings say so.
          </Empty>
        }
      />
      {rows.dialog}
    </FabricPage>
  );
}

const Vrfs = styled.div`
  display: flex;
  gap: 8px 12px;
  flex-wrap: wrap;
  align-items: center;
  padding: 12px 0 2px;
  font-size: 13px;
`;
const VrfChip = styled.button`
  font: inherit;
  color: inherit;
  cursor: pointer;
  &:hover,
  &[aria-pressed='true'] {
    border-color: ${token('verdigris')};
  }
  &:focus-visible {
    outline: 2px solid ${token('verdigris')};
  }
  border: 1px solid ${token('rule')};
  background: ${token('sheet')};
  border-radius: 4px;
  padding: 3px 10px;
  display: inline-flex;
  gap: 6px;
  align-items: baseline;
`;
