import { gatewayOf, networkMtu, proposeTransitVlan, proposeVlan, type Finding, type Network } from '@anthemion/core';
import { useEffect, useState } from 'react';
import { styled } from 'styled-components';
import { Page } from '../../app/Page.tsx';
import { useMay } from '../../app/session.ts';
import { token } from '../../app/theme.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Cap, Empty, Faded, H3, Mono, Note, Row, Stack } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { Choice, errorAt, Leftovers, leftOver, TextInput } from '../../parts/fields.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { fabricCrumbs, fabricSub, FabricTabs, fabricTitle, useFabricView, useSelection } from './FabricFrame.tsx';

/** VRFs and networks: VLAN, VNI, subnet, gateway, on which racks. */
export function Tenants() {
  const { fabric, change, proof } = useFabricView();
  const { intent, values } = fabric;
  const [at, select] = useSelection();
  const may = useMay('designer');
  const guilty = new Set(
    (proof?.findings ?? []).filter((f) => f.severity === 'error').flatMap((f) => f.subjects ?? []),
  );
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
      width: '18%',
    },
    { id: 'vrf', title: 'VRF', text: (n) => n.vrf, width: '13%' },
    { id: 'vlan', title: 'VLAN', text: (n) => n.vlan, right: true, width: '8%' },
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
      width: '17%',
    },
    { id: 'mtu', title: 'MTU', text: (n) => networkMtu(intent, n), right: true, width: '8%' },
    { id: 'racks', title: 'Racks', text: (n) => n.racks.join(', '), width: '14%' },
    {
      id: 'ports',
      title: 'Servers',
      text: (n) => intent.ports.filter((p) => p.untagged === n.name || p.tagged.includes(n.name)).length,
      right: true,
    },
  ];
  const network = at?.startsWith('network:') ? intent.networks.find((n) => `network:${n.name}` === at) : undefined;
  const aside =
    at === 'new-network' ? (
      <NetworkForm key="new" />
    ) : at === 'new-vrf' ? (
      <VrfForm />
    ) : network ? (
      <NetworkForm key={JSON.stringify(network)} network={network} />
    ) : undefined;
  return (
    <Page
      title={fabricTitle(fabric)}
      sub={fabricSub(fabric, change)}
      crumbs={fabricCrumbs(fabric.name)}
      tabs={<FabricTabs />}
      flush
      aside={aside}
      asideLabel="Tenant"
    >
      <Vrfs>
        <Cap>VRFs</Cap>
        {intent.vrfs.map((v) => (
          <VrfChip key={v.name}>
            {guilty.has(`vrf:${v.name}`) && <StateMark mood="fallen" size={12} label="has a finding" />}
            <b>{v.name}</b> <Faded>L3 VNI</Faded> <Mono>{values[`vrf:${v.name}/vni`] ?? '–'}</Mono> <Faded>VLAN</Faded>{' '}
            <Mono>{v.transitVlan}</Mono>{' '}
            <Faded>{intent.networks.filter((n) => n.vrf === v.name).length} networks</Faded>
          </VrfChip>
        ))}
        {intent.vrfs.length === 0 && <Faded>none yet</Faded>}
      </Vrfs>
      <DataTable
        label="Networks"
        rows={intent.networks}
        columns={columns}
        rowKey={(n) => n.name}
        selected={network?.name}
        onSelect={(n) => select(`network:${n.name}`)}
        fileName={`${fabric.name}-networks`}
        actions={
          may && (
            <Row>
              <Button onPress={() => select('new-vrf')}>Add a VRF</Button>
              <Button $kind="main" onPress={() => select('new-network')} isDisabled={intent.vrfs.length === 0}>
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
                <Button $kind="main" onPress={() => select(intent.vrfs.length === 0 ? 'new-vrf' : 'new-network')}>
                  {intent.vrfs.length === 0 ? 'Add the first VRF' : 'Add the first network'}
                </Button>
              )
            }
          >
            A VRF keeps the routes of one tenant apart; its networks live on the racks that carry them. The demo’s
            Skerry has two VRFs with eight networks.
          </Empty>
        }
      />
    </Page>
  );
}

