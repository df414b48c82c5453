import { rackPatternSchema } from '@anthemion/contract';
import type { PartsCatalogue, RackPattern } from '@anthemion/core';
import { toast } from 'sonner';
import { api, notTaken } from '../../app/api.ts';
import { useMay } from '../../app/session.ts';
import { Button, Cap, H2, Row, Stack } from '../../parts/basics.tsx';
import { FormGrid } from '../../parts/fields.tsx';
import { ChoiceField, Form, TextField, TicksField, useFormPart } from '../../parts/Form.tsx';
import { BreakoutsField } from './TierFields.tsx';

/** What is sent: nothing that says nothing. */
const rackOf = ({ peerPorts, keepalivePorts, breakouts = [], duties = [], ...rack }: RackPattern): RackPattern => ({
  ...rack,
  ...(rack.kind === 'single' || !peerPorts ? {} : { peerPorts }),
  ...(rack.kind === 'single' || !keepalivePorts ? {} : { keepalivePorts }),
  ...(breakouts.length === 0 ? {} : { breakouts }),
  ...(duties.length === 0 ? {} : { duties }),
});

/** A rack pattern: leaf model, ports, uplinks. */
export function RackPatternForm({
  pattern,
  parts,
  onSaved,
}: {
  readonly pattern: RackPattern;
  readonly parts: PartsCatalogue;
  readonly onSaved: (name: string) => void;
}) {
  const [put] = api.usePutRackPatternMutation();
  const may = useMay('designer');
  const part = useFormPart<RackPattern>({
    schema: rackPatternSchema,
    initial: { peerPorts: '', keepalivePorts: '', breakouts: [], duties: [], ...pattern },
    keep: `rack pattern ${pattern.name}`,
  });
  const save = async (form: RackPattern) => {
    const no = notTaken(await put(rackOf(form)));
    if (no === null) {
      toast.success(`Rack pattern ${form.name} is kept`);
      onSaved(form.name);
    }
    return no;
  };
  return (
    <Stack $gap={14}>
      <H2>{pattern.name || 'A new rack pattern'}</H2>
      <Form
        part={part}
        onSend={save}
        buttons={
          may && (
            <Row>
              <Button type="submit" $kind="main" isDisabled={part.rhf.formState.isSubmitting}>
                Keep rack pattern
              </Button>
            </Row>
          )
        }
      >
        <FormGrid>
          {pattern.name === '' && <TextField name="name" label="Name" placeholder="single-48" isRequired />}
          <ChoiceField
            name="kind"
            label="Kind"
            options={[
              { id: 'single', name: 'one leaf' },
              { id: 'esi-pair', name: 'pair of leaves, ESI multihomed' },
            ]}
          />
          <ChoiceField
            name="leafModel"
            label="Leaf model"
            options={parts.models.map((m) => ({ id: m.name, name: m.name, note: m.maker }))}
          />
          <TextField name="serverPorts" label="Server ports" code />
          <TextField name="uplinkPorts" label="Uplinks, in the order of the spines" code />
          {part.rhf.watch('kind') === 'esi-pair' && (
            <>
              <TextField
                name="peerPorts"
                label="Ports to the other half"
                placeholder="none"
                hint="carry the underlay between the halves, for when a half has lost its uplinks"
                code
              />
              <TextField
                name="keepalivePorts"
                label="Keep-alive ports"
                placeholder="none"
                hint="cabled to the other half, and used for nothing else"
                code
              />
            </>
          )}
          <BreakoutsField name="breakouts" label="Split ports" />
        </FormGrid>
        <Cap>Duties</Cap>
        <Row $gap={18} $wrap>
          <TicksField
            name="duties"
            options={[
              { id: 'border', name: 'border', note: 'meets outside systems' },
              { id: 'site-gateway', name: 'site gateway', note: 'meets other sites' },
            ]}
          />
        </Row>
      </Form>
    </Stack>
  );
}
