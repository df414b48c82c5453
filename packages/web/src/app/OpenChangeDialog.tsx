import { describeEdit } from '@anthemion/core';
import type { Finding } from '@anthemion/core';
import { useState } from 'react';
import { toast } from 'sonner';
import { Button, Faded, Row, Stack } from '../parts/basics.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { errorAt, TextInput } from '../parts/fields.tsx';
import { api, problemOf } from './api.ts';
import { changeOpened, pendingDropped, useAppDispatch, useAppSelector } from './store.ts';

/** The first edit outside a change offers to open one; the edit is made in it. */
export function OpenChangeDialog() {
  const pending = useAppSelector((s) => s.work.pending);
  const dispatch = useAppDispatch();
  const [title, setTitle] = useState('');
  const [reason, setReason] = useState('');
  const [ticket, setTicket] = useState('');
  const [findings, setFindings] = useState<readonly Finding[]>([]);
  const [openChange, { isLoading }] = api.useOpenChangeMutation();
  const [addEdits] = api.useAddEditsMutation();
  if (!pending) return null;
  const close = (): void => {
    setTitle('');
    setReason('');
    setTicket('');
    setFindings([]);
    dispatch(pendingDropped());
  };
  const open = async (): Promise<void> => {
    const made = await openChange({ fabric: pending.fabric, title, reason, ticket });
    if ('error' in made) {
      const p = problemOf(made.error);
      setFindings(p.findings);
      if (p.findings.length === 0) toast.error(p.detail);
      return;
    }
    dispatch(changeOpened(made.data.id));
    if (pending.edits.length > 0) {
      const done = await addEdits({ id: made.data.id, version: made.data.version, edits: pending.edits });
      if ('error' in done) toast.error(problemOf(done.error).detail);
    }
    close();
  };
  return (
    <Dialog title={`Open a change on ${pending.fabric}`} isOpen onClose={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void open();
        }}
      >
        <Stack $gap={12}>
          <Faded>
            {pending.edits[0]
              ? `Nothing is changed outside a change. It begins with: ${describeEdit(pending.edits[0])}.`
              : 'Nothing is changed outside a change, and nothing reaches a switch outside a rollout.'}
          </Faded>
          <TextInput
            label="Title"
            value={title}
            onChange={setTitle}
            error={errorAt(findings, 'title')}
            placeholder="Echo store in the Lamp hall"
            autoFocus
            isRequired
          />
          <TextInput
            label="Reason"
            value={reason}
            onChange={setReason}
            error={errorAt(findings, 'reason')}
            placeholder="Why it is done; stands in the history"
          />
          <TextInput
            label="Ticket"
            value={ticket}
            onChange={setTicket}
            error={errorAt(findings, 'ticket')}
            placeholder="FCO-218"
          />
          <Row>
            <Button type="submit" $kind="main" isDisabled={isLoading}>
              Open change
            </Button>
            <Button onPress={close}>Not now</Button>
          </Row>
        </Stack>
      </form>
    </Dialog>
  );
}
