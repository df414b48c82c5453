import { rackSchema, type Rack } from '@anthemion/core';
import { useEdits } from '../../../app/useEdits.ts';
import { Button, Row } from '../../../parts/basics.tsx';
import { Form, TextField, useFormPart } from '../../../parts/Form.tsx';
import { useFabricView } from '../FabricFrame.tsx';

/** Where a rack stands, in the words of whoever walks there. */
export function RackPlace({ rack }: { readonly rack: Rack }) {
  const { fabric } = useFabricView();
  const makeEdits = useEdits(fabric.name);
  const part = useFormPart<{ place: string }>({
    schema: rackSchema.pick(['place']),
    initial: { place: rack.place ?? '' },
    base: '/edits/0',
  });
  return (
    <Form
      part={part}
      onSend={async ({ place }) => {
        const made = await makeEdits([{ kind: 'placeRack', number: rack.number, place: place.trim() }], true);
        return made.ok ? null : made;
      }}
      buttons={
        part.rhf.formState.isDirty && (
          <Row>
            <Button type="submit">Keep place</Button>
          </Row>
        )
      }
    >
      <TextField name="place" label="Place" placeholder="row C, rack 14" />
    </Form>
  );
}
