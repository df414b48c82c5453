import {
  driveWords,
  portNames,
  rackPatternOf,
  serverPortKey,
  subjectOf,
  type Edit,
  type ServerPort,
} from '@anthemion/core';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { useMay } from '../../app/session.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Empty, Mono, Row } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { PortWords, portText } from '../../parts/PortWords.tsx';
import { ConnectForm, SIDES } from './ConnectForm.tsx';
import { ServerForm } from './ServerForm.tsx';
import { HeardAside } from './HeardAside.tsx';
import { FabricPage, useFabricView } from './FabricFrame.tsx';
import { OpenWords } from './OpenWords.tsx';
import { PortDriveDialog } from './PortDriveDialog.tsx';
import { PortNetworksDialog } from './PortNetworksDialog.tsx';
import { usePasting } from './usePasting.tsx';

/** Edits that open or shut ports; those that are so already are left. */
const turned = (picked: readonly ServerPort[], shut: boolean): Edit[] =>
  picked
    .filter((p) => (p.shut ?? false) !== shut)
    .map((p): Edit => {
      const { shut: _, ...open } = p;
      return { kind: 'changeServer', port: shut ? { ...open, shut: true } : open };
    });
const freed = ({ rack, side, port }: ServerPort): Edit => ({ kind: 'disconnectServer', rack, side, port });

/** Servers on the racks' ports; the next free port is found. */
export function Ports() {
  const { fabric } = useFabricView();
  const [params, setParams] = useSearchParams();
  const makeEdits = useEdits(fabric.name);
  const may = useMay('designer');
  const adding = may && params.get('new') !== null;
  const setAdding = (on: boolean): void =>
    setParams({ ...(rack ? { rack } : {}), ...(on ? { new: 'server' } : {}) }, { replace: true });
  const at = params.get('at');
  const setAt = (key: string | null): void =>
    setParams({ ...(rack ? { rack } : {}), ...(key === null ? {} : { at: key }) }, { replace: true });
  const where = params.get('where');
  const setWhere = (who: string | null): void =>
    setParams({ ...(rack ? { rack } : {}), ...(who === null ? {} : { where: who }) }, { replace: true });
  const pasting = usePasting('ports');
  const [asking, setAsking] = useState<{
    readonly what: 'networks' | 'drive';
    readonly picked: readonly ServerPort[];
    readonly done: () => void;
  } | null>(null);
  const asked = asking && {
    fabric: fabric.name,
    picked: asking.picked,
    onDone: (): void => {
      setAsking(null);
      asking.done();
    },
    onClose: (): void => setAsking(null),
  };
  const rack = params.get('rack');
  const rows = rack ? fabric.intent.ports.filter((p) => p.rack === Number(rack)) : fabric.intent.ports;
  const { intent } = fabric;
  const opened = may ? intent.ports.find((p) => subjectOf('port', serverPortKey(p)) === at) : undefined;
  const leafModels = new Map(intent.racks.map((r) => [r.number, rackPatternOf(intent, r)?.leafModel]));
  const nameOf = ({ rack: at, port }: ServerPort): string =>
    portNames(intent.models.find((m) => m.name === leafModels.get(at))).nameOf(port);
  const columns: TableColumn<ServerPort>[] = [
    { id: 'server', title: 'Server', text: (p) => p.server, cell: (p) => <Mono>{p.server}</Mono> },
    { id: 'rack', title: 'Rack', text: (p) => p.rack, width: '9%' },
    {
      id: 'port',
      title: 'Port',
      text: (p) => portText(p.port, nameOf(p)),
      cell: (p) => <PortWords label={p.port} name={nameOf(p)} />,
      width: rows.some((p) => nameOf(p) !== p.port) ? '13%' : '9%',
    },
    { id: 'side', title: 'On', text: (p) => SIDES[p.side], width: '19%' },
    { id: 'untagged', title: 'Untagged', text: (p) => p.untagged ?? '' },
    { id: 'tagged', title: 'Tagged', text: (p) => p.tagged.join(', ') },
    {
      id: 'open',
      title: 'Open',
      text: (p) => (p.shut ? 'shut' : 'open'),
      cell: (p) => <OpenWords of={p} />,
      width: '10%',
    },
    // Where none is told anything, nobody asks.
    ...(intent.ports.some((p) => p.speed !== undefined || p.fec !== undefined)
      ? [{ id: 'driven', title: 'Driven', text: (p: ServerPort) => driveWords(p).join(', '), width: '16%' }]
      : []),
  ];
  return (
    <FabricPage
      flush
      aside={
        opened ? (
          <ServerForm key={serverPortKey(opened)} known={opened} onDone={() => setAt(null)} />
        ) : adding ? (
          <ConnectForm rack={rack} onDone={() => setAdding(false)} />
        ) : where === null ? undefined : (
          <HeardAside fabric={fabric.name} asked={where} onAsk={setWhere} onDone={() => setWhere(null)} />
        )
      }
      asideLabel={opened ? 'Server port' : adding ? 'Connect a server' : 'Where is it heard?'}
    >
      <DataTable<ServerPort>
        label="Ports"
        rows={rows}
        columns={columns}
        rowKey={serverPortKey}
        {...(may
          ? {
              selected: at?.slice('port:'.length),
              onSelect: (p) => setAt(subjectOf('port', serverPortKey(p))),
              onPaste: pasting.onPaste,
              bulk: (picked, done) => (
                <>
                  <Button onPress={() => setAsking({ what: 'networks', picked, done })}>Networks …</Button>
                  <Button onPress={() => setAsking({ what: 'drive', picked, done })}>Speed and FEC …</Button>
                  <Button onPress={() => void makeEdits(turned(picked, true)).then(done)}>Shut</Button>
                  <Button onPress={() => void makeEdits(turned(picked, false)).then(done)}>Open</Button>
                  <Button $kind="danger" onPress={() => void makeEdits(picked.map(freed)).then(done)}>
                    Free {picked.length} {picked.length === 1 ? 'port' : 'ports'}
                  </Button>
                </>
              ),
            }
          : {})}
        fileName={`${fabric.name}-ports`}
        actions={
          <Row>
            <Button onPress={() => setWhere('')}>Where is it heard?</Button>
            {rack && <Button onPress={() => setParams({})}>Rack {rack} only ×</Button>}
            {may && (
              <Button $kind="main" onPress={() => setAdding(true)} isDisabled={fabric.intent.networks.length === 0}>
                Connect a server
              </Button>
            )}
          </Row>
        }
        empty={
          <Empty
            title="No server is connected"
            action={
              may &&
              fabric.intent.networks.length > 0 && (
                <Button $kind="main" onPress={() => setAdding(true)}>
                  Connect the first server
                </Button>
              )
            }
          >
            A server takes a port of a rack and the networks on it; on a pair of leaves it may have a LAG over both.{' '}
            {fabric.intent.networks.length === 0 && 'Add a network under Tenants first.'} A list can be pasted from a
            spreadsheet: server, rack, port, leaf, untagged, tagged.
          </Empty>
        }
      />
      {pasting.dialog}
      {asking?.what === 'networks' && <PortNetworksDialog {...asked!} intent={intent} />}
      {asking?.what === 'drive' && <PortDriveDialog {...asked!} />}
    </FabricPage>
  );
}
