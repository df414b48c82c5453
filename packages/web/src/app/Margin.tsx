import { ChevronsLeft, ChevronsRight } from 'lucide-react';
import { Link, useLocation } from 'react-router';
import { styled } from 'styled-components';
import { Button, Cap, Faded, H2, IconButton, Row } from '../parts/basics.tsx';
import { StateMark } from '../parts/StateMark.tsx';
import { changeMood } from '../parts/moods.ts';
import { token } from '../parts/theme.ts';
import { api } from './api.ts';
import { ChangeNotes } from './ChangeNotes.tsx';
import { OthersHere } from './OthersHere.tsx';
import { changeLeft, changeOpened, editsPended, marginToggled, useAppDispatch, useAppSelector } from './store.ts';
import { useMay } from './session.ts';
import { fabricOfPath } from './usePresence.ts';

/** The margin: the open change with its edits, newest last, and what it draws; or how to begin one. */
export function Margin() {
  const dispatch = useAppDispatch();
  const folded = useAppSelector((s) => s.preferences.marginFolded);
  const openChange = useAppSelector((s) => s.work.openChange);
  const fabric = fabricOfPath(useLocation().pathname);
  const { currentData: opened } = api.useChangeQuery(openChange ?? '', { skip: openChange === null });
  if (folded)
    return (
      <Strip>
        <IconButton aria-label="Unfold the margin" onPress={() => dispatch(marginToggled())}>
          <ChevronsRight size={16} />
        </IconButton>
      </Strip>
    );
  const elsewhere = fabric !== null && opened !== undefined && opened.fabric !== fabric;
  return (
    <Box aria-label="Open change">
      <Fold>
        <IconButton aria-label="Fold the margin" onPress={() => dispatch(marginToggled())}>
          <ChevronsLeft size={15} />
        </IconButton>
      </Fold>
      {openChange === null ? (
        <NoChange fabric={fabric} />
      ) : elsewhere ? (
        <Elsewhere id={openChange} title={opened.title} of={opened.fabric} here={fabric} />
      ) : (
        <ChangeNotes id={openChange} />
      )}
    </Box>
  );
}

/** The open change is about another fabric than the page: it is named, and kept out of the way. */
function Elsewhere({
  id,
  title,
  of,
  here,
}: {
  readonly id: string;
  readonly title: string;
  readonly of: string;
  readonly here: string;
}) {
  const dispatch = useAppDispatch();
  const may = useMay('designer', here);
  return (
    <>
      <Cap>The open change is about {of}</Cap>
      <H2>{title}</H2>
      <Faded as="p" style={{ fontSize: 13 }}>
        You look at {here}, as it is live. An edit here goes into a change of {here}.
      </Faded>
      <Row $wrap>
        <Link to={`/changes/${id}`}>To the change</Link>
        <Link to={`/fabrics/${of}`}>To {of}</Link>
      </Row>
      {may && (
        <div>
          <Button $kind="quiet" onPress={() => dispatch(editsPended({ fabric: here, edits: [] }))}>
            Open a change of {here}
          </Button>
        </div>
      )}
      <div>
        <Button onPress={() => dispatch(changeLeft())}>Leave it (it stays as it is)</Button>
      </div>
    </>
  );
}

function NoChange({ fabric }: { readonly fabric: string | null }) {
  const { data: changes } = api.useChangesQuery();
  const dispatch = useAppDispatch();
  const may = useMay('designer', fabric);
  const waiting = (changes ?? []).filter(
    (c) => c.state !== 'Live' && c.state !== 'Withdrawn' && (fabric === null || c.fabric === fabric),
  );
  return (
    <>
      <Cap>No change is open</Cap>
      <Faded as="p" style={{ fontSize: 13 }}>
        You are reading.{' '}
        {may ? 'The first edit offers to open a change; or take one up again.' : 'Edits take the role designer.'}
      </Faded>
      {fabric !== null && may && (
        <div>
          <Button $kind="quiet" onPress={() => dispatch(editsPended({ fabric, edits: [] }))}>
            Open a change
          </Button>
        </div>
      )}
      {fabric !== null && <OthersHere fabric={fabric} change={null} />}
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

const Box = styled.aside`
  position: relative;
  width: 252px;
  border-right: 1px solid ${token('rule')};
  padding: 16px 16px 12px 18px;
  display: flex;
  flex-direction: column;
  gap: 11px;
  min-height: 0;
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
