import { knownText, speakersKey, type NetworkSpeakers } from '@anthemion/core';
import { Link } from 'react-router';
import { useMay } from '../../../app/session.ts';
import { Button, Empty, Mono } from '../../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../../parts/DataTable.tsx';
import { useFabricView, useSelection } from '../FabricFrame.tsx';
import { OtherSide } from '../OtherSide.tsx';
import { useObjectRows } from '../useObjectRows.tsx';

/** What stands in the address where new ones are let in. */
export const NEW_SPEAKERS = 'new-speakers';
/** What stands for no prefixes. */
export const NOTHING = 'nothing';

const columnsOf = (all: readonly NetworkSpeakers[], may: boolean): TableColumn<NetworkSpeakers>[] => {
  const range = (s: NetworkSpeakers) => <Mono>{s.from}</Mono>;
  const prefixes = (of: readonly string[]) => (of.length === 0 ? NOTHING : <Mono>{of.join(', ')}</Mono>);
  return [
    { id: 'network', title: 'Network', text: (s) => s.network, width: '16%' },
    {
      id: 'from',
      title: 'Who may call',
      text: (s) => s.from,
      cell: may ? (s) => <Link to={`?at=${encodeURIComponent(`speakers:${speakersKey(s)}`)}`}>{range(s)}</Link> : range,
      width: '18%',
    },
    { id: 'asn', title: 'AS', text: (s) => s.asn, width: '9%' },
    { id: 'takes', title: 'May tell', text: (s) => s.takes.join(', '), cell: (s) => prefixes(s.takes) },
    { id: 'tells', title: 'Told', text: (s) => s.tells.join(', ') || NOTHING, cell: (s) => prefixes(s.tells) },
    {
      id: 'known',
      title: 'Known',
      text: (s) => knownText(s.known),
      cell: (s) => <span title={knownText(s.known)}>{s.known?.length ?? 'nobody'}</span>,
      width: '10%',
    },
    // Where none is, nobody asks.
    ...(all.some((s) => s.closed)
      ? [{ id: 'closed', title: 'Closed', text: (s: NetworkSpeakers) => (s.closed ? 'closed' : ''), width: '8%' }]
      : []),
  ];
};

/** Servers of networks that speak BGP to their gateway. */
export function Speakers() {
  const { fabric } = useFabricView();
  const may = useMay('designer');
  const [, select] = useSelection();
  const rows = useObjectRows<NetworkSpeakers>({
    table: 'speakers',
    kind: 'speakers',
    keyOf: speakersKey,
    away: (n) => `Let ${n} speak no more`,
  });
  const { speakers, networks } = fabric.intent;
  const routed = networks.some((n) => n.vrf !== '');
  const add = may && routed ? <Button onPress={() => select(NEW_SPEAKERS)}>Let servers speak</Button> : undefined;
  return (
    <>
      <DataTable<NetworkSpeakers>
        label="BGP servers"
        rows={speakers}
        columns={columnsOf(speakers, may)}
        rowKey={speakersKey}
        fileName={`${fabric.name}-bgp-servers`}
        {...rows.does}
        actions={speakers.length > 0 ? add : undefined}
        empty={
          <Empty title="No servers speak BGP yet" {...(add ? { action: add } : {})}>
            Nodes of a cluster, or a firewall, call the gateway of their network; the leaf they are on answers, and all
            leaves of the tenant hear what they may tell.{!routed && ' Add a network with a VRF under Tenants first.'}
          </Empty>
        }
      />
      <OtherSide of="servers" />
      {rows.dialog}
    </>
  );
}
