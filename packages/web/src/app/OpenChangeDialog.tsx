import { changePatchRequest, type ChangeTitles } from '@anthemion/contract';
import { describeEdit } from '@anthemion/core';
import { useEffect, useRef } from 'react';
import { toast } from 'sonner';
import { Button, Faded, Row } from '../parts/basics.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { Form, useFormPart } from '../parts/Form.tsx';
import { api, notTaken, problemOf } from './api.ts';
import { openedForPending, pendingDropped, useAppDispatch, useAppSelector, type PendingEdits } from './store.ts';
import { TitleFields } from './TitleFields.tsx';

/** A change that has gone on since: of one that was just opened, by the edits that were sent before. */
const OVERTAKEN = 412;

/** The first edit outside a change offers to open one; the edit is made in it. */
export function OpenChangeDialog() {
  const pending = useAppSelector((s) => s.work.pending);
  if (pending === null) return null;
  return pending.into ? (
    <Sending key={pending.into.id} pending={pending} into={pending.into} />
  ) : (
    <Opening key={pending.fabric} pending={pending} />
  );
}

/** Makes the edits in the change that was opened for them; also after a reload in the middle, where they may be in it already. */
function Sending({
  pending,
  into,
}: {
  readonly pending: PendingEdits;
  readonly into: { id: string; version: number };
}) {
  const dispatch = useAppDispatch();
  const [addEdits] = api.useAddEditsMutation();
  const begun = useRef(false);
  useEffect(() => {
    if (begun.current) return;
    begun.current = true;
    void (async () => {
      if (pending.edits.length > 0) {
        const done = await addEdits({ ...into, edits: pending.edits });
        const problem = done.error === undefined ? null : problemOf(done.error);
        if (problem !== null && problem.status !== OVERTAKEN) toast.error(problem.detail);
      }
      dispatch(pendingDropped());
    })();
  });
  return null;
}

function Opening({ pending }: { readonly pending: PendingEdits }) {
  const dispatch = useAppDispatch();
  const [openChange] = api.useOpenChangeMutation();
  const part = useFormPart<ChangeTitles>({
    schema: changePatchRequest,
    initial: { title: '', reason: '', ticket: '' },
    keep: `open a change of ${pending.fabric}`,
  });
  const close = (): void => {
    part.forget();
    dispatch(pendingDropped());
  };
  const open = async (titles: ChangeTitles) => {
    const made = await openChange({ fabric: pending.fabric, ...titles });
    if (!made.data) return notTaken(made);
    part.forget();
    dispatch(openedForPending({ id: made.data.id, version: made.data.version }));
    return null;
  };
  return (
    <Dialog title={`Open a change on ${pending.fabric}`} isOpen onClose={close}>
      <Form
        part={part}
        onSend={open}
        buttons={
          <Row>
            <Button type="submit" $kind="main" isDisabled={part.rhf.formState.isSubmitting}>
              Open change
            </Button>
            <Button onPress={close}>Not now</Button>
          </Row>
        }
      >
        <Faded>
          {pending.edits[0]
            ? `Nothing is changed outside a change. It begins with: ${describeEdit(pending.edits[0])}.`
            : 'Nothing is changed outside a change, and nothing reaches a switch outside a rollout.'}
        </Faded>
        <TitleFields />
      </Form>
    </Dialog>
  );
}
