import type { ChangeAnswer } from '@anthemion/contract';
import type { Finding } from '@anthemion/core';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api, problemOf } from '../../app/api.ts';
import { Button, Note, Row, Stack } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { errorAt, Leftovers, leftOver, TextInput, Tick } from '../../parts/fields.tsx';

interface Props {
  readonly change: ChangeAnswer;
  readonly isOpen: boolean;
  readonly onClose: () => void;
}

/** Asks how to send an approved change: stop line, undo timer, and whether it goes before an unfinished rollout. */
export function RollOutDialog({ change, isOpen, onClose }: Props) {
  const [stopLine, setStopLine] = useState('1');
  const [undoSeconds, setUndoSeconds] = useState('60');
  const [breakIn, setBreakIn] = useState(false);
  const [reason, setReason] = useState('');
  const [findings, setFindings] = useState<readonly Finding[]>([]);
  const [detail, setDetail] = useState('');
  const [rollOut, { isLoading }] = api.useRollOutMutation();
  const { data: fabrics } = api.useFabricsQuery();
  const { data: rollouts } = api.useRolloutsQuery();
  const navigate = useNavigate();
  const unfinished = rollouts?.find((r) => r.id === fabrics?.find((f) => f.name === change.fabric)?.unfinished);
  const inTheWay = unfinished && unfinished.change !== change.id ? unfinished : undefined;
  const switches = change.proof?.switches.filter((s) => s.fate !== 'same').length ?? 0;
  const begin = async (): Promise<void> => {
    const result = await rollOut({
      change: change.id,
      version: change.version,
      stopLine: Number(stopLine),
      undoSeconds: Number(undoSeconds),
      breakIn: breakIn && inTheWay !== undefined,
      reason,
    });
    if ('error' in result) {
      const p = problemOf(result.error);
      setFindings(p.findings);
      setDetail(p.findings.length > 0 ? '' : p.detail);
    } else void navigate(`/rollouts/${result.data.id}`);
  };
  return (
    <Dialog title="Roll out" isOpen={isOpen} onClose={onClose} width={460}>
      <Stack $gap={12}>
        <p>
          {switches === 1 ? '1 switch gets its text' : `${switches} switches get their text`}: canary first, then waves
          that never take both leaves of a pair. A switch that is not confirmed in time goes back by itself.
        </p>
        <TextInput
          label="Stop line"
          value={stopLine}
          onChange={setStopLine}
          hint="So many failures in a wave halt the rollout"
          error={errorAt(findings, 'stopLine')}
          code
        />
        <TextInput
          label="Undo timer, s"
          value={undoSeconds}
          onChange={setUndoSeconds}
          hint="Time a switch has to settle and be confirmed"
          error={errorAt(findings, 'undoSeconds')}
          code
        />
        {inTheWay && (
          <>
            <Note $tone="wait">
              <Link to={`/rollouts/${inTheWay.id}`}>The rollout of “{inTheWay.title}”</Link> is {inTheWay.state} and not
              finished; until it is, nothing else of {change.fabric} goes live. What cannot wait can break in: switches
              that have “{inTheWay.title}” already keep it, and that change has to be proved and approved again before
              it goes on.
            </Note>
            <Tick label="Break in" value={breakIn} onChange={setBreakIn} />
            {breakIn && (
              <TextInput
                label="Reason"
                value={reason}
                onChange={setReason}
                placeholder="What cannot wait; stands in both logs"
                error={errorAt(findings, 'reason')}
              />
            )}
          </>
        )}
        {detail && <Note $tone="bad">{detail}</Note>}
        <Leftovers findings={leftOver(findings, 'stopLine', 'undoSeconds', 'reason')} />
        <Row>
          <Button
            $kind="main"
            onPress={() => void begin()}
            isDisabled={isLoading || (inTheWay !== undefined && !breakIn)}
          >
            Begin now
          </Button>
          <Button onPress={onClose}>Not now</Button>
        </Row>
      </Stack>
    </Dialog>
  );
}
