import {
  gatewayOf,
  hasFamily,
  isRouted,
  networkSchema,
  proposeVlan,
  racksOf,
  racksText,
  sameContent,
  subnetsOf,
  type Edit,
  type Network,
} from '@anthemion/core';
import { useState } from 'react';
import { AskDialog } from '../../parts/AskDialog.tsx';
import { useMay } from '../../app/session.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Cap, H3, Note, Row } from '../../parts/basics.tsx';
import { ChoiceField, Form, mayBeEmpty, NumberField, ParsedField, TextField, useFormPart } from '../../parts/Form.tsx';
import { useFabricView, useSelection } from './FabricFrame.tsx';
import { UNCHANGED } from './inPlace.ts';

const SCHEMA = mayBeEmpty(networkSchema, 'vlan', 'subnet', 'families', 'subnet6', 'furtherSubnets');
type Typed = Omit<Network, 'vlan' | 'families' | 'furtherSubnets'> & {
  readonly furtherSubnets: Network['furtherSubnets'] | '';
  readonly vlan: number | undefined;
  readonly families: Network['families'] | '';
};

/** What an empty field means is left out: it is drawn, or follows from the fabric. */
function networkOf(
  { vni, subnet, families, subnet6, furtherSubnets, mtu, vlan, ...rest }: Typed,
  proposed: number,
): Network {
  const of = rest.vrf === '' || !families ? {} : { families };
  const said = (text: string | undefined, family: 4 | 6): string | null =>
    hasFamily({ vrf: rest.vrf, ...of }, family) ? text?.trim() || null : null;
  const [chosen, chosen6] = [said(subnet, 4), said(subnet6, 6)];
  return {
    ...rest,
    vlan: vlan ?? proposed,
    ...(vni === undefined ? {} : { vni }),
    ...of,
    ...(chosen === null ? {} : { subnet: chosen }),
    ...(chosen6 === null ? {} : { subnet6: chosen6 }),
    ...(rest.vrf === '' || !furtherSubnets ? {} : { furtherSubnets }),
    ...(mtu === undefined ? {} : { mtu }),
  };
}

/** The edit that makes of a network what stands in the form: where only its racks differ, that it is carried elsewhere. */
function editOf(network: Network | undefined, next: Network): Edit {
  if (!network) return { kind: 'addNetwork', network: next };
  const rest = (n: Network): string =>
    JSON.stringify(Object.entries({ ...n, racks: [] }).sort(([a], [b]) => (a < b ? -1 : 1)));
  return rest(network) === rest(next)
    ? { kind: 'carryNetwork', name: network.name, racks: next.racks }
    : { kind: 'changeNetwork', name: network.name, network: next };
}

