import { DOCUMENT_NAMES, snippetSchema, type Snippet } from '@anthemion/core';
import { useState } from 'react';
import { useMay } from '../../app/session.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Cap, Faded, Row, Stack } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { FormGrid } from '../../parts/fields.tsx';
import { ChoiceField, Form, FormButtons, TextField, TickField, useFormPart } from '../../parts/Form.tsx';
import { FabricSecrets } from './FabricSecrets.tsx';
import { useFabricView } from './FabricFrame.tsx';

const BLANK: Snippet = { name: '', file: DOCUMENT_NAMES[0]!, on: 'all', text: '' };

/** Pieces of text the team adds to chosen switches: Liquid templates, run sandboxed and with limits. */
export function SnippetDialog({ isOpen, onClose }: { readonly isOpen: boolean; readonly onClose: () => void }) {
  const { fabric } = useFabricView();
  const makeEdits = useEdits(fabric.name);
  const may = useMay('designer');
  const [changed, setChanged] = useState<Snippet | null>(null);
  return (
    <Dialog title="Snippets" isOpen={isOpen} onClose={onClose} width={620}>
      <Stack $gap={12}>
        {fabric.intent.snippets.map((s) => (
          <Row key={s.name}>
            <b>{s.name}</b>{' '}
            <Faded>
              {s.file} on {s.on}
            </Faded>
            <span style={{ flex: 1 }} />
            <Button onPress={() => setChanged(s)}>Edit</Button>
            {may && (
              <Button $kind="danger" onPress={() => void makeEdits([{ kind: 'removeSnippet', name: s.name }])}>
                Take away
              </Button>
            )}
          </Row>
        ))}
        <FabricSecrets may={may} />
        {may && (
          <SnippetForm
            key={changed?.name ?? ''}
            of={fabric.name}
            changed={changed}
            onDone={() => (setChanged(null), onClose())}
          />
        )}
      </Stack>
    </Dialog>
  );
}

function SnippetForm({
  of,
  changed,
  onDone,
}: {
  readonly of: string;
  readonly changed: Snippet | null;
  readonly onDone: () => void;
}) {
  const makeEdits = useEdits(of);
  const mayScript = useMay('scripter');
  const part = useFormPart<Snippet>({
    schema: snippetSchema,
    initial: changed ?? BLANK,
    ...(changed ? {} : { keep: `snippet of ${of}` }),
    base: '/edits/0/snippet',
  });
  return (
    <Form
      part={part}
      onSend={async ({ runsElsewhere, ...snippet }) => {
        const made = await makeEdits(
          [{ kind: 'putSnippet', snippet: runsElsewhere === true ? { ...snippet, runsElsewhere } : snippet }],
          true,
        );
        if (!made.ok) return made;
        part.rhf.reset(BLANK);
        onDone();
        return null;
      }}
      buttons={<FormButtons yes="Put it on" no="Close" onNo={() => (part.forget(), onDone())} />}
    >
      <Cap>{changed ? 'Change' : 'A new snippet'}</Cap>
      <FormGrid>
        <TextField name="name" label="Name" placeholder="syslog-host" />
        <ChoiceField name="file" label="File" options={DOCUMENT_NAMES.map((name) => ({ id: name, name }))} />
        <ChoiceField
          name="on"
          label="On"
          options={[
            { id: 'all', name: 'all switches' },
            { id: 'spines', name: 'spines' },
            { id: 'leaves', name: 'leaves' },
          ]}
        />
      </FormGrid>
      <TextField
        name="text"
        label="Text (Liquid; sees switch.hostname, switch.loopbacks, switch.ports …)"
        lines={7}
        placeholder={'banner motd line {{ switch.hostname }} of the chart office'}
      />
      {mayScript && (
        <TickField
          name="runsElsewhere"
          label="It may run programs or use other files on the switch (post-up, source, log file …)"
        />
      )}
    </Form>
  );
}
