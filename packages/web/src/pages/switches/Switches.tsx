import { FAULTS, type InventoryAnswer } from '@anthemion/contract';
import type { Finding } from '@anthemion/core';
import { useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { toast } from 'sonner';
import { api, problemOf } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { useMay } from '../../app/session.ts';
import {
  Button,
  Cap,
  Copyable,
  Empty,
  Faded,
  Failure,
  Facts,
  H3,
  Mono,
  Note,
  Row,
  Rule,
  Stack,
  Waiting,
} from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { ReasonDialog } from '../../parts/ReasonDialog.tsx';
import { TextInput, Tick } from '../../parts/fields.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { HostKeysDialog, KeyNote, PlaceDialog } from './SwitchDoor.tsx';
import { ago } from '../../parts/times.ts';

const EXAMPLE =
  'serial,model,address,port,location,account,hostkey\nTVL9001,TV-L48F,10.99.0.21,22,Mole hall row A,halls,SHA256:…';

/** Every known switch: imported from CSV, read over SSH, seated or not. */
export function Switches() {
  const switches = api.useSwitchesQuery();
  const serial = useParams()['serial'];
  const [params, setParams] = useSearchParams();
  const navigate = useNavigate();
  const may = useMay('operator');
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
          <StateMark mood={s.seenKey ? 'dewed' : s.trouble ? 'fallen' : s.readAt ? 'bloom' : 'bud'} size={12} />{' '}
          {s.seenKey ? 'key waits' : s.trouble ? 'failed' : s.readAt ? ago(s.readAt) : 'never'}
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
      <DataTable
        label="Switches"
        rows={switches.data}
        columns={columns}
        rowKey={(s) => s.serial}
        selected={serial}
        onSelect={(s) => void navigate(`/switches/${s.serial}`)}
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
      <ImportDialog isOpen={params.get('import') !== null} onClose={() => setParams({})} />
    </Page>
  );
}

function SwitchNotes({ s }: { readonly s: InventoryAnswer }) {
  const [read, { isLoading }] = api.useReadSwitchMutation();
  const { data: bench } = api.useBenchQuery();
  const [setFault] = api.useSetFaultMutation();
  const may = useMay('operator');
  const [asking, setAsking] = useState<'release' | 'forget' | 'place' | null>(null);
  const [release] = api.useReleaseSwitchMutation();
  const [forget] = api.useForgetSwitchMutation();
  const go = async (work: Promise<{ error?: unknown }>, done: string): Promise<void> => {
    const { error } = await work;
    if (error) {
      toast.error(problemOf(error).detail);
      return;
    }
    toast.success(done);
    setAsking(null);
  };
  const stand = bench?.switches.find((b) => b.serial === s.serial);
  const readNow = async (): Promise<void> => {
    const result = await read(s.serial);
    if ('error' in result) toast.error(problemOf(result.error).detail);
    else toast.success(`${s.serial} was read`);
  };
  return (
    <>
      <Cap>Switch</Cap>
      <H3>
        <Copyable text={s.serial}>{s.serial}</Copyable>
      </H3>
      <Facts>
        <dt>Model</dt>
        <dd>{s.model}</dd>
        <dt>Name</dt>
        <dd>
          <Mono>{s.host ?? 'not seated'}</Mono>
        </dd>
        <dt>Address</dt>
        <dd>
          <Mono>
            {s.address}:{s.port}
          </Mono>
        </dd>
        <dt>Place</dt>
        <dd>{s.location || 'unknown'}</dd>
        <dt>Account</dt>
        <dd>{s.account ?? 'by its range'}</dd>
        <dt>Host key</dt>
        <dd>{s.hostKey === null ? 'none accepted' : <Mono title={s.hostKey}>{s.hostKey.slice(0, 18)}…</Mono>}</dd>
        <dt>Runs</dt>
        <dd>{s.version ?? 'not read yet'}</dd>
        <dt>Read</dt>
        <dd>{s.readAt ? ago(s.readAt) : 'never'}</dd>
      </Facts>
      {s.trouble && s.seenKey === null && <Note $tone="bad">{s.trouble}</Note>}
      {s.seenKey !== null && <KeyNote s={s} may={may} />}
      {may && (
        <Row>
          <Button $kind="main" onPress={() => void readNow()} isDisabled={isLoading}>
            {isLoading ? 'Reading …' : 'Read now'}
          </Button>
          <Button onPress={() => setAsking('release')}>Release an apply …</Button>
        </Row>
      )}
      {may && (
        <Row>
          <Button onPress={() => setAsking('place')}>Address and account …</Button>
        </Row>
      )}
      <PlaceDialog s={s} isOpen={asking === 'place'} onClose={() => setAsking(null)} />
      {s.leftover !== null && (
        <Note $tone="wait">
          It has left {s.leftover} and was not cleared: it may still run that fabric’s text, so what it uses stays out
          of the pools.
          {may && (
            <Row style={{ marginTop: 6 }}>
              <Button onPress={() => setAsking('forget')}>It will not come back …</Button>
            </Row>
          )}
        </Note>
      )}
      <ReasonDialog
        title="Release an apply"
        placeholder="Stands in the log of the switch"
        yes="Release it"
        no="Cancel"
        isOpen={asking === 'release'}
        onYes={(reason) => void go(release({ serial: s.serial, reason }), `${s.serial} takes a new apply now`)}
        onClose={() => setAsking(null)}
      >
        <p>
          A switch on which an apply waits takes no other, and goes back by itself when its time is over. If its old
          text does not load either, it tries again without end: mend it by hand, then release the apply here. What runs
          and what lies on its disk stay as they are.
        </p>
      </ReasonDialog>
      <ReasonDialog
        title="It will not come back"
        placeholder="It burnt, it was sold"
        yes="Forget it"
        no="Cancel"
        isOpen={asking === 'forget'}
        onYes={(reason) => void go(forget({ serial: s.serial, reason }), `Nothing waits for ${s.serial} any more`)}
        onClose={() => setAsking(null)}
      >
        <p>
          {s.leftover} stops waiting for it, and the values it used go back to their pools. If it is plugged in again as
          it is, it uses values that may belong to others by then.
        </p>
      </ReasonDialog>
      {stand && may && (
        <>
          <Rule />
          <Cap>On the bench</Cap>
          <Faded>A stand-in switch; faults can be switched on to see what happens.</Faded>
          {FAULTS.map((fault) => (
            <Tick
              key={fault}
              label={fault}
              value={stand.faults.includes(fault)}
              onChange={(on) => void setFault({ serial: s.serial, fault, on })}
            />
          ))}
        </>
      )}
    </>
  );
}

