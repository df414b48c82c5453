import { type InventoryAnswer } from '@anthemion/contract';
import { useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { api, problemOf } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { useMay } from '../../app/session.ts';
import { listText } from '../../parts/csv.ts';
import { Button, Empty, Faded, Failure, Mono, Row, Waiting } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { HostKeysDialog } from './SwitchDoor.tsx';
import { ago } from '../../parts/times.ts';
import { SwitchNotes } from './SwitchNotes.tsx';
import { ImportDialog } from './ImportDialog.tsx';
import { toast } from 'sonner';

const HEADING = ['serial', 'model', 'address', 'port', 'location', 'account', 'hostkey'];
/** Cells of a spreadsheet as the list that is imported; without a heading the columns stand in its order. */
const listOf = (cells: readonly (readonly string[])[]): string =>
  listText(
    cells[0]?.[0]?.trim().toLowerCase() === 'serial'
      ? [cells[0].map((c) => c.toLowerCase()), ...cells.slice(1)]
      : [HEADING.slice(0, cells[0]?.length ?? 0), ...cells],
  );

/** Every known switch: imported from CSV, read over SSH, seated or not. */
export function Switches() {
  const switches = api.useSwitchesQuery();
  const serial = useParams()['serial'];
  const [params, setParams] = useSearchParams();
  const navigate = useNavigate();
  const may = useMay('operator');
  const [read] = api.useReadSwitchMutation();
  const [pasted, setPasted] = useState('');
  if (switches.isError)
    return (
      <Page title="Switches">
        <Failure detail={problemOf(switches.error).detail} onRetry={() => void switches.refetch()} />
      </Page>
    );
  if (!switches.data)
    return (
      <Page title="Switches">
        <Waiting />
      </Page>
    );
  const picked = switches.data.find((s) => s.serial === serial);
  const columns: TableColumn<InventoryAnswer>[] = [
    { id: 'serial', title: 'Serial', text: (s) => s.serial, cell: (s) => <Mono>{s.serial}</Mono>, width: '15%' },
    { id: 'model', title: 'Model', text: (s) => s.model, width: '12%' },
    {
      id: 'host',
      title: 'Name on the switch',
      text: (s) => s.host ?? '',
      cell: (s) => (s.host ? <Mono>{s.host}</Mono> : ''),
      width: '16%',
    },
    {
      id: 'seat',
      title: 'Seat',
      text: (s) => s.seat ?? 'unseated',
      cell: (s) =>
        s.seat ? (
          <Link to={`/fabrics/${s.seat.split('/')[0]}/seats?at=seat:${s.seat.split('/')[1]}`}>
            {s.seat.replace('/', ' › ')}
          </Link>
        ) : (
          <Faded>unseated</Faded>
        ),
      width: '16%',
    },
    {
      id: 'address',
      title: 'Address',
      text: (s) => `${s.address}:${s.port}`,
      cell: (s) => <Mono>{`${s.address}:${s.port}`}</Mono>,
      width: '20%',
    },
    { id: 'place', title: 'Place', text: (s) => s.location },
    {
      id: 'read',
      title: 'Read',
      text: (s) => (s.seenKey ? 'key waits' : (s.trouble ?? s.readAt ?? '')),
      width: '14%',
      cell: (s) => (
        <Row $gap={6}>
          <StateMark
            mood={s.out ? 'folded' : s.seenKey ? 'dewed' : s.trouble ? 'fallen' : s.readAt ? 'bloom' : 'bud'}
            size={12}
          />{' '}
          {s.out ? 'out' : s.seenKey ? 'key waits' : s.trouble ? 'failed' : s.readAt ? ago(s.readAt) : 'never'}
        </Row>
      ),
    },
  ];
  return (
    <Page
      title="Switches"
      sub={`${switches.data.length} known, ${switches.data.filter((s) => s.seat === null).length} unseated`}
      flush
      aside={picked && <SwitchNotes key={picked.serial} s={picked} />}
      asideLabel="Switch"
    >
      <DataTable<InventoryAnswer>
        label="Switches"
        rows={switches.data}
        columns={columns}
        rowKey={(s) => s.serial}
        selected={serial}
        onSelect={(s) => void navigate(`/switches/${s.serial}`)}
        {...(may
          ? {
              onPaste: (cells) => {
                setPasted(listOf(cells));
                setParams({ import: '1' });
              },
              bulk: (picked, done) => (
                <Button
                  onPress={() =>
                    void Promise.all(picked.map((s) => read(s.serial))).then((all) => {
                      const failed = all.filter((r) => 'error' in r).length;
                      if (failed > 0) toast.error(`${failed} of ${all.length} could not be read; each says why.`);
                      else toast.success(`${all.length} ${all.length === 1 ? 'switch was' : 'switches were'} read`);
                      done();
                    })
                  }
                >
                  Read {picked.length} now
                </Button>
              ),
            }
          : {})}
        actions={
          may && (
            <Row>
              {switches.data.some((s) => s.seenKey !== null) && (
                <Button onPress={() => setParams({ keys: '1' })}>Host keys to accept …</Button>
              )}
              <Button $kind="main" onPress={() => setParams({ import: '1' })}>
                Import CSV
              </Button>
            </Row>
          )
        }
        empty={
          <Empty
            title="No switches yet"
            action={
              may && (
                <Button $kind="main" onPress={() => setParams({ import: '1' })}>
                  Import CSV
                </Button>
              )
            }
          >
            Import the list of what was bought: serial, model, management address. Everything else is read from the
            switch.
          </Empty>
        }
      />
      <HostKeysDialog
        isOpen={params.get('keys') !== null}
        waiting={switches.data.filter((s) => s.seenKey !== null)}
        onClose={() => setParams({})}
      />
      <ImportDialog
        pasted={pasted}
        isOpen={params.get('import') !== null}
        onClose={() => (setPasted(''), setParams({}))}
      />
    </Page>
  );
}