/** A network: new, or one that is there. */
export function NetworkForm({ network }: { readonly network?: Network }) {
  const { fabric, proof } = useFabricView();
  const { intent, values } = fabric;
  const [, select] = useSelection();
  const makeEdits = useEdits(fabric.name);
  const may = useMay('designer');
  const [removing, setRemoving] = useState(false);
  const proposed = proposeVlan(intent);
  const part = useFormPart<Typed>({
    schema: SCHEMA,
    initial: {
      name: network?.name ?? '',
      vrf: network?.vrf ?? intent.vrfs[0]?.name ?? '',
      vlan: network?.vlan,
      vni: network?.vni as number,
      subnet: network?.subnet ?? '',
      subnetLength: network?.subnetLength ?? 24,
      families: network?.families ?? '',
      subnet6: network?.subnet6 ?? '',
      furtherSubnets: network?.furtherSubnets ?? '',
      mtu: network?.mtu as number,
      racks: network?.racks ?? intent.racks.map((r) => r.number),
    },
    // What is there already is shown as it is; what is new is kept until it is sent.
    ...(network ? {} : { keep: `network of ${fabric.name}` }),
    base: '/edits/0/network',
  });
  const vrf = part.rhf.watch('vrf');
  const bridged = vrf === '';
  const families = part.rhf.watch('families') || undefined;
  const has = (family: 4 | 6): boolean => hasFamily({ vrf, ...(families ? { families } : {}) }, family);
  const close = (): void => {
    part.forget();
    select(null);
  };
  const said = (proof?.findings ?? []).filter((f) => network && f.subjects?.includes(`network:${network.name}`));
  const drawn = (which: 'subnet' | 'subnet6'): { placeholder: string; hint?: string } => {
    const value = network && values[`network:${network.name}/${which}`];
    if (!value) return { placeholder: 'drawn from the pool' };
    return { placeholder: `${value}, drawn`, hint: `Gateway ${gatewayOf(value)} on every switch that carries it` };
  };
  const servers = network
    ? intent.ports.filter((p) => p.untagged === network.name || p.tagged.includes(network.name))
    : [];
  return (
    <>
      <Form
        part={part}
        onSend={async (typed) => {
          const next = networkOf(typed, proposed);
          if (network && sameContent(next, network)) return UNCHANGED;
          const made = await makeEdits([editOf(network, next)], true);
          if (made.ok) select(`network:${next.name}`);
          return made.ok ? null : made;
        }}
        buttons={
          may && (
            <Row $wrap>
              <Button type="submit" $kind="main">
                {network ? 'Change network' : 'Add network'}
              </Button>
              {network && (
                <Button $kind="danger" onPress={() => setRemoving(true)}>
                  Remove
                </Button>
              )}
              <Button onPress={close}>Close</Button>
            </Row>
          )
        }
      >
        <Cap>Network</Cap>
        <H3>{network ? network.name : 'A new network'}</H3>
        {said.map((f) => (
          <Note key={f.message} $tone={f.severity === 'error' ? 'bad' : 'wait'}>
            {f.message} <b>{f.cure}</b>
          </Note>
        ))}
        {!network && <TextField name="name" label="Name" placeholder="echo-store" autoFocus isRequired />}
        <ChoiceField
          name="vrf"
          label="VRF"
          options={intent.vrfs.map((v) => ({ id: v.name, name: v.name }))}
          none="none: bridged only"
          {...(bridged ? { hint: 'hosts in it reach one another; no switch routes for them' } : {})}
        />
        <NumberField name="vlan" label="VLAN" placeholder={`${proposed}, next free`} />
        {isRouted(intent) && (
          <NumberField
            name="vni"
            label="VNI"
            placeholder={
              network ? `${values[`network:${network.name}/vni`] ?? ''}, drawn` : 'drawn by the fabric’s rule'
            }
          />
        )}
        {!bridged && (
          <ChoiceField
            name="families"
            label="Addresses of hosts"
            options={[
              { id: 'both', name: 'IPv4 and IPv6' },
              { id: 'ipv6', name: 'IPv6 alone' },
            ]}
            none="IPv4 alone"
          />
        )}
        {has(4) && (
          <>
            <TextField name="subnet" label="Subnet" {...drawn('subnet')} code />
            {!part.rhf.watch('subnet') && <NumberField name="subnetLength" label="Length of a drawn subnet" />}
          </>
        )}
        {has(6) && <TextField name="subnet6" label="IPv6 subnet, a /64" {...drawn('subnet6')} code />}
        {!bridged && (
          <ParsedField
            name="furtherSubnets"
            label="Further subnets"
            parse={(text) => subnetsOf(text) ?? ''}
            show={(all: readonly string[] | '') => (all === '' ? '' : all.join(', '))}
            bad=""
            placeholder="none"
            hint="chosen ones, a gateway in each: servers move from one to the other while both are there"
            code
          />
        )}
        <NumberField name="mtu" label="MTU, bytes" placeholder={`${intent.settings.tenantMtu}, the fabric’s default`} />
        <ParsedField
          name="racks"
          label="On racks"
          parse={racksOf}
          show={racksText}
          bad="Write rack numbers as 1-3, 7."
          placeholder="1-3, 7"
          code
        />
      </Form>
      {network && (
        <AskDialog
          title={`Remove ${network.name}`}
          yes="Remove it"
          isOpen={removing}
          onClose={() => setRemoving(false)}
          onYes={() => {
            setRemoving(false);
            void makeEdits([{ kind: 'removeNetwork', name: network.name }]).then((made) => made.ok && select(null));
          }}
        >
          {servers.length === 0
            ? 'Its VLAN, VNI and subnet go from every rack that carries it. The edit can be undone in the change.'
            : `${servers.length} ${servers.length === 1 ? 'server is' : 'servers are'} on it: ${servers
                .slice(0, 6)
                .map((p) => p.server)
                .join(
                  ', ',
                )}${servers.length > 6 ? ' and more' : ''}. Take ${servers.length === 1 ? 'it' : 'them'} off first, or the edit is refused.`}
        </AskDialog>
      )}
    </>
  );
}
