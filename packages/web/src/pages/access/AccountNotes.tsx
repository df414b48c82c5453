import { accountPatch, type AccountAnswer, type AccountPatch } from '@anthemion/contract';
import { useState } from 'react';
import { toast } from 'sonner';
import { accessApi } from '../../app/accessApi.ts';
import { notTaken } from '../../app/api.ts';
import { useSave } from '../../app/useSave.ts';
import { Button, Cap, Facts, H3, Note, Row } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Form, FormButtons, TextField, TickField, useFormPart, type NotTaken } from '../../parts/Form.tsx';
import { dated } from '../../parts/times.ts';
import { RolesField } from './RolesField.tsx';

/** One account: its roles, whether it counts, a new password, its end. */
export function AccountNotes({
  u,
  onGiven,
  onGone,
}: {
  readonly u: AccountAnswer;
  readonly onGiven: (to: { name: string; password: string }) => void;
  readonly onGone: () => void;
}) {
  const { name, fullName, roles, bound, admin, disabled } = u;
  const part = useFormPart<AccountPatch>({
    schema: accountPatch,
    initial: { fullName, roles, bound, admin, disabled },
  });
  const [asking, setAsking] = useState<'reset' | 'delete' | null>(null);
  const [patch] = accessApi.usePatchUserMutation();
  const [reset] = accessApi.useResetUserMutation();
  const [remove] = accessApi.useDeleteUserMutation();
  const { save } = useSave();
  const put = async (values: AccountPatch, said: string): Promise<NotTaken | null> => {
    const no = notTaken(await patch({ name, ...values }));
    if (no === null) {
      toast.success(said);
      part.rhf.reset(values);
    }
    return no;
  };
  const doAsked = async (): Promise<void> => {
    if (asking === 'reset') {
      const made = await save(reset(name), '');
      if (made) onGiven(made.data);
    } else if (await save(remove(name), `${name} is deleted`)) onGone();
    setAsking(null);
  };
  return (
    <>
      <Cap>Account</Cap>
      <H3>{name}</H3>
      {disabled && <Note $tone="wait">It is disabled: nobody can sign in with it, and its tokens do not count.</Note>}
      {u.mustChange && !disabled && <Note $tone="wait">Its password was given out and has not been changed yet.</Note>}
      <Facts>
        <dt>Made</dt>
        <dd>{u.madeAt === '' ? 'long ago' : dated(u.madeAt)}</dd>
        <dt>Password of</dt>
        <dd>{u.passwordAt === '' ? 'long ago' : dated(u.passwordAt)}</dd>
      </Facts>
      <Form
        part={part}
        onSend={(values) => put(values, 'It counts from now on')}
        buttons={
          <FormButtons yes="Change" isDisabled={!part.rhf.formState.isDirty}>
            <Button
              onPress={() =>
                void part.submit((values) =>
                  put(
                    { ...values, disabled: !disabled },
                    disabled ? `${name} can sign in again` : `${name} is disabled and signed out`,
                  ),
                )
              }
            >
              {disabled ? 'Enable' : 'Disable'}
            </Button>
          </FormButtons>
        }
      >
        <TextField name="fullName" label="Full name" />
        <RolesField />
        <TickField name="admin" label="Keeps accounts and settings" hint="Can give any role to anybody" />
      </Form>
      <Row $wrap>
        <Button onPress={() => setAsking('reset')}>New password …</Button>
        <Button $kind="danger" onPress={() => setAsking('delete')}>
          Delete …
        </Button>
      </Row>
      <Dialog
        title={asking === 'delete' ? `Delete ${name}` : `A new password for ${name}`}
        isOpen={asking !== null}
        onClose={() => setAsking(null)}
      >
        <p>
          {asking === 'delete'
            ? 'Its sessions and tokens end. What it did stays in the history and in the audit log under this name.'
            : 'The present password stops counting, and every session of it ends. You are shown a new one to hand over.'}
        </p>
        <Row style={{ marginTop: 14 }}>
          <Button $kind={asking === 'delete' ? 'danger' : 'main'} onPress={() => void doAsked()}>
            {asking === 'delete' ? 'Delete it' : 'Give a new password'}
          </Button>
          <Button onPress={() => setAsking(null)}>Cancel</Button>
        </Row>
      </Dialog>
    </>
  );
}
