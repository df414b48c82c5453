import { FAULTS, type InventoryAnswer } from '@anthemion/contract';
import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { toast } from 'sonner';
import { api, notTaken, problemOf } from '../../app/api.ts';
import { benchApi } from '../../app/benchApi.ts';
import { useMay } from '../../app/session.ts';
import { Button, Cap, Copyable, Faded, Facts, H3, Mono, Note, Row, Rule } from '../../parts/basics.tsx';
import type { NotTaken } from '../../parts/Form.tsx';
import { RemoveButton } from '../../parts/RemoveButton.tsx';
import { ReasonDialog } from '../../parts/ReasonDialog.tsx';
import { Tick } from '../../parts/fields.tsx';
import { KeyNote, PlaceDialog } from './SwitchDoor.tsx';
import { ago } from '../../parts/times.ts';
import { watchApi } from '../../app/watchApi.ts';
import { BackupsDialog } from './BackupsDialog.tsx';
import { HandEdit } from './HandEdit.tsx';

/** One switch: what it is, what was read, what can be done about it. */
export function SwitchNotes({ s }: { readonly s: InventoryAnswer }) {
  const [read, { isLoading }] = api.useReadSwitchMutation();
  const { data: bench } = benchApi.useBenchQuery();
  const [setFault] = benchApi.useSetFaultMutation();
  const may = useMay('operator');
  const [asking, setAsking] = useState<'release' | 'forget' | 'place' | 'out' | 'version' | null>(null);
  const [takeOut] = watchApi.useOutOfServiceMutation();
  const [takeIn] = watchApi.useInServiceMutation();
  const [release] = api.useReleaseSwitchMutation();
  const [forget] = api.useForgetSwitchMutation();
  const [remove] = api.useRemoveSwitchMutation();
  const navigate = useNavigate();
  const [params, setParams] = useSearchParams();
  const [acceptVersion] = api.useAcceptVersionMutation();
  const go = async (work: Promise<{ error?: unknown }>, done: string): Promise<NotTaken | null> => {
    const not = notTaken(await work);
    if (not === null) toast.success(done);
    return not;
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
      {s.untried && (
        <Note $tone="wait">
          It runs {s.version}, with which its dialect was never tried. It is read; nothing is written to it before
          somebody accepts that version.
          {may && (
            <Row style={{ marginTop: 6 }}>
              <Button onPress={() => setAsking('version')}>Accept {s.version} …</Button>
            </Row>
          )}
        </Note>
      )}
      <Row>
        <Button onPress={() => setParams({ backups: '1' })}>Back-ups …</Button>
      </Row>
      <BackupsDialog s={s} isOpen={params.get('backups') !== null} onClose={() => setParams({})} />
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
          {s.seat === null && s.leftover === null && (
            <RemoveButton
              what={`switch ${s.serial}`}
              means="It leaves the list of known switches, with what was read of it. What runs on it stays as it is; it can be imported again."
              remove={async () => notTaken(await remove(s.serial))}
              onGone={() => void navigate('/switches')}
            />
          )}
        </Row>
      )}
      {s.out !== null && (
        <Note $tone="wait">
          Out of service since {ago(s.out.at)}, by {s.out.by}: {s.out.reason}. It is not read, and nothing of it is
          judged.
        </Note>
      )}
      {may && s.seat !== null && (
        <Row>
          {s.out === null ? (
            <Button onPress={() => setAsking('out')}>Out of service …</Button>
          ) : (
            <Button
              onPress={() =>
                void go(takeIn(s.serial), `${s.serial} is in service again`).then((no) => no && toast.error(no.detail))
              }
            >
              Back into service
            </Button>
          )}
        </Row>
      )}
      <ReasonDialog
        title="Out of service"
        placeholder="Fan tray is swapped"
        yes="Take it out"
        no="Cancel"
        isOpen={asking === 'out'}
        onYes={(reason) => go(takeOut({ serial: s.serial, reason }), `${s.serial} is out of service`)}
        onClose={() => setAsking(null)}
      >
        <p>
          It is not read any more, and what is wrong with it and its links is not shown as wrong, until it is taken
          back. Nothing is sent to it by this; rollouts go on as planned.
        </p>
      </ReasonDialog>
      <ReasonDialog
        title={`Accept ${s.version ?? ''}`}
        placeholder="Tried on a spare one: every line is taken as on 12"
        yes="Accept it"
        no="Cancel"
        isOpen={asking === 'version'}
        onYes={(reason) =>
          go(
            acceptVersion({ serial: s.serial, version: s.version ?? '', reason }),
            `${s.version ?? ''} may be written to`,
          )
        }
        onClose={() => setAsking(null)}
      >
        <p>
          The dialect may write to every switch that runs this version. Look first whether it takes what is written: a
          daemon of another version may read a line otherwise, without a word.
        </p>
      </ReasonDialog>
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
        onYes={(reason) => go(release({ serial: s.serial, reason }), `${s.serial} takes a new apply now`)}
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
        onYes={(reason) => go(forget({ serial: s.serial, reason }), `Nothing waits for ${s.serial} any more`)}
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
          <HandEdit serial={s.serial} />
        </>
      )}
    </>
  );
}
