import { changePatchRequest, type ChangeTitles } from '@anthemion/contract';
import { describeEdit } from '@anthemion/core';
import { toast } from 'sonner';
import { Button, Faded, Row } from '../parts/basics.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { Form, useFormPart } from '../parts/Form.tsx';
import { api, notTaken, problemOf } from './api.ts';
import { changeOpened, pendingDropped, useAppDispatch, useAppSelector, type PendingEdits } from './store.ts';
import { TitleFields } from './TitleFields.tsx';

/** The first edit outside a change offers to open one; the edit is made in it. */
export function OpenChangeDialog() {
  const pending = useAppSelector((s) => s.work.pending);
  return pending && <Opening key={pending.fabric} pending={pending} />;
}

function Opening({ pending }: { readonly pending: PendingEdits }) {
  const dispatch = useAppDispatch();
  const [openChange] = api.useOpenChangeMutation();
  const [addEdits] = api.useAddEditsMutation();
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
    dispatch(changeOpened(made.data.id));
    if (pending.edits.length > 0) {
      const done = await addEdits({ id: made.data.id, version: made.data.version, edits: pending.edits });
      if ('error' in done) toast.error(problemOf(done.error).detail);
    }
    dispatch(pendingDropped());
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
