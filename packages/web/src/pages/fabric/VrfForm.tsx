import { proposeTransitVlan, vrfSchema, type Vrf } from '@anthemion/core';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Cap, H3, Row } from '../../parts/basics.tsx';
import { Form, mayBeEmpty, NumberField, TextField, useFormPart } from '../../parts/Form.tsx';
import { useFabricView, useSelection } from './FabricFrame.tsx';

const SCHEMA = mayBeEmpty(vrfSchema, 'transitVlan');

/** A new VRF: a name is enough; its VLAN is the next free one, its L3 VNI is drawn. */
export function VrfForm() {
  const { fabric } = useFabricView();
  const [, select] = useSelection();
  const makeEdits = useEdits(fabric.name);
  const proposed = proposeTransitVlan(fabric.intent);
  const part = useFormPart<Partial<Vrf> & { name: string }>({
    schema: SCHEMA,
    initial: { name: '', transitVlan: undefined, vni: undefined },
    keep: `vrf of ${fabric.name}`,
    base: '/edits/0/vrf',
  });
  const close = (): void => {
    part.forget();
    select(null);
  };
  return (
    <Form
      part={part}
      onSend={async ({ name, transitVlan = proposed, vni }) => {
        const made = await makeEdits(
          [{ kind: 'addVrf', vrf: { name, transitVlan, ...(vni === undefined ? {} : { vni }) } }],
          true,
        );
        if (made.ok) select(null);
        return made.ok ? null : made;
      }}
      buttons={
        <Row>
          <Button type="submit" $kind="main">
            Add VRF
          </Button>
          <Button onPress={close}>Cancel</Button>
        </Row>
      }
    >
      <Cap>VRF</Cap>
      <H3>A new VRF</H3>
      <TextField
        name="name"
        label="Name"
        placeholder="tides"
        hint="At most 15 characters: Linux names a device after it"
        autoFocus
        isRequired
      />
      <NumberField name="transitVlan" label="L3 VNI’s VLAN" placeholder={`${proposed}, next free`} />
      <NumberField name="vni" label="L3 VNI" placeholder="drawn from the pool" />
    </Form>
  );
}