function VrfForm() {
  const { fabric } = useFabricView();
  const [, select] = useSelection();
  const makeEdits = useEdits(fabric.name);
  const [name, setName] = useState('');
  const [vlan, setVlan] = useState('');
  const [vni, setVni] = useState('');
  const [findings, setFindings] = useState<readonly Finding[]>([]);
  const proposed = proposeTransitVlan(fabric.intent);
  const save = async (): Promise<void> => {
    const made = await makeEdits(
      [
        {
          kind: 'addVrf',
          vrf: {
            name,
            transitVlan: vlan === '' ? proposed : Number(vlan),
            ...(vni === '' ? {} : { vni: Number(vni) }),
          },
        },
      ],
      true,
    );
    setFindings(made.ok ? [] : made.findings);
    if (made.ok) select(null);
  };
  return (
    <form onSubmit={(e) => (e.preventDefault(), void save())}>
      <Stack $gap={12}>
        <Cap>VRF</Cap>
        <H3>A new VRF</H3>
        <TextInput
          label="Name"
          value={name}
          onChange={setName}
          placeholder="tides"
          error={errorAt(findings, 'name')}
          hint="At most 15 characters: Linux names a device after it"
          autoFocus
          isRequired
        />
        <TextInput
          label="Transit VLAN"
          value={vlan}
          onChange={setVlan}
          placeholder={`${proposed}, next free`}
          error={errorAt(findings, 'transitVlan')}
          code
        />
        <TextInput
          label="L3 VNI"
          value={vni}
          onChange={setVni}
          placeholder="drawn from the pool"
          error={errorAt(findings, 'vni')}
          code
        />
        <Leftovers findings={leftOver(findings, 'name', 'transitVlan', 'vni')} />
        <Row>
          <Button type="submit" $kind="main">
            Add VRF
          </Button>
          <Button onPress={() => select(null)}>Cancel</Button>
        </Row>
      </Stack>
    </form>
  );
}

/** `1-3, 7` ↔ rack numbers. */
function parseRacks(text: string): number[] | null {
  const out: number[] = [];
  for (const part of text
    .split(',')
    .map((p) => p.trim())
    .filter(Boolean)) {
    const m = /^(\d+)(?:\s*-\s*(\d+))?$/.exec(part);
    if (!m) return null;
    for (let n = Number(m[1]); n <= Number(m[2] ?? m[1]); n++) out.push(n);
  }
  return out;
}

