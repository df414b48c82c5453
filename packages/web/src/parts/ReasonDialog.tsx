import { reasonRequest } from '@anthemion/contract';
import type { ReactNode } from 'react';
import { Dialog } from './Dialog.tsx';
import { Form, FormButtons, TextField, useFormPart, type NotTaken } from './Form.tsx';

interface Props {
  /** What it means. */
  readonly children: ReactNode;
  readonly placeholder: string;
  readonly yes: string;
  readonly no: string;
  /** Does it; null = it was taken, and the dialog closes. */
  readonly onYes: (reason: string) => Promise<NotTaken | null>;
  readonly onClose: () => void;
}

/** A decision that takes a reason: what it means, the reason, yes or no. */
export function ReasonDialog({ title, isOpen, ...form }: Props & { readonly title: string; readonly isOpen: boolean }) {
  return (
    <Dialog title={title} isOpen={isOpen} onClose={form.onClose} width={460}>
      <ReasonForm {...form} />
    </Dialog>
  );
}

function ReasonForm({ children, placeholder, yes, no, onYes, onClose }: Props) {
  const part = useFormPart<{ readonly reason: string }>({ schema: reasonRequest, initial: { reason: '' } });
  return (
    <Form
      part={part}
      onSend={async ({ reason }) => {
        const not = await onYes(reason);
        if (not === null) onClose();
        return not;
      }}
      buttons={<FormButtons yes={yes} kind="danger" no={no} onNo={onClose} />}
    >
      {children}
      <TextField name="reason" label="Reason" placeholder={placeholder} />
    </Form>
  );
}
