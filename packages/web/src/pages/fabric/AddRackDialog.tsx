import { proposeRack, sameContent } from '@anthemion/core';
import { useState } from 'react';
import { api } from '../../app/api.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Faded, Note, Row, Stack } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Choice, TextInput } from '../../parts/fields.tsx';
import { useFabricView } from './FabricFrame.tsx';

export function AddRackDialog({ isOpen, onClose }: { readonly isOpen: boolean; readonly onClose: () => void }) {
  const { fabric } = useFabricView();
  const { data: parts } = api.usePartsQuery();
  const [name, setName] = useState('');
  const [place, setPlace] = useState('');
  const makeEdits = useEdits(fabric.name);
  const described = parts?.rackPatterns.find((p) => p.name === (name || fabric.intent.rackPatterns[0]?.name));
  if (!described || !parts) return null;
  // A fabric keeps the patterns it was made by: a rack is added by those, whatever the catalogue says today.
  const own = fabric.intent.rackPatterns.find((p) => p.name === described.name);
  const pattern = own ?? described;
  const model = parts.models.find((m) => m.name === pattern.leafModel);
  const ownModel = fabric.intent.models.find((m) => m.name === pattern.leafModel);
  const rack = proposeRack(fabric.intent, pattern, place);
  const newer = own !== undefined && !sameContent(own, described);
  const add = async (): Promise<void> => {
    const made = await makeEdits([
      { kind: 'addRack', rack, ...(own ? {} : { rackPattern: pattern }), ...(model && !ownModel ? { model } : {}) },
    ]);
    if (made.ok) onClose();
  };
  const renew = (): Promise<unknown> =>
    makeEdits([
      ...(model && !sameContent(model, ownModel) ? [{ kind: 'putModel' as const, model }] : []),
      { kind: 'putRackPattern', rackPattern: described },
    ]);
  return (
    <Dialog title="Add a rack" isOpen={isOpen} onClose={onClose} width={400}>
      <Stack $gap={12}>
        <Choice
          label="Rack pattern"
          value={pattern.name}
          onChange={setName}
          options={parts.rackPatterns.map((p) => ({
            id: p.name,
            name: p.name,
            note: `${p.kind === 'single' ? 'one leaf' : 'ESI pair'} · ${p.leafModel}`,
          }))}
        />
        <TextInput label="Place" value={place} onChange={setPlace} placeholder="Lamp hall, row C" />
        {newer && (
          <Note $tone="wait">
            {fabric.name} was made by another {pattern.name} than the catalogue has now. The rack is added by the one of
            the fabric. <Button onPress={() => void renew()}>Make {pattern.name} anew for all its racks</Button>
          </Note>
        )}
        <Faded style={{ fontSize: 13 }}>
          Becomes rack {rack.number}; its leaves take spine position {rack.slot}. No cable or value of another rack
          moves.
        </Faded>
        <Row>
          <Button $kind="main" onPress={() => void add()}>
            Add rack {rack.number}
          </Button>
          <Button onPress={onClose}>Cancel</Button>
        </Row>
      </Stack>
    </Dialog>
  );
}
