import { DOCUMENT_NAMES } from '@anthemion/core';
import { handEditRequest, type HandEditRequest } from '@anthemion/contract';
import { useState } from 'react';
import { toast } from 'sonner';
import { notTaken } from '../../app/api.ts';
import { benchApi } from '../../app/benchApi.ts';
import { Button, Faded, Row } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { ChoiceField, Form, TextField, useFormPart } from '../../parts/Form.tsx';

/** What somebody at the console might do. */
const EXAMPLES = [
  { name: 'shut port p1', file: 'interfaces', find: 'iface p1\n', replace: 'iface p1\n    link-down yes\n' },
  { name: 'lower the BGP hold time', file: 'frr.conf', find: ' timers 3 9', replace: ' timers 3 30' },
  { name: 'leave a note', file: 'frr.conf', find: 'hostname', replace: '! mended at night\nhostname' },
] as const;

/** Edits the text of a bench switch behind the server's back, as somebody at its console would. */
export function HandEdit({ serial }: { readonly serial: string }) {
  const [isOpen, setOpen] = useState(false);
  return (
    <>
      <Button onPress={() => setOpen(true)}>Edit its text by hand …</Button>
      <Dialog title="Edit by hand, on the bench" isOpen={isOpen} onClose={() => setOpen(false)} width={560}>
        {isOpen && <Editing serial={serial} onClose={() => setOpen(false)} />}
      </Dialog>
    </>
  );
}

function Editing({ serial, onClose }: { readonly serial: string; readonly onClose: () => void }) {
  const [edit] = benchApi.useEditByHandMutation();
  const part = useFormPart<HandEditRequest>({
    schema: handEditRequest,
    initial: { serial, file: 'interfaces', find: EXAMPLES[0].find, replace: EXAMPLES[0].replace },
    keep: `edit ${serial} by hand`,
  });
  return (
    <Form
      part={part}
      onSend={async (values) => {
        const no = notTaken(await edit({ ...values, serial }));
        if (no === null) {
          toast.success('Edited. The next reading finds it.');
          onClose();
        }
        return no;
      }}
      buttons={
        <Row>
          <Button type="submit" $kind="main">
            Edit it
          </Button>
          <Button
            onPress={() => {
              part.forget();
              onClose();
            }}
          >
            Cancel
          </Button>
        </Row>
      }
    >
      <Faded>
        The first place in the file that holds the one text gets the other instead; the switch runs it at once.
      </Faded>
      <Row $wrap>
        {EXAMPLES.map(({ name, ...example }) => (
          <Button key={name} onPress={() => part.rhf.reset({ serial, ...example })}>
            {name}
          </Button>
        ))}
      </Row>
      <ChoiceField name="file" label="File" options={DOCUMENT_NAMES.map((name) => ({ id: name, name }))} />
      <TextField name="find" label="Text" lines={3} />
      <TextField name="replace" label="Instead" lines={3} />
    </Form>
  );
}
