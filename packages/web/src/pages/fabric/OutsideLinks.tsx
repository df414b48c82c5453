import { cablesOfLink, driveWords, outsideKey, subjectOf, type OutsideLink } from '@anthemion/core';
import { useMay } from '../../app/session.ts';
import { Button, Cap, Mono } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { useFabricView, useSelection } from './FabricFrame.tsx';
import { racksOutward } from './LinkForm.tsx';
import { OpenWords } from './OpenWords.tsx';
import { useObjectRows } from './useObjectRows.tsx';

/** What stands in the address where a new link is made. */
export const NEW_LINK = 'new-link';

/** Its ports at one end: of a LAG all of them. */
const portsOf = (o: OutsideLink, end: 'port' | 'farPort'): string =>
  cablesOfLink(o)
    .map((c) => c[end])
    .join(' + ') + (o.lag?.length === 0 ? ' (LAG)' : '');

const columnsOf = (links: readonly OutsideLink[]): TableColumn<OutsideLink>[] => [
  { id: 'system', title: 'Leads to', text: (o) => o.system, cell: (o) => <Mono title={o.system}>{o.system}</Mono> },
  {
    id: 'farPort',
    title: 'Its port',
    text: (o) => portsOf(o, 'farPort'),
    cell: (o) => <Mono title={portsOf(o, 'farPort')}>{portsOf(o, 'farPort')}</Mono>,
    width: '15%',
  },
  { id: 'rack', title: 'Rack', text: (o) => o.rack, width: '9%' },
  { id: 'side', title: 'On', text: (o) => `leaf ${o.side}`, width: '11%' },
  {
    id: 'port',
    title: 'Port',
    text: (o) => portsOf(o, 'port'),
    cell: (o) => <Mono title={portsOf(o, 'port')}>{portsOf(o, 'port')}</Mono>,
    width: '12%',
  },
  { id: 'to', title: 'To', text: (o) => (o.to === 'site' ? 'another site' : 'outside'), width: '14%' },
  {
    id: 'open',
    title: 'Open',
    text: (o) => (o.shut ? 'shut' : 'open'),
    cell: (o) => <OpenWords of={o} />,
    width: '10%',
  },
  // Where none is told anything, nobody asks.
  ...(links.some((o) => driveWords(o).length > 0)
    ? [{ id: 'driven', title: 'Driven', text: (o: OutsideLink) => driveWords(o).join(', '), width: '16%' }]
    : []),
];

/** Cables from border leaves and site gateways to what is not of the fabric. */
export function OutsideLinks() {
  const { fabric } = useFabricView();
  const may = useMay('designer');
  const rows = useObjectRows<OutsideLink>({
    table: 'outside',
    kind: 'outside',
    keyOf: outsideKey,
    away: (n) => `Take ${n} away`,
  });
  const [at, select] = useSelection();
  return (
    <>
      <Cap style={{ marginTop: 14 }}>Outside links</Cap>
      <DataTable<OutsideLink>
        label="Outside links"
        rows={fabric.intent.outside}
        columns={columnsOf(fabric.intent.outside)}
        rowKey={outsideKey}
        {...(may
          ? {
              selected: at?.startsWith('outside:') ? at.slice('outside:'.length) : undefined,
              onSelect: (o) => select(subjectOf('outside', outsideKey(o))),
            }
          : {})}
        fileName={`${fabric.name}-outside`}
        {...rows.does}
        actions={
          may && racksOutward(fabric.intent).length > 0 ? (
            <Button onPress={() => select(NEW_LINK)}>Join outside</Button>
          ) : undefined
        }
        empty={<p>No border is joined to anything yet.</p>}
      />
      {rows.dialog}
    </>
  );
}