function NetworkForm({ network }: { readonly network?: Network }) {
  const { fabric, proof } = useFabricView();
  const { intent, values } = fabric;
  const [, select] = useSelection();
  const makeEdits = useEdits(fabric.name);
  const may = useMay('designer');
  const proposed = proposeVlan(intent);
  const start = {
    name: network?.name ?? '',
    vrf: network?.vrf ?? intent.vrfs[0]?.name ?? '',
    vlan: network ? String(network.vlan) : '',
    vni: network?.vni === undefined ? '' : String(network.vni),
    subnet: network?.subnet ?? '',
    length: String(network?.subnetLength ?? 24),
    mtu: network?.mtu === undefined ? '' : String(network.mtu),
    racks: network?.racks.join(', ') ?? intent.racks.map((r) => r.number).join(', '),
  };
  const [form, setForm] = useState(start);
  const [findings, setFindings] = useState<readonly Finding[]>([]);
  const set = (key: keyof typeof start) => (value: string) => setForm((now) => ({ ...now, [key]: value }));
  const racks = parseRacks(form.racks);
  useEffect(() => setFindings([]), [network]);
  const save = async (): Promise<void> => {
    if (racks === null) return;
    const number = (text: string): number => (/^\d+$/.test(text.trim()) ? Number(text) : NaN);
    const next: Network = {
      name: form.name,
      vrf: form.vrf,
      vlan: form.vlan === '' ? proposed : number(form.vlan),
      subnetLength: number(form.length),
      racks,
      ...(form.vni === '' ? {} : { vni: number(form.vni) }),
      ...(form.subnet === '' ? {} : { subnet: form.subnet.trim() }),
      ...(form.mtu === '' ? {} : { mtu: number(form.mtu) }),
    };
    const only =
      network &&
      JSON.stringify({ ...network, racks: next.racks }) === JSON.stringify({ ...next, name: network.name }) &&
      JSON.stringify(network.racks) !== JSON.stringify(next.racks);
    const made = await makeEdits(
      [
        network
          ? only
            ? { kind: 'carryNetwork', name: network.name, racks }
            : { kind: 'changeNetwork', name: network.name, network: next }
          : { kind: 'addNetwork', network: next },
      ],
      true,
    );
    setFindings(made.ok ? [] : made.findings);
    if (made.ok) select(`network:${form.name}`);
  };
  const remove = async (): Promise<void> => {
    const made = await makeEdits([{ kind: 'removeNetwork', name: network!.name }]);
    if (made.ok) select(null);
  };
  const said = (proof?.findings ?? []).filter((f) => network && f.subjects?.includes(`network:${network.name}`));
  const subnet = network && values[`network:${network.name}/subnet`];
  return (
    <form onSubmit={(e) => (e.preventDefault(), void save())}>
      <Stack $gap={11}>
        <Cap>Network</Cap>
        <H3>{network ? network.name : 'A new network'}</H3>
        {said.map((f) => (
          <Note key={f.message} $tone={f.severity === 'error' ? 'bad' : 'wait'}>
            {f.message} <b>{f.cure}</b>
          </Note>
        ))}
        {!network && (
          <TextInput
            label="Name"
            value={form.name}
            onChange={set('name')}
            placeholder="echo-store"
            error={errorAt(findings, 'name')}
            autoFocus
            isRequired
          />
        )}
        <Choice
          label="VRF"
          value={form.vrf}
          onChange={set('vrf')}
          options={intent.vrfs.map((v) => ({ id: v.name, name: v.name }))}
          error={errorAt(findings, 'vrf')}
        />
        <TextInput
          label="VLAN"
          value={form.vlan}
          onChange={set('vlan')}
          placeholder={`${proposed}, next free`}
          error={errorAt(findings, 'vlan')}
          code
        />
        <TextInput
          label="VNI"
          value={form.vni}
          onChange={set('vni')}
          placeholder={network ? `${values[`network:${network.name}/vni`] ?? ''}, drawn` : 'drawn by the fabric’s rule'}
          error={errorAt(findings, 'vni')}
          code
        />
        <TextInput
          label="Subnet"
          value={form.subnet}
          onChange={set('subnet')}
          placeholder={subnet ? `${subnet}, drawn` : 'drawn from the pool'}
          error={errorAt(findings, 'subnet')}
          {...(subnet ? { hint: `Gateway ${gatewayOf(subnet)} on every leaf that carries it` } : {})}
          code
        />
        {form.subnet === '' && (
          <TextInput
            label="Length of a drawn subnet"
            value={form.length}
            onChange={set('length')}
            error={errorAt(findings, 'subnetLength')}
            code
          />
        )}
        <TextInput
          label="MTU, bytes"
          value={form.mtu}
          onChange={set('mtu')}
          placeholder={`${intent.settings.tenantMtu}, the fabric’s default`}
          error={errorAt(findings, 'mtu')}
          code
        />
        <TextInput
          label="On racks"
          value={form.racks}
          onChange={set('racks')}
          placeholder="1-3, 7"
          error={racks === null ? 'Write rack numbers as 1-3, 7.' : errorAt(findings, 'racks')}
          code
        />
        <Leftovers
          findings={leftOver(findings, 'name', 'vrf', 'vlan', 'vni', 'subnet', 'subnetLength', 'mtu', 'racks')}
        />
        {may && (
          <Row $wrap>
            <Button type="submit" $kind="main">
              {network ? 'Change network' : 'Add network'}
            </Button>
            {network && (
              <Button $kind="danger" onPress={() => void remove()}>
                Remove
              </Button>
            )}
            <Button onPress={() => select(null)}>Close</Button>
          </Row>
        )}
      </Stack>
    </form>
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
const VrfChip = styled.span`
  border: 1px solid ${token('rule')};
  background: ${token('sheet')};
  border-radius: 4px;
  padding: 3px 10px;
  display: inline-flex;
  gap: 6px;
  align-items: baseline;
`;
