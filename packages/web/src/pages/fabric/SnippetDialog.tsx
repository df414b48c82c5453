import type { Finding, Snippet } from '@anthemion/core';
import { useState } from 'react';
import { useMay } from '../../app/session.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Cap, Faded, Row, Stack } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Choice, errorAt, FormGrid, Leftovers, leftOver, TextInput, Tick } from '../../parts/fields.tsx';
import { FabricSecrets } from './FabricSecrets.tsx';
import { useFabricView } from './FabricFrame.tsx';

const BLANK: Snippet = { name: '', file: 'frr.conf', on: 'all', text: '' };

/** Pieces of text the team adds to chosen switches: Liquid templates, run sandboxed and with limits. */
export function SnippetDialog({ isOpen, onClose }: { readonly isOpen: boolean; readonly onClose: () => void }) {
  const { fabric } = useFabricView();
  const makeEdits = useEdits(fabric.name);
  const may = useMay('designer');
  const mayScript = useMay('scripter');
  const [snippet, setSnippet] = useState<Snippet>(BLANK);
  const [findings, setFindings] = useState<readonly Finding[]>([]);
  const save = async (): Promise<void> => {
    const made = await makeEdits([{ kind: 'putSnippet', snippet }], true);
    setFindings(made.ok ? [] : made.findings);
    if (made.ok) {
      setSnippet(BLANK);
      onClose();
    }
  };
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
            <Button onPress={() => setSnippet(s)}>Edit</Button>
            {may && (
              <Button $kind="danger" onPress={() => void makeEdits([{ kind: 'removeSnippet', name: s.name }])}>
                Take away
              </Button>
            )}
          </Row>
        ))}
        <FabricSecrets may={may} />
        {may && (
          <>
            <Cap>{fabric.intent.snippets.some((s) => s.name === snippet.name) ? 'Change' : 'A new snippet'}</Cap>
            <FormGrid>
              <TextInput
                label="Name"
                value={snippet.name}
                onChange={(name) => setSnippet({ ...snippet, name })}
                placeholder="syslog-host"
                error={errorAt(findings, 'name')}
              />
              <Choice
                label="File"
                value={snippet.file}
                onChange={(v) => setSnippet({ ...snippet, file: v as Snippet['file'] })}
                options={[
                  { id: 'frr.conf', name: 'frr.conf' },
                  { id: 'interfaces', name: 'interfaces' },
                ]}
              />
              <Choice
                label="On"
                value={snippet.on}
                onChange={(v) => setSnippet({ ...snippet, on: v as Snippet['on'] })}
                options={[
                  { id: 'all', name: 'all switches' },
                  { id: 'spines', name: 'spines' },
                  { id: 'leaves', name: 'leaves' },
                ]}
              />
            </FormGrid>
            <TextInput
              label="Text (Liquid; sees switch.hostname, switch.loopbacks, switch.ports …)"
              value={snippet.text}
              onChange={(text) => setSnippet({ ...snippet, text })}
              lines={7}
              placeholder={'banner motd line {{ switch.hostname }} of the chart office'}
              error={errorAt(findings, 'text')}
            />
            {mayScript && (
              <Tick
                label="It may run programs or use other files on the switch (post-up, source, log file …)"
                value={snippet.runsElsewhere === true}
                onChange={(on) => {
                  const { runsElsewhere: _, ...rest } = snippet;
                  setSnippet(on ? { ...rest, runsElsewhere: true } : rest);
                }}
              />
            )}
            <Leftovers findings={leftOver(findings, 'name', 'text')} />
            <Row>
              <Button $kind="main" onPress={() => void save()}>
                Put it on
              </Button>
              <Button onPress={onClose}>Close</Button>
            </Row>
          </>
        )}
      </Stack>
    </Dialog>
  );
}
