import { STEPS, type RolloutAnswer, type RolloutSwitchAnswer } from '@anthemion/contract';
import { useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { toast } from 'sonner';
import { api, notTaken, problemOf } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { useMay } from '../../app/session.ts';
import { Bad, Button, Failure, Mono, New, Note, Row, Stack, Waiting } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { ReasonDialog } from '../../parts/ReasonDialog.tsx';
import { outcomeMood, rolloutMood } from '../../parts/moods.ts';
import { StateMark, type Mood } from '../../parts/StateMark.tsx';
import { clock, spent } from '../../parts/times.ts';
import { Sum, Waves, Scroller, Foot } from './rolloutStyles.ts';
import { FAILED } from './outcomes.ts';
import { SwitchAside } from './SwitchAside.tsx';

const TITLES: Readonly<Record<RolloutAnswer['state'], string>> = {
  running: 'Rolling out',
  paused: 'Paused',
  stopped: 'Stopped',
  done: 'Rolled out',
  undone: 'Undone',
  closed: 'Closed as it stood',
};

const RUNNING: Readonly<Record<RolloutAnswer['kind'], string>> = {
  send: 'Rolling out',
  undo: 'Going back',
  'catch up': 'Catching up',
  'put back': 'Putting back',
};

/** A rollout, live: waves, every switch's steps, the failing one's own words first. */
export function RolloutPage() {
  const id = useParams()['id']!;
  const query = api.useRolloutQuery(id);
  const [params, setParams] = useSearchParams();
  const [steer, { isLoading }] = api.useSteerMutation();
  const [asking, setAsking] = useState<'undo' | 'close' | null>(null);
  const [closeRollout] = api.useCloseRolloutMutation();
  const navigate = useNavigate();
  const may = useMay('operator', query.data?.fabric);
  if (query.isError)
    return (
      <Page title="Rollout">
        <Failure detail={problemOf(query.error).detail} onRetry={() => void query.refetch()} />
      </Page>
    );
  const r = query.data;
  if (!r)
    return (
      <Page title="Rollout">
        <Waiting />
      </Page>
    );
  const failed = r.switches.filter((s) => FAILED.has(s.outcome));
  const picked =
    r.switches.find((s) => s.host === params.get('at')) ??
    failed[0] ??
    r.switches.find((s) => s.outcome === 'under way') ??
    r.switches[0];
  const count = (outcome: RolloutSwitchAnswer['outcome']): number =>
    r.switches.filter((s) => s.outcome === outcome).length;
  const parts = (
    [
      ['as meant', 'as meant'],
      ['under way', 'under way'],
      ['refused, untouched', 'refused, untouched'],
      ['went back', 'went back'],
      ['unknown', 'unknown'],
      ['waits', 'waiting'],
      ['left out', 'left out'],
    ] as const
  )
    .filter(([o]) => count(o) > 0)
    .map(([o, word]) => `${count(o)} ${word}`);
  const order = (s: RolloutSwitchAnswer): number => (FAILED.has(s.outcome) ? 0 : s.outcome === 'under way' ? 1 : 2);
  const rows = [...r.switches].sort((a, b) => order(a) - order(b) || a.wave - b.wave || (a.host < b.host ? -1 : 1));
  const back = r.switches.filter((s) => s.outcome === 'as meant');
  const go = async (how: 'pause' | 'resume' | 'retry' | 'undo'): Promise<void> => {
    const result = await steer({ id, how });
    if ('error' in result) toast.error(problemOf(result.error).detail);
    else if (how === 'undo' && result.data.id !== id) void navigate(`/rollouts/${result.data.id}`);
  };
  const atRest = r.state === 'stopped' || r.state === 'paused';
  const mayGoOn = atRest && r.overtakenBy === null;
  return (
    <Page
      title={r.state === 'running' ? RUNNING[r.kind] : TITLES[r.state]}
      {...(atRest ? {} : { sub: r.title })}
      crumbs={
        <>
          <Link to="/rollouts">Rollouts</Link> › <Link to={`/changes/${r.change}`}>{r.title}</Link>
        </>
      }
      flush
      actions={
        may && (
          <Row>
            {r.state === 'running' && (
              <Button onPress={() => void go('pause')} isDisabled={isLoading}>
                Pause
              </Button>
            )}
            {mayGoOn && (r.state === 'paused' || count('waits') > 0) && (
              <Button $kind="quiet" onPress={() => void go('resume')} isDisabled={isLoading}>
                Go on
              </Button>
            )}
            {mayGoOn && failed.length > 0 && (
              <Button $kind="main" onPress={() => void go('retry')} isDisabled={isLoading}>
                Retry the failed ({failed.length})
              </Button>
            )}
            {mayGoOn && <Button onPress={() => setAsking('close')}>Close as it stands …</Button>}
            {atRest && r.kind === 'send' && (
              <Button $kind="danger" onPress={() => setAsking('undo')}>
                Undo …
              </Button>
            )}
          </Row>
        )
      }
      asideLabel="Switch"
      aside={picked && <SwitchAside rollout={r} s={picked} />}
    >
      <Sum>
        {parts.join(' · ')} of {r.switches.length}
      </Sum>
      {r.reason && r.overtakenBy === null && <Note $tone={r.state === 'stopped' ? 'bad' : 'plain'}>{r.reason}</Note>}
      {r.overtakenBy !== null && (
        <Note $tone="wait">
          {r.reason}. <Link to={`/rollouts/${r.overtakenBy}`}>See that rollout.</Link>
          {atRest && ' Switches that have this change keep it until it goes on or is undone.'}
        </Note>
      )}
      {r.brokeInto !== null && (
        <Note>
          It broke into <Link to={`/rollouts/${r.brokeInto}`}>a rollout that was not finished</Link>.
        </Note>
      )}
      <Waves aria-label="Waves">
        {r.waves.map((w, i) => {
          const inWave = r.switches.filter((s) => s.wave === i);
          const share = (test: (s: RolloutSwitchAnswer) => boolean): number =>
            (100 * inWave.filter(test).length) / Math.max(1, inWave.length);
          const bad = inWave.some((s) => FAILED.has(s.outcome));
          const all = inWave.every((s) => s.outcome === 'as meant');
          const on = i === r.currentWave && r.state === 'running';
          const mood: Mood = bad ? 'fallen' : all ? 'bloom' : on ? 'dewed' : 'bud';
          return (
            <li key={w.name} className={on ? 'on' : ''} style={{ flexGrow: Math.max(1, Math.sqrt(inWave.length)) }}>
              <h2>
                <StateMark mood={mood} size={16} /> {w.name}
              </h2>
              <p title={w.why}>
                {inWave.length} · {w.why}
              </p>
              <span className="bar" aria-hidden>
                <i className="good" style={{ width: `${share((s) => s.outcome === 'as meant')}%` }} />
                <i className="wait" style={{ width: `${share((s) => s.outcome === 'under way')}%` }} />
                <i className="bad" style={{ width: `${share((s) => FAILED.has(s.outcome))}%` }} />
              </span>
            </li>
          );
        })}
      </Waves>
      <Scroller tabIndex={0} role="region" aria-label="Switches of the rollout">
        <table>
          <thead>
            <tr>
              <th scope="col">Switch</th>
              <th scope="col">Wave</th>
              <th scope="col" title="reach · back up · pre-check · send · check · apply · settle · confirm">
                Reach to confirm, eight steps
              </th>
              <th scope="col">State</th>
              <th scope="col" className="right">
                Time
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((s) => (
              <tr
                key={s.host}
                className={picked?.host === s.host ? 'selected' : ''}
                onClick={() => setParams({ at: s.host }, { replace: true })}
              >
                <th scope="row">
                  <button onClick={() => setParams({ at: s.host }, { replace: true })}>
                    <StateMark mood={outcomeMood[s.outcome]} size={14} label={s.outcome} /> {s.host}
                  </button>
                </th>
                <td>{r.waves[s.wave]?.name}</td>
                <td>
                  <span className="steps" role="img" aria-label={`${s.stepsDone} of ${STEPS.length} steps done`}>
                    {STEPS.map((step, i) => (
                      <i
                        key={step}
                        title={step}
                        className={
                          s.outcome === 'as meant' && s.step === null
                            ? 'good'
                            : i < s.stepsDone
                              ? 'good'
                              : s.step === step
                                ? FAILED.has(s.outcome)
                                  ? 'bad'
                                  : s.outcome === 'under way'
                                    ? 'wait'
                                    : 'good'
                                : ''
                        }
                      />
                    ))}
                  </span>
                </td>
                <td className="say" title={s.message}>
                  {s.outcome === 'waits'
                    ? `waits for ${r.waves[s.wave]?.name ?? ''}`
                    : FAILED.has(s.outcome)
                      ? s.outcome
                      : s.message || s.outcome}
                </td>
                <td className="right">{spent(s.startedAt, s.endedAt)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Scroller>
      <Foot>
        <StateMark mood={rolloutMood[r.state]} />{' '}
        {r.state === 'done'
          ? 'every switch is confirmed'
          : `stop line ${r.stopLine} of a wave · undo timer ${r.undoSeconds} s each · begun ${clock(r.startedAt)} by ${r.author}`}
      </Foot>
      <ReasonDialog
        title="Close it as it stands"
        placeholder="Stands in the log"
        yes="Close it"
        no="Leave it open"
        isOpen={asking === 'close'}
        onYes={async (reason) => notTaken(await closeRollout({ id, reason }))}
        onClose={() => setAsking(null)}
      >
        <p>
          {r.kind === 'send'
            ? `The change goes live as the next revision of ${r.fabric}. ${r.switches.length - back.length} of ${r.switches.length} switches have not got it: they wait, and what they still use stays out of the pools until they have caught up.`
            : 'It ends here; switches it did not reach stay as they are and wait.'}
        </p>
        <Mono>
          {r.switches
            .filter((s) => s.outcome !== 'as meant')
            .map((s) => s.host)
            .join(', ')}
        </Mono>
      </ReasonDialog>
      <Dialog title="Undo this rollout" isOpen={asking === 'undo'} onClose={() => setAsking(null)} width={440}>
        <Stack $gap={12}>
          <p>
            {back.length} {back.length === 1 ? 'switch goes back to what it was' : 'switches go back to what they were'}{' '}
            confirmed with before: <Bad>−{back.reduce((n, s) => n + s.added, 0)}</Bad>{' '}
            <New>+{back.reduce((n, s) => n + s.removed, 0)}</New> lines. The others have nothing to undo.
          </p>
          <Mono>{back.map((s) => s.host).join(', ')}</Mono>
          <Row>
            <Button $kind="danger" onPress={() => (setAsking(null), void go('undo'))}>
              Undo
            </Button>
            <Button onPress={() => setAsking(null)}>Keep as it is</Button>
          </Row>
        </Stack>
      </Dialog>
    </Page>
  );
}