function ImportDialog({ isOpen, onClose }: { readonly isOpen: boolean; readonly onClose: () => void }) {
  const [csv, setCsv] = useState('');
  const [findings, setFindings] = useState<readonly Finding[]>([]);
  const [importNow, { isLoading }] = api.useImportSwitchesMutation();
  const save = async (): Promise<void> => {
    const result = await importNow(csv);
    if ('error' in result) {
      const p = problemOf(result.error);
      setFindings(p.findings);
      if (p.findings.length === 0) toast.error(p.detail);
      return;
    }
    toast.success(`${result.data.imported} switches imported`);
    setCsv('');
    setFindings([]);
    onClose();
  };
  return (
    <Dialog title="Import switches" isOpen={isOpen} onClose={onClose} width={640}>
      <Stack $gap={12}>
        <Faded>
          Paste the list, or choose a file. Columns: serial, model, address; port, location, account and hostkey may be
          left out. Nothing is imported unless every line is sound. Without a host key, the one it shows first waits for
          your yes.
        </Faded>
        <input
          type="file"
          accept=".csv,text/csv"
          aria-label="CSV file"
          onChange={(e) => void e.target.files?.[0]?.text().then(setCsv)}
        />
        <TextInput
          label="CSV"
          value={csv}
          onChange={setCsv}
          lines={9}
          placeholder={EXAMPLE}
          {...(findings.length > 0
            ? {
                error: `${findings.length} ${findings.length === 1 ? 'line is' : 'lines are'} not sound; nothing was imported.`,
              }
            : {})}
        />
        {findings.slice(0, 8).map((f) => (
          <Note key={f.message} $tone="bad">
            {f.message} {f.cure}
          </Note>
        ))}
        <Row>
          <Button $kind="main" onPress={() => void save()} isDisabled={isLoading || csv.trim() === ''}>
            Import
          </Button>
          <Button onPress={onClose}>Cancel</Button>
        </Row>
      </Stack>
    </Dialog>
  );
}
