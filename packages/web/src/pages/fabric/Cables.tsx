import type { CableAnswer } from '@anthemion/contract';
import { toast } from 'sonner';
import { api, problemOf } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { useMay } from '../../app/session.ts';
import { Button, Cap, Faded, Mono, Note, Row } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { cableMood } from '../../parts/moods.ts';
import { fullness, StateMark } from '../../parts/StateMark.tsx';
import { ago } from '../../parts/times.ts';
import { fabricCrumbs, fabricSub, FabricTabs, fabricTitle, useFabricView } from './FabricFrame.tsx';
import { layOut } from '@anthemion/core';
import { useMemo } from 'react';

/** The cabling plan both ends can be worked from, beside the neighbours the switches really see. */
export function Cables() {
  const { fabric, change } = useFabricView();
  const live = api.useLiveQuery({ name: fabric.name, change }, { skip: fabric.seats.every((s) => s.serial === null) });
  const { data: bench } = api.useBenchQuery();
  const [cable, cabling] = api.useCableBenchMutation();
  const may = useMay('operator');
  const planned = useMemo(() => {
    const layout = layOut(fabric.intent);
    return layout.links.map((l): CableAnswer => ({
      aHost: layout.seatById.get(l.leaf)!.host,
      aPort: l.leafPort,
      bHost: layout.seatById.get(l.spine)!.host,
      bPort: l.spinePort,
      state: 'unread',
      aSees: null,
      bSees: null,
    }));
  }, [fabric.intent]);
  const rows = live.data?.cables ?? planned;
  const right = rows.filter((c) => c.state === 'as planned').length;
  const columns: TableColumn<CableAnswer>[] = [
    { id: 'leaf', title: 'Leaf', text: (c) => c.aHost, cell: (c) => <Mono>{c.aHost}</Mono> },
    { id: 'leafPort', title: 'Port', text: (c) => c.aPort, cell: (c) => <Mono>{c.aPort}</Mono>, width: '9%' },
    { id: 'spine', title: 'Spine', text: (c) => c.bHost, cell: (c) => <Mono>{c.bHost}</Mono> },
    { id: 'spinePort', title: 'Port', text: (c) => c.bPort, cell: (c) => <Mono>{c.bPort}</Mono>, width: '9%' },
    {
      id: 'state',
      title: 'Seen',
      text: (c) => c.state,
      width: '16%',
      cell: (c) => (
        <Row $gap={6}>
          <StateMark mood={cableMood[c.state]} size={14} /> {c.state}
        </Row>
      ),
    },
    {
      id: 'sees',
      title: 'The switches see',
      text: (c) => `${c.aSees ?? ''} ${c.bSees ?? ''}`,
      cell: (c) =>
        c.state === 'miscabled' ? (
          <Mono>{`${c.aHost} sees ${c.aSees ?? 'nobody'}; ${c.bHost} sees ${c.bSees ?? 'nobody'}`}</Mono>
        ) : c.state === 'not seen' ? (
          <Faded>neither end sees a neighbour</Faded>
        ) : (
          ''
        ),
      width: '32%',
    },
  ];
  const spare =
    (bench?.switches.length ?? 0) > 0 && may && fabric.seats.some((s) => s.serial !== null) && right < rows.length;
  const cableBench = async (): Promise<void> => {
    const result = await cable({ fabric: fabric.name, change });
    if ('error' in result) toast.error(problemOf(result.error).detail);
    else toast.success(`${result.data.cabled} cables plugged on the bench, as planned`);
  };
  return (
    <Page
      title={fabricTitle(fabric)}
      sub={fabricSub(fabric, change)}
      crumbs={fabricCrumbs(fabric.name)}
      tabs={<FabricTabs />}
      flush
    >
      {(live.data?.troubles.length ?? 0) > 0 && (
        <Note $tone="bad" style={{ marginTop: 10 }}>
          {live.data!.troubles.length} {live.data!.troubles.length === 1 ? 'switch' : 'switches'} could not be read:{' '}
          {live
            .data!.troubles.slice(0, 3)
            .map((t) => `${t.host}: ${t.trouble}`)
            .join('; ')}
        </Note>
      )}
      {live.isError && <Note $tone="bad">{problemOf(live.error).detail}</Note>}
      <DataTable
        label="Cables"
        rows={rows}
        columns={columns}
        rowKey={(c) => `${c.aHost} ${c.aPort}`}
        fileName={`${fabric.name}-cables`}
        actions={
          <Row>
            {live.data && <StateMark {...fullness(right, rows.length)} size={16} />}
            <span>
              {live.isFetching
                ? 'asking the switches …'
                : live.data
                  ? `${right} of ${rows.length} as planned, seen ${ago(live.data.readAt)}`
                  : `${rows.length} planned`}
            </span>
            {spare && (
              <Button onPress={() => void cableBench()} isDisabled={cabling.isLoading}>
                Cable the bench by this plan
              </Button>
            )}
            {fabric.seats.some((s) => s.serial !== null) && (
              <Button onPress={() => void live.refetch()} isDisabled={live.isFetching}>
                Look again
              </Button>
            )}
          </Row>
        }
        empty={
          <div style={{ padding: 20 }}>
            <Cap>No cables yet</Cap> <Faded>The plan appears when the fabric is laid out.</Faded>
          </div>
        }
      />
    </Page>
  );
}
