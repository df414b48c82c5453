import { expandPorts, rackPatternOf, serverPortKey, type Finding, type ServerPort, type Side } from '@anthemion/core';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { Page } from '../../app/Page.tsx';
import { useMay } from '../../app/session.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Cap, Empty, H3, Mono, Row, Stack } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { Choice, errorAt, Leftovers, leftOver, TextInput } from '../../parts/fields.tsx';
import { fabricCrumbs, fabricSub, FabricTabs, fabricTitle, useFabricView } from './FabricFrame.tsx';

const SIDES: Readonly<Record<Side, string>> = { both: 'both leaves, ESI LAG', a: 'leaf a', b: 'leaf b' };

/** Servers on the racks' ports; the next free port is found. */
export function Ports() {
  const { fabric, change } = useFabricView();
  const [params, setParams] = useSearchParams();
  const makeEdits = useEdits(fabric.name);
  const may = useMay('designer');
  const [adding, setAdding] = useState(false);
  const rack = params.get('rack');
  const rows = rack ? fabric.intent.ports.filter((p) => p.rack === Number(rack)) : fabric.intent.ports;
  const columns: TableColumn<ServerPort>[] = [
    { id: 'server', title: 'Server', text: (p) => p.server, cell: (p) => <Mono>{p.server}</Mono> },
    { id: 'rack', title: 'Rack', text: (p) => p.rack, width: '9%' },
    { id: 'port', title: 'Port', text: (p) => p.port, cell: (p) => <Mono>{p.port}</Mono>, width: '9%' },
    { id: 'side', title: 'On', text: (p) => SIDES[p.side], width: '19%' },
    { id: 'untagged', title: 'Untagged', text: (p) => p.untagged ?? '' },
    { id: 'tagged', title: 'Tagged', text: (p) => p.tagged.join(', ') },
    {
      id: 'free',
      title: 'Free',
      text: () => '',
      width: '8%',
      cell: (p) =>
        may && (
          <Button
            aria-label={`Free ${p.port} of rack ${p.rack}`}
            onPress={() => void makeEdits([{ kind: 'disconnectServer', rack: p.rack, side: p.side, port: p.port }])}
            style={{ padding: '0 8px' }}
          >
            Free
          </Button>
        ),
    },
  ];
  return (
    <Page
      title={fabricTitle(fabric)}
      sub={fabricSub(fabric, change)}
      crumbs={fabricCrumbs(fabric.name)}
      tabs={<FabricTabs />}
      flush
      aside={adding ? <ConnectForm rack={rack} onDone={() => setAdding(false)} /> : undefined}
      asideLabel="Connect a server"
    >
      <DataTable
        label="Ports"
        rows={rows}
        columns={columns}
        rowKey={serverPortKey}
        fileName={`${fabric.name}-ports`}
        actions={
          <Row>
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
            {fabric.intent.networks.length === 0 && 'Add a network under Tenants first.'}
          </Empty>
        }
      />
    </Page>
  );
}

function ConnectForm({ rack: wanted, onDone }: { readonly rack: string | null; readonly onDone: () => void }) {
  const { fabric } = useFabricView();
  const { intent } = fabric;
  const makeEdits = useEdits(fabric.name);
  const [rack, setRack] = useState(wanted ?? String(intent.racks[0]?.number ?? ''));
  const [server, setServer] = useState('');
  const [port, setPort] = useState('');
  const [side, setSide] = useState<Side | ''>('');
  const [untagged, setUntagged] = useState('');
  const [tagged, setTagged] = useState('');
  const [findings, setFindings] = useState<readonly Finding[]>([]);
  const number = Number(rack);
  const found = intent.racks.find((r) => r.number === number);
  const pattern = found && rackPatternOf(intent, found);
  const free =
    (pattern ? (expandPorts(pattern.serverPorts) ?? []) : []).find(
      (p) => !intent.ports.some((x) => x.rack === number && x.port === p),
    ) ?? '';
  const here = intent.networks.filter((n) => n.racks.includes(number));
  const save = async (): Promise<void> => {
    const next: ServerPort = {
      rack: number,
      side: side || (pattern?.kind === 'esi-pair' ? 'both' : 'a'),
      port: port || free,
      server,
      ...(untagged === '' ? {} : { untagged }),
      tagged: tagged
        .split(',')
        .map((t) => t.trim())
        .filter(Boolean),
    };
    const made = await makeEdits([{ kind: 'connectServer', port: next }], true);
    setFindings(made.ok ? [] : made.findings);
    if (made.ok) {
      setServer('');
      setPort('');
    }
  };
  return (
    <form onSubmit={(e) => (e.preventDefault(), void save())}>
      <Stack $gap={11}>
        <Cap>Port</Cap>
        <H3>Connect a server</H3>
        <TextInput
          label="Server"
          value={server}
          onChange={setServer}
          placeholder="echo-301"
          error={errorAt(findings, 'server')}
          autoFocus
          isRequired
        />
        <Choice
          label="Rack"
          value={rack}
          onChange={setRack}
          options={intent.racks.map((r) => ({ id: String(r.number), name: `rack-${r.number}`, note: r.pattern }))}
          error={errorAt(findings, 'rack')}
        />
        <TextInput
          label="Port"
          value={port}
          onChange={setPort}
          placeholder={free ? `${free}, next free` : 'the rack is full'}
          error={errorAt(findings, 'port/port', 'port')}
          code
        />
        {pattern?.kind === 'esi-pair' && (
          <Choice
            label="On"
            value={side || 'both'}
            onChange={(v) => setSide(v as Side)}
            options={Object.entries(SIDES).map(([id, name]) => ({ id, name }))}
            error={errorAt(findings, 'side')}
          />
        )}
        <Choice
          label="Untagged network"
          value={untagged}
          onChange={setUntagged}
          options={here.map((n) => ({ id: n.name, name: n.name, note: `VLAN ${n.vlan}` }))}
          placeholder={here.length > 0 ? 'None' : 'This rack carries no network'}
          error={errorAt(findings, 'untagged')}
        />
        <TextInput
          label="Tagged networks"
          value={tagged}
          onChange={setTagged}
          placeholder="tide-model, almanac"
          error={errorAt(findings, 'tagged')}
        />
        <Leftovers findings={leftOver(findings, 'server', 'rack', 'port', 'side', 'untagged', 'tagged')} />
        <Row>
          <Button type="submit" $kind="main">
            Connect
          </Button>
          <Button onPress={onDone}>Close</Button>
        </Row>
      </Stack>
    </form>
  );
}
