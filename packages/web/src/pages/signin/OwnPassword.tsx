import { passwordRequest, type PasswordRequest } from '@anthemion/contract';
import { toast } from 'sonner';
import { ref, string, type AnyObject, type ObjectSchema } from 'yup';
import { accessApi } from '../../app/accessApi.ts';
import { notTaken } from '../../app/api.ts';
import { Form, FormButtons, TextField, useFormPart } from '../../parts/Form.tsx';

const SCHEMA = (passwordRequest as ObjectSchema<AnyObject>).shape({
  again: string().oneOf([ref('password')], 'The two differ.'),
});

/** Sets one's own password; the present one is asked again. */
export function OwnPassword({ onDone, given = false }: { readonly onDone?: () => void; readonly given?: boolean }) {
  const [change] = accessApi.useChangePasswordMutation();
  const part = useFormPart<PasswordRequest & { readonly again: string }>({
    schema: SCHEMA,
    initial: { current: '', password: '', again: '' },
  });
  const [password, again] = part.rhf.watch(['password', 'again']);
  return (
    <Form
      part={part}
      onSend={async ({ current, password: next }) => {
        const no = notTaken(await change({ current, password: next }));
        if (no === null) {
          toast.success('The new password counts from now on');
          part.rhf.reset();
          onDone?.();
        }
        return no;
      }}
      buttons={<FormButtons yes="Set it" isDisabled={password === '' || again !== password} />}
    >
      <TextField
        name="current"
        label={given ? 'The password you were given' : 'Present password'}
        type="password"
        autoFocus={given}
      />
      <TextField
        name="password"
        label="New password"
        type="password"
        hint="15 characters or more: a few words that do not belong together"
      />
      <TextField name="again" label="New password again" type="password" />
    </Form>
  );
}
