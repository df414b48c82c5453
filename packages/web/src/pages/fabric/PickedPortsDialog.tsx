import { plural, type Edit, type ServerPort } from '@anthemion/core';
import type { ReactNode } from 'react';
import type { FieldValues } from 'react-hook-form';
import type { AnySchema } from 'yup';
import { useEdits } from '../../app/useEdits.ts';
import { Faded, Stack } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Form, FormButtons, useFormPart } from '../../parts/Form.tsx';

/** What stands in a field for what each port has. */
export const AS_IT_IS = '';
const OF_A_PORT = /^\/edits\/\d+\/port/;

/** Ports that were picked in their table, and what becomes of the dialog about them. */
export interface PickedPorts {
  readonly fabric: string;
  readonly picked: readonly ServerPort[];
  readonly onDone: () => void;
  readonly onClose: () => void;
}
interface Props<T> extends PickedPorts {
  /** What of them it is about: `Networks`. */
  readonly of: string;
  readonly note: string;
  /** What its button says, of so many ports. */
  readonly yes: (ports: string) => string;
  readonly schema: AnySchema;
  readonly initial: T;
  /** What is sent; those that are so already are left. */
  readonly edits: (picked: readonly ServerPort[], typed: T) => readonly Edit[];
  /** Said where all of them are so already. */
  readonly already: string;
  readonly children: ReactNode;
}

/** A form about many ports together. */
export function PickedPortsDialog<T extends FieldValues>(props: Props<T>) {
  const { fabric, picked, onDone, onClose, of, note, yes, schema, initial, edits, already, children } = props;
  const makeEdits = useEdits(fabric);
  const part = useFormPart<T>({ schema, initial });
  const ports = plural(picked.length, 'port');
  return (
    <Dialog title={`${of} of ${ports}`} isOpen onClose={onClose}>
      <Stack $gap={12}>
        <Faded>{note}</Faded>
        <Form
          part={part}
          onSend={async (typed) => {
            const wanted = edits(picked, typed);
            if (wanted.length === 0) return { findings: [], detail: already };
            const made = await makeEdits(wanted, true);
            if (made.ok) onDone();
            // What one port is refused stands at the field that all of them have it from.
            return made.ok
              ? null
              : { ...made, findings: made.findings.map((f) => ({ ...f, path: f.path?.replace(OF_A_PORT, '') ?? '' })) };
          }}
          buttons={<FormButtons yes={yes(ports)} onNo={onClose} />}
        >
          {children}
        </Form>
      </Stack>
    </Dialog>
  );
}
