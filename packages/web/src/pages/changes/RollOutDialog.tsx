import { rolloutRequest, type ChangeAnswer, type RolloutRequest } from '@anthemion/contract';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api, asksTogether, notTaken } from '../../app/api.ts';
import { Button, Note, Row } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Form, NumberField, TextField, TickField, useFormPart } from '../../parts/Form.tsx';

interface Props {
  readonly change: ChangeAnswer;
  readonly isOpen: boolean;
  readonly onClose: () => void;
}

/** Asks how to send an approved change: stop line, undo timer, and whether it goes before an unfinished rollout. */
export function RollOutDialog({ change, isOpen, onClose }: Props) {
  return (
    <Dialog title="Roll out" isOpen={isOpen} onClose={onClose} width={460}>
      {isOpen && <RollOutForm change={change} onClose={onClose} />}
    </Dialog>
  );
}

function RollOutForm({ change, onClose }: Omit<Props, 'isOpen'>) {
  const [rollOut] = api.useRollOutMutation();
  const { data: fabrics } = api.useFabricsQuery();
  const { data: rollouts } = api.useRolloutsQuery();
  const navigate = useNavigate();
  const part = useFormPart<RolloutRequest>({
    schema: rolloutRequest,
    initial: { change: change.id, stopLine: 1, undoSeconds: 60, together: false, breakIn: false, reason: '' },
  });
  const breakIn = part.rhf.watch('breakIn');
  const unfinished = rollouts?.find((r) => r.id === fabrics?.find((f) => f.name === change.fabric)?.unfinished);
  const inTheWay = unfinished && unfinished.change !== change.id ? unfinished : undefined;
  const bothEnds = change.proof?.findings.find((f) => /^both-ends-(together|carried)$/.test(f.rule));
  const standsStill = bothEnds?.rule === 'both-ends-together';
  const startsAnew = change.proof?.findings.filter((f) => /^(routing|sessions)-start/.test(f.rule)) ?? [];
  const [refused, setRefused] = useState(false);
  const mustAgree = standsStill || refused;
  const switches = change.proof?.switches.filter((s) => s.fate !== 'same').length ?? 0;
  return (
    <Form
      part={part}
      onSend={async (values) => {
        const result = await rollOut({
          ...values,
          version: change.version,
          breakIn: values.breakIn && inTheWay !== undefined,
        });
        if (result.data) void navigate(`/rollouts/${result.data.id}`);
        // Not all is up, so nobody carries the fabric meanwhile: the field shows, with why.
        setRefused(refused || asksTogether(result));
        return notTaken(result);
      }}
      buttons={
        <Row>
          <Button
            type="submit"
            $kind="main"
            isDisabled={
              part.rhf.formState.isSubmitting ||
              (inTheWay !== undefined && !breakIn) ||
              (mustAgree && !part.rhf.watch('together'))
            }
          >
            Begin now
          </Button>
          <Button onPress={onClose}>Not now</Button>
        </Row>
      }
    >
      <p>
        {switches === 1 ? '1 switch gets its text' : `${switches} switches get their text`}:{' '}
        {bothEnds ? 'those that go together first, then a canary and' : 'canary first, then'} waves that never take both
        halves of a pair. A switch that is not confirmed in time goes back by itself.
      </p>
      {bothEnds && (
        <Note {...(standsStill ? { $tone: 'wait' } : {})}>
          {bothEnds.message} They are loaded at once and confirmed only when all have settled; else all go back.
        </Note>
      )}
      {startsAnew.map((f) => (
        <Note key={f.message} $tone="wait">
          {f.message} {f.cure}
        </Note>
      ))}
      {mustAgree && (
        <TickField
          name="together"
          label="Send them together"
          hint="Sessions between them are down while they load: the fabric may stand still for that long"
        />
      )}
      <NumberField name="stopLine" label="Stop line" hint="So many failures in a wave halt the rollout" />
      <NumberField name="undoSeconds" label="Undo timer, s" hint="Time a switch has to settle and be confirmed" />
      {inTheWay && (
        <>
          <Note $tone="wait">
            <Link to={`/rollouts/${inTheWay.id}`}>The rollout of “{inTheWay.title}”</Link> is {inTheWay.state} and not
            finished; until it is, nothing else of {change.fabric} goes live. What cannot wait can break in: switches
            that have “{inTheWay.title}” already keep it, and that change has to be proved and approved again before it
            goes on.
          </Note>
          <TickField name="breakIn" label="Break in" />
          {breakIn && <TextField name="reason" label="Reason" placeholder="What cannot wait; stands in both logs" />}
        </>
      )}
    </Form>
  );
}
