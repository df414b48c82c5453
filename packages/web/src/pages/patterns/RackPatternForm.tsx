import { rackPatternSchema } from '@anthemion/contract';
import { FORWARDER_WORDS, FORWARDERS, type Forwarder, type PartsCatalogue, type RackPattern } from '@anthemion/core';
import { api } from '../../app/api.ts';
import { Cap, Row } from '../../parts/basics.tsx';
import { FormGrid } from '../../parts/fields.tsx';
import { ChoiceField, mayBeEmpty, TextField, TickField, TicksField, useFormPart } from '../../parts/Form.tsx';
import { PartForm } from './PartForm.tsx';
import { BreakoutsField } from './TierFields.tsx';

const SCHEMA = mayBeEmpty(rackPatternSchema, 'esiType', 'forwards', 'untracked');
/** Choices are words in a form. */
type Typed = Omit<RackPattern, 'esiType' | 'forwards'> & {
  readonly esiType: '' | '0';
  readonly forwards: '' | Forwarder;
};

/** What is sent: nothing that says nothing. */
const rackOf = ({
  peerPorts,
  keepalivePorts,
  esiType,
  forwards,
  untracked,
  breakouts = [],
  duties = [],
  ...rack
}: Typed): RackPattern => ({
  ...rack,
  ...(rack.kind === 'single' || !peerPorts ? {} : { peerPorts }),
  ...(rack.kind === 'single' || !keepalivePorts ? {} : { keepalivePorts }),
  ...(rack.kind === 'single' || esiType === '' ? {} : { esiType: 0 }),
  ...(rack.kind === 'single' || forwards === '' ? {} : { forwards }),
  ...(rack.kind === 'single' || !untracked ? {} : { untracked }),
  ...(breakouts.length === 0 ? {} : { breakouts }),
  ...(duties.length === 0 ? {} : { duties }),
});

/** A rack pattern: leaf model, ports, uplinks. */
export function RackPatternForm({
  pattern,
  parts,
  onSaved,
  onGone,
}: {
  readonly pattern: RackPattern;
  readonly parts: PartsCatalogue;
  readonly onSaved: (name: string) => void;
  readonly onGone: () => void;
}) {
  const [put] = api.usePutRackPatternMutation();
  const part = useFormPart<Typed>({
    schema: SCHEMA,
    initial: {
      peerPorts: '',
      keepalivePorts: '',
      breakouts: [],
      duties: [],
      ...pattern,
      esiType: pattern.esiType === 0 ? '0' : '',
      forwards: pattern.forwards ?? '',
    },
    keep: `rack pattern ${pattern.name}`,
  });
  return (
    <PartForm
      of="rack-patterns"
      name={pattern.name}
      part={part}
      taken={parts.rackPatterns}
      keep={(typed) => put(rackOf(typed))}
      onSaved={onSaved}
      onGone={onGone}
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
            <ChoiceField
              name="forwards"
              label="Forwards what is flooded"
              options={FORWARDERS.map((id) => ({ id, name: FORWARDER_WORDS[id] }))}
              none="the lower VTEP"
              hint="the other takes over when that half is gone"
            />
            <ChoiceField
              name="esiType"
              label="ESI of its servers"
              options={[{ id: '0', name: 'type 0: said whole' }]}
              none="type 3: MAC and number"
            />
            <TickField
              name="untracked"
              label="Server ports stay up without uplinks"
              hint="else they go down, so that servers send by the other half"
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
    </PartForm>
  );
}
