import { neighbourKey, outsideKey, placeWords, type FabricIntent, type OutsideNeighbour } from '@anthemion/core';
import { Link } from 'react-router';
import { useMay } from '../../app/session.ts';
import { Button, Cap, Faded, Mono } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { useFabricView, useSelection } from './FabricFrame.tsx';
import { DEFAULT_ROUTE, SUBNETS } from './NeighbourForm.tsx';
import { useObjectRows } from './useObjectRows.tsx';

/** What stands in the address where a new neighbour is made. */
export const NEW_NEIGHBOUR = 'new-neighbour';

/** What goes over a session, and the route map it goes through. */
const through = (what: string, map: string | undefined) =>
  map === undefined ? (
    what
  ) : (
    <>
      {what} <Faded>by {map}</Faded>
    </>
  );

/** What the session is with; where that is behind the link, by what. */
const addressOf = ({ far, loopback }: OutsideNeighbour): string =>
  loopback === undefined ? far : `${loopback} behind ${far}`;

function columnsOf(intent: FabricIntent, may: boolean): TableColumn<OutsideNeighbour>[] {
  const systemOf = (n: OutsideNeighbour): string =>
    intent.outside.find((o) => outsideKey(o) === outsideKey(n))?.system ?? '';
  const mono = (text: string) => <Mono title={text}>{text}</Mono>;
  return [
    { id: 'system', title: 'Router', text: systemOf, cell: (n) => mono(systemOf(n)), width: '9%' },
    {
      id: 'far',
      title: 'Its address',
      text: addressOf,
      cell: (n) =>
        may ? <Link to={`?at=neighbour:${neighbourKey(n)}`}>{mono(addressOf(n))}</Link> : mono(addressOf(n)),
      width: '17%',
    },
    { id: 'asn', title: 'AS', text: (n) => n.asn, width: '7%' },
    { id: 'vrf', title: 'VRF', text: (n) => n.vrf, width: '8%' },
    { id: 'address', title: 'Our address', text: (n) => n.address, cell: (n) => mono(n.address), width: '19%' },
    {
      id: 'link',
      title: 'On',
      text: ({ rack, side, port }) => placeWords({ rack, side, port }),
      width: '13%',
    },
    { id: 'vlan', title: 'VLAN', text: (n) => n.vlan ?? '', width: '7%' },
    // Where none is, nobody asks.
    ...(intent.neighbours.some((n) => n.closed)
      ? [{ id: 'closed', title: 'Closed', text: (n: OutsideNeighbour) => (n.closed ? 'closed' : ''), width: '7%' }]
      : []),
    // In few words here; in a file, and filtered, in those of its fields.
    {
      id: 'takes',
      title: 'Takes',
      text: (n) => n.takes.join(', ') || DEFAULT_ROUTE,
      cell: (n) => through(n.takes.join(', ') || 'default', n.mapIn),
      width: '9%',
    },
    {
      id: 'tells',
      title: 'Tells',
      text: (n) => n.tells.join(', ') || SUBNETS,
      cell: (n) => through(n.tells.join(', ') || 'subnets', n.mapOut),
      width: '9%',
    },
  ];
}

/** Routers outside that tenants speak BGP to. */
export function NeighboursOutside() {
  const { fabric } = useFabricView();
  const may = useMay('designer');
  const [, select] = useSelection();
  const rows = useObjectRows<OutsideNeighbour>({
    table: 'neighbours',
    kind: 'neighbour',
    keyOf: neighbourKey,
    away: (n) => `Speak to ${n} no more`,
  });
  const { neighbours, outside } = fabric.intent;
  return (
    <>
      <Cap style={{ marginTop: 14 }}>Neighbours outside</Cap>
      <DataTable<OutsideNeighbour>
        label="Neighbours outside"
        rows={neighbours}
        columns={columnsOf(fabric.intent, may)}
        rowKey={neighbourKey}
        fileName={`${fabric.name}-neighbours`}
        {...rows.does}
        actions={
          may && outside.length > 0 && fabric.intent.vrfs.length > 0 ? (
            <Button onPress={() => select(NEW_NEIGHBOUR)}>Speak BGP</Button>
          ) : undefined
        }
        empty={
          <p>
            No tenant speaks to a router outside yet.
            {outside.length === 0 && ' Join one first.'}
          </p>
        }
      />
      {rows.dialog}
    </>
  );
}
