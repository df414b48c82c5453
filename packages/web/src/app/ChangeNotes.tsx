import { subjectsOf } from '@anthemion/core';
import type { ChangeAnswer } from '@anthemion/contract';
import { Pencil, Undo2, X } from 'lucide-react';
import { lazy, Suspense, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { toast } from 'sonner';
import { styled } from 'styled-components';
import { Button, Cap, Faded, H2, IconButton, Mono, Row } from '../parts/basics.tsx';
import { StateMark } from '../parts/StateMark.tsx';
import { changeMood } from '../parts/moods.ts';
import { token } from '../parts/theme.ts';
import { ago, clock } from '../parts/times.ts';
import { api, problemOf } from './api.ts';
import { OthersHere } from './OthersHere.tsx';
import { changeLeft, useAppDispatch } from './store.ts';
import { useMay } from './session.ts';
import { watchApi } from './watchApi.ts';

const TitlesDialog = lazy(() => import('./TitlesDialog.tsx').then((m) => ({ default: m.TitlesDialog })));

const CLOSED: readonly ChangeAnswer['state'][] = ['Live', 'Withdrawn'];

/** The open change: what it is called, how it stands, its edits, what it draws, and the one thing to do next. */
export function ChangeNotes({ id }: { readonly id: string }) {
  const { currentData: change, error } = api.useChangeQuery(id);
  const dispatch = useAppDispatch();
  const [undo] = api.useUndoEditMutation();
  const [prove, { isLoading: proving }] = api.useProveMutation();
  const [titling, setTitling] = useState(false);
  const may = useMay('designer', change?.fabric);
  if (error)
    return (
      <>
        <Faded>{problemOf(error).detail}</Faded>
        <Button onPress={() => dispatch(changeLeft())}>Leave it</Button>
      </>
    );
  if (!change) return null;
  const inConflict = new Set(change.conflicts.map((c) => c.edit));
  const guilty = new Set(change.proof?.findings.flatMap((f) => (f.severity === 'note' ? [] : (f.subjects ?? []))));
  const editable = may && !CLOSED.includes(change.state) && change.state !== 'Rolling out';
  const undoNow = async (position: number): Promise<void> => {
    const result = await undo({ id, version: change.version, position });
    if ('error' in result) toast.error(problemOf(result.error).detail);
  };
  const last = change.steps.at(-1);
  return (
    <>
      <Cap>{CLOSED.includes(change.state) ? 'This change is closed' : 'Open change'}</Cap>
      <div>
        <Row $align="start" $gap={2}>
          <H2 style={{ flex: 1, overflowWrap: 'anywhere' }}>{change.title}</H2>
          {editable && (
            <IconButton aria-label="Change title, reason and ticket" onPress={() => setTitling(true)}>
              <Pencil size={14} />
            </IconButton>
          )}
          <IconButton aria-label="Leave this change (it stays as it is)" onPress={() => dispatch(changeLeft())}>
            <X size={15} />
          </IconButton>
        </Row>
        <Meta>
          {change.ticket && `${change.ticket} · `}
          <Link to={`/fabrics/${change.fabric}`}>{change.fabric}</Link> · on revision {change.baseRevision} · by{' '}
          {change.author}
          {last && last.author !== change.author && `, last touched by ${last.author} ${ago(last.at)}`}
        </Meta>
      </div>
      <Row $gap={6}>
        <StateMark mood={changeMood[change.state]} size={16} /> <b>{change.state}</b>
        {change.state === 'Stale' && editable && (
          <Button $kind="quiet" style={{ marginLeft: 'auto' }} onPress={() => void prove(id)} isDisabled={proving}>
            Prove again
          </Button>
        )}
      </Row>
      <OthersHere fabric={change.fabric} change={id} />
      <Clashes id={id} fabric={change.fabric} closed={CLOSED.includes(change.state)} />
      <Edits tabIndex={0} aria-label="Edits of the change">
        {change.steps.map((s, i) => {
          const fails = inConflict.has(i) || subjectsOf(s.edit).some((about) => guilty.has(about));
          return (
            <Edit key={s.position} $fails={fails}>
              <span>
                {s.sentence}
                <small>
                  {clock(s.at)}
                  {s.author !== change.author && ` · ${s.author}`}
                  {inConflict.has(i)
                    ? ' · overtaken by a newer revision'
                    : fails
                      ? ' · the proof has something to say'
                      : ''}
                </small>
              </span>
              {editable && (
                <IconButton aria-label={`Undo: ${s.sentence}`} onPress={() => void undoNow(s.position)}>
                  <Undo2 size={13} />
                </IconButton>
              )}
            </Edit>
          );
        })}
        {change.steps.length === 0 && (
          <Faded as="li" style={{ fontSize: 13 }}>
            No edit yet. Whatever you change on the fabric is noted here and can be undone.
          </Faded>
        )}
        {change.drawn.length > 0 && (
          <li>
            <Cap>Drawn for it</Cap>
            <Drawn>
              <tbody>
                {change.drawn.slice(0, 6).map((e) => (
                  <tr key={e.key}>
                    <td>{e.pool || 'chosen'}</td>
                    <td title={e.key}>
                      <Mono>{e.value}</Mono>
                    </td>
                  </tr>
                ))}
              </tbody>
            </Drawn>
            {change.drawn.length > 6 && <Faded style={{ fontSize: 12.5 }}>and {change.drawn.length - 6} more</Faded>}
          </li>
        )}
      </Edits>
      <Next change={change} may={may} />
      {titling && (
        <Suspense fallback={null}>
          <TitlesDialog change={change} onClose={() => setTitling(false)} />
        </Suspense>
      )}
    </>
  );
}

/** The one thing to do next; it stays in view however many edits there are. */
function Next({ change, may }: { readonly change: ChangeAnswer; readonly may: boolean }) {
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const [ask, { isLoading }] = api.useAskApprovalMutation();
  const mayRoll = useMay('operator', change.fabric);
  const go = (to: string): void => void navigate(to);
  const askNow = async (): Promise<void> => {
    const result = await ask({ id: change.id, version: change.version });
    if ('error' in result) toast.error(problemOf(result.error).detail);
    else toast.success('Those who may approve find it under what waits for them');
  };
  return (
    <Row $wrap style={{ paddingTop: 8 }}>
      {CLOSED.includes(change.state) ? (
        <Button $kind="quiet" onPress={() => dispatch(changeLeft())}>
          Leave the change
        </Button>
      ) : change.state === 'Proven' && may ? (
        <>
          {change.asked === null ? (
            <Button $kind="main" isDisabled={isLoading} onPress={() => void askNow()}>
              Ask approval
            </Button>
          ) : (
            <Faded style={{ fontSize: 13 }}>
              {change.asked.by} asks for a yes since {clock(change.asked.at)}
            </Faded>
          )}
          <Button onPress={() => go(`/changes/${change.id}`)}>Open proof</Button>
        </>
      ) : (
        <Button $kind="main" onPress={() => go(`/changes/${change.id}`)}>
          {change.state === 'Approved' && mayRoll ? 'Roll out' : 'Open proof'}
        </Button>
      )}
    </Row>
  );
}

/** Another open change wants the same: told while both are open. */
function Clashes({ id, fabric, closed }: { readonly id: string; readonly fabric: string; readonly closed: boolean }) {
  const { currentData = [] } = watchApi.useClashesQuery({ id, fabric }, { skip: closed });
  if (currentData.length === 0) return null;
  return (
    <Clash aria-label="Would conflict">
      {currentData.map((c) => (
        <li key={c.change} title={c.edits.map((e) => `${e.sentence}: ${e.why}`).join('\n')}>
          Would conflict with <Link to={`/changes/${c.change}`}>{c.title}</Link> of {c.author}: {c.edits[0]!.sentence}
          {c.edits.length > 1 && ` and ${c.edits.length - 1} more`}
        </li>
      ))}
    </Clash>
  );
}

const Meta = styled.div`
  color: ${token('faded')};
  font-size: 12.5px;
  margin-top: 4px;
  a {
    color: inherit;
  }
`;
const Clash = styled.ul`
  border-left: 2px solid ${token('ochre')};
  padding-left: 8px;
  font-size: 12.5px;
  color: ${token('ochre')};
  a {
    color: inherit;
  }
`;
const Edits = styled.ol`
  display: flex;
  flex-direction: column;
  gap: 9px;
  flex: 1;
  min-height: 90px;
  overflow-y: auto;
`;
const Edit = styled.li<{ $fails: boolean }>`
  border-left: 2px solid ${(p) => (p.$fails ? token('madder') : token('lapis'))};
  padding: 1px 0 1px 10px;
  font-size: 13px;
  display: flex;
  justify-content: space-between;
  align-items: start;
  gap: 4px;
  overflow-wrap: anywhere;
  flex: none;
  small {
    color: ${token('faded')};
    display: block;
    font-size: 11.5px;
  }
`;
const Drawn = styled.table`
  width: 100%;
  border-collapse: collapse;
  font-size: 12.5px;
  td {
    padding: 3px 0;
    border-top: 1px solid ${token('rule-soft')};
  }
  td:last-child {
    text-align: right;
  }
`;
