import { proposeRack } from '@anthemion/core';
import { useState } from 'react';
import { api } from '../../app/api.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Faded, Row, Stack } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Choice, TextInput } from '../../parts/fields.tsx';
import { useFabricView } from './FabricFrame.tsx';

export function AddRackDialog({ isOpen, onClose }: { readonly isOpen: boolean; readonly onClose: () => void }) {
  const { fabric } = useFabricView();
  const { data: parts } = api.usePartsQuery();
  const [name, setName] = useState('');
  const [place, setPlace] = useState('');
  const makeEdits = useEdits(fabric.name);
  const pattern = parts?.rackPatterns.find((p) => p.name === (name || fabric.intent.rackPatterns[0]?.name));
  if (!pattern || !parts) return null;
  const rack = proposeRack(fabric.intent, pattern, place);
  const model = parts.models.find((m) => m.name === pattern.leafModel);
  const add = async (): Promise<void> => {
    const made = await makeEdits([{ kind: 'addRack', rack, rackPattern: pattern, ...(model ? { model } : {}) }]);
    if (made.ok) onClose();
  };
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
