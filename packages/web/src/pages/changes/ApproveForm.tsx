import { approvalRequest } from '@anthemion/contract';
import { api, notTaken } from '../../app/api.ts';
import { Form, FormButtons, TextField, useFormPart } from '../../parts/Form.tsx';

/** A yes to a change at the version that is on the screen, with a note. */
export function ApproveForm({ id, version }: { readonly id: string; readonly version: number }) {
  const [approve] = api.useApproveMutation();
  const part = useFormPart<{ readonly note: string }>({
    schema: approvalRequest,
    initial: { note: '' },
    keep: `approval of ${id}`,
  });
  return (
    <Form
      part={part}
      onSend={async ({ note }) => notTaken(await approve({ id, version, note }))}
      buttons={<FormButtons yes="Approve" />}
    >
      <TextField name="note" label="Note with the approval" placeholder="optional" />
    </Form>
  );
}
