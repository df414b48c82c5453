import { ChevronsLeft, ChevronsRight, Undo2, X } from 'lucide-react';
import { Link, useLocation, useNavigate } from 'react-router';
import { toast } from 'sonner';
import { styled } from 'styled-components';
import { Button, Cap, Faded, H2, IconButton, Mono, Row } from '../parts/basics.tsx';
import { StateMark } from '../parts/StateMark.tsx';
import { changeMood } from '../parts/moods.ts';
import { clock } from '../parts/times.ts';
import { api, problemOf } from './api.ts';
import { changeLeft, changeOpened, editsPended, marginToggled, useAppDispatch, useAppSelector } from './store.ts';
import { useMay } from './session.ts';
import { token } from './theme.ts';

/** The margin: the open change with its edits, newest last, and what it draws; or how to begin one. */
export function Margin() {
  const dispatch = useAppDispatch();
  const folded = useAppSelector((s) => s.preferences.marginFolded);
  const openChange = useAppSelector((s) => s.work.openChange);
  if (folded)
    return (
      <Strip>
        <IconButton aria-label="Unfold the margin" onPress={() => dispatch(marginToggled())}>
          <ChevronsRight size={16} />
        </IconButton>
      </Strip>
    );
  return (
    <Box aria-label="Open change">
      <Fold>
        <IconButton aria-label="Fold the margin" onPress={() => dispatch(marginToggled())}>
          <ChevronsLeft size={15} />
        </IconButton>
      </Fold>
      {openChange === null ? <NoChange /> : <ChangeNotes id={openChange} />}
    </Box>
  );
}

function NoChange() {
  const { data: changes } = api.useChangesQuery();
  const { pathname } = useLocation();
  const dispatch = useAppDispatch();
  const fabric = /^\/fabrics\/([^/]+)/.exec(pathname)?.[1];
  const may = useMay('designer', fabric);
  const waiting = (changes ?? []).filter((c) => c.state !== 'Live' && c.state !== 'Withdrawn');
  return (
    <>
      <Cap>No change is open</Cap>
      <Faded as="p" style={{ fontSize: 13 }}>
        You are reading.{' '}
        {may ? 'The first edit offers to open a change; or take one up again.' : 'Edits take the role designer.'}
      </Faded>
      {fabric && may && (
        <div>
          <Button $kind="quiet" onPress={() => dispatch(editsPended({ fabric, edits: [] }))}>
            Open a change
          </Button>
        </div>
      )}
      {waiting.length > 0 && <Cap style={{ marginTop: 8 }}>Waiting</Cap>}
      {waiting.slice(0, 12).map((c) => (
        <Pick key={c.id} onClick={() => dispatch(changeOpened(c.id))}>
          <StateMark mood={changeMood[c.state]} size={14} />
          <span>
            {c.title}
            <small>
              {c.fabric} · {c.state.toLowerCase()} · {c.edits} {c.edits === 1 ? 'edit' : 'edits'}
            </small>
          </span>
        </Pick>
      ))}
    </>
  );
}

function ChangeNotes({ id }: { readonly id: string }) {
  const { data: change, error } = api.useChangeQuery(id);
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const [undo] = api.useUndoEditMutation();
  const [prove, { isLoading: proving }] = api.useProveMutation();
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
  const guilty = new Set(change.proof?.findings.flatMap((f) => f.subjects ?? []));
  const editable = may && !['Live', 'Withdrawn', 'Rolling out'].includes(change.state);
  const undoNow = async (position: number): Promise<void> => {
    const result = await undo({ id, version: change.version, position });
    if ('error' in result) toast.error(problemOf(result.error).detail);
  };
  return (
    <>
      <Cap>{change.state === 'Live' || change.state === 'Withdrawn' ? 'This change is closed' : 'Open change'}</Cap>
      <div>
        <Row $align="start">
          <H2 style={{ flex: 1, overflowWrap: 'anywhere' }}>{change.title}</H2>
          <IconButton aria-label="Leave this change (it stays as it is)" onPress={() => dispatch(changeLeft())}>
            <X size={15} />
          </IconButton>
        </Row>
        <Meta>
          {change.ticket && `${change.ticket} · `}
          <Link to={`/fabrics/${change.fabric}`}>{change.fabric}</Link> · on revision {change.baseRevision} · by{' '}
          {change.author}
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
      <Edits>
        {change.steps.map((s, i) => {
          const fails = inConflict.has(i) || subjectsFail(s.edit, guilty);
          return (
            <Edit key={s.position} $fails={fails}>
              <span>
                {s.sentence}
                <small>
                  {clock(s.at)}
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
          <Faded style={{ fontSize: 13 }}>
            No edit yet. Whatever you change on the fabric is noted here and can be undone.
          </Faded>
        )}
      </Edits>
      {change.drawn.length > 0 && (
        <>
          <Cap>Drawn for it</Cap>
          <Drawn>
            <tbody>
              {change.drawn.slice(0, 6).map((e) => (
                <tr key={`${e.key}`}>
                  <td>{e.pool || 'chosen'}</td>
                  <td title={e.key}>
                    <Mono>{e.value}</Mono>
                  </td>
                </tr>
              ))}
            </tbody>
          </Drawn>
          {change.drawn.length > 6 && <Faded style={{ fontSize: 12.5 }}>and {change.drawn.length - 6} more</Faded>}
        </>
      )}
      <Row style={{ marginTop: 'auto', paddingTop: 8 }}>
        {change.state === 'Live' || change.state === 'Withdrawn' ? (
          <Button $kind="quiet" onPress={() => dispatch(changeLeft())}>
            Leave the change
          </Button>
        ) : (
          <Button $kind="main" onPress={() => void navigate(`/changes/${id}`)}>
            {change.state === 'Proven' ? 'Ask approval' : change.state === 'Approved' ? 'Roll out' : 'Open proof'}
          </Button>
        )}
      </Row>
    </>
  );
}

function subjectsFail(edit: { readonly kind: string }, guilty: ReadonlySet<string>): boolean {
  const e = edit as { network?: { name: string }; vrf?: { name: string }; name?: string; snippet?: { name: string } };
  const names = [
    e.network && `network:${e.network.name}`,
    e.vrf && `vrf:${e.vrf.name}`,
    e.snippet && `snippet:${e.snippet.name}`,
    e.name && `network:${e.name}`,
    e.name && `vrf:${e.name}`,
  ];
  return names.some((n) => n !== undefined && n !== '' && guilty.has(n));
}

const Box = styled.aside`
  position: relative;
  width: 252px;
  border-right: 1px solid ${token('rule')};
  padding: 16px 16px 12px 18px;
  display: flex;
  flex-direction: column;
  gap: 11px;
  overflow-y: auto;
`;
const Strip = styled.aside`
  width: 34px;
  border-right: 1px solid ${token('rule')};
  padding: 10px 5px;
`;
const Fold = styled.div`
  position: absolute;
  right: 6px;
  top: 8px;
`;
const Meta = styled.div`
  color: ${token('faded')};
  font-size: 12.5px;
  margin-top: 4px;
  a {
    color: inherit;
  }
`;
const Edits = styled.ol`
  display: flex;
  flex-direction: column;
  gap: 9px;
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
const Pick = styled.button`
  all: unset;
  display: flex;
  gap: 8px;
  cursor: pointer;
  font-size: 13px;
  align-items: start;
  padding: 3px 0;
  small {
    display: block;
    color: ${token('faded')};
  }
  &:hover {
    color: ${token('verdigris')};
  }
  &:focus-visible {
    outline: 2px solid ${token('verdigris')};
  }
`;
