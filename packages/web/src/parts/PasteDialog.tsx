import type { Edit, PastedEdits } from '@anthemion/core';
import { useState } from 'react';
import { styled } from 'styled-components';
import { Button, Faded, Note, Row, Stack } from './basics.tsx';
import { Dialog } from './Dialog.tsx';
import type { NotTaken } from './Form.tsx';
import { Leftovers } from './fields.tsx';
import { StateMark } from './StateMark.tsx';
import { token } from './theme.ts';

/** So many lines are drawn; the others are counted, and those that are not sound come first. */
const MOST_DRAWN = 200;

/** What was pasted into a table, line by line, before any of it is made: every line or none. */
export function PasteDialog({
  pasted,
  onMake,
  onClose,
}: {
  readonly pasted: PastedEdits | null;
  readonly onMake: (edits: readonly Edit[]) => Promise<NotTaken | null>;
  readonly onClose: () => void;
}) {
  return (
    <Dialog title="Pasted lines" isOpen={pasted !== null} onClose={onClose} width={620}>
      {pasted && <Lines pasted={pasted} onMake={onMake} onClose={onClose} />}
    </Dialog>
  );
}

function Lines({
  pasted: { lines, unknown },
  onMake,
  onClose,
}: {
  readonly pasted: PastedEdits;
  readonly onMake: (edits: readonly Edit[]) => Promise<NotTaken | null>;
  readonly onClose: () => void;
}) {
  const [not, setNot] = useState<NotTaken | null>(null);
  const [busy, setBusy] = useState(false);
  const edits = lines.flatMap((l) => l.edits);
  const bad = lines.filter((l) => l.findings.length > 0);
  const ordered = [...bad, ...lines.filter((l) => l.findings.length === 0)];
  const make = async (): Promise<void> => {
    setBusy(true);
    const no = await onMake(edits);
    setBusy(false);
    setNot(no);
    if (no === null) onClose();
  };
  return (
    <Stack $gap={12}>
      {bad.length > 0 && (
        <Note $tone="bad">
          {bad.length === 1 ? 'One line is' : `${bad.length} lines are`} not sound. Mend{' '}
          {bad.length === 1 ? 'it' : 'them'} where you copied, and paste again; nothing is made before.
        </Note>
      )}
      {unknown.length > 0 && (
        <Note $tone="wait">Left aside, as no such column is known here: {unknown.join(', ')}.</Note>
      )}
      <List aria-label="Pasted lines" tabIndex={0}>
        {ordered.slice(0, MOST_DRAWN).map((l) => (
          <li key={l.line}>
            <StateMark mood={l.findings.length > 0 ? 'fallen' : l.edits.length > 0 ? 'dewed' : 'bloom'} size={12} />
            <Faded>{l.line}</Faded>
            <span>
              {l.sentence}
              {l.findings.map((f) => (
                <b key={f.message}>
                  {f.message} {f.cure}
                </b>
              ))}
            </span>
          </li>
        ))}
      </List>
      {lines.length > MOST_DRAWN && <Faded>And {lines.length - MOST_DRAWN} more lines.</Faded>}
      {not && <Leftovers findings={not.findings} detail={not.detail} />}
      <Row>
        <Button $kind="main" isDisabled={busy || bad.length > 0 || edits.length === 0} onPress={() => void make()}>
          Make {edits.length === 1 ? 'the edit' : `${edits.length} edits`}
        </Button>
        <Button onPress={onClose}>Cancel</Button>
      </Row>
    </Stack>
  );
}
const List = styled.ul`
  max-height: 46vh;
  overflow: auto;
  font-size: 13px;
  border: 1px solid ${token('rule-soft')};
  li {
    display: grid;
    grid-template-columns: 14px 26px 1fr;
    gap: 6px;
    padding: 4px 8px;
    align-items: baseline;
  }
  li + li {
    border-top: 1px solid ${token('rule-soft')};
  }
  b {
    display: block;
    color: ${token('madder')};
    font-weight: 500;
  }
`;
