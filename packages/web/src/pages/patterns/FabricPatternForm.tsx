import type { PartsAnswer } from '@anthemion/contract';
import { shapeOf, type FabricPattern } from '@anthemion/core';
import { useState } from 'react';
import { api } from '../../app/api.ts';
import { Button, Cap } from '../../parts/basics.tsx';
import { FormGrid } from '../../parts/fields.tsx';
import { ChoiceField, NumberField, TextField, useFormPart } from '../../parts/Form.tsx';
import { TYPED_PATTERN, patternOf, typedOf, type TypedPattern } from './fabricPatternTyped.ts';
import { PartForm } from './PartForm.tsx';
import { SettingFields } from './SettingFields.tsx';
import { SizingFacts } from './SizingFacts.tsx';
import { BreakoutsField, ManagementFields, OthersField } from './TierFields.tsx';

const SHAPES = [
  { id: 'three-stages', name: 'three stages', note: 'every leaf on every spine' },
  { id: 'five-stages', name: 'five stages', note: 'pods under super-spines' },
  { id: 'collapsed', name: 'collapsed', note: 'leaves on one another, no spine' },
  { id: 'switched', name: 'switched', note: 'VLANs and spanning tree, routed outside' },
];

/** A fabric pattern: racks × count, spines, defaults. */
export function FabricPatternForm({
  pattern,
  parts,
  onSaved,
  onGone,
}: {
  readonly pattern: FabricPattern;
  readonly parts: PartsAnswer;
  readonly onSaved: (name: string) => void;
  readonly onGone: () => void;
}) {
  const [more, setMore] = useState(false);
  const [put] = api.usePutFabricPatternMutation();
  const part = useFormPart<TypedPattern>({
    schema: TYPED_PATTERN,
    initial: typedOf(pattern, parts.rackPatterns),
    keep: `fabric pattern ${pattern.name}`,
  });
  const typed = patternOf(part.rhf.watch());
  const shape = shapeOf(typed);
  const models = parts.models.map((m) => ({ id: m.name, name: m.name, note: m.maker }));
  const changed =
    Object.keys(typed.settings).length +
    [typed.management, typed.spines.others, typed.spines.breakouts].filter((v) => v !== undefined).length;
  const sized =
    typed.racks.every((r) => Number.isInteger(r.count)) &&
    Number.isInteger(typed.spines.count) &&
    Number.isInteger(typed.parallel) &&
    (shape === 'collapsed' || typed.spines.model !== '');
  return (
    <PartForm
      of="fabric-patterns"
      name={pattern.name}
      part={part}
      taken={parts.fabricPatterns}
      keep={(typed) => put(patternOf(typed))}
      onSaved={onSaved}
      onGone={onGone}
      facts={sized && <SizingFacts pattern={typed} parts={parts} />}
    >
      <FormGrid>
        {pattern.name === '' && <TextField name="name" label="Name" placeholder="four-by-ten" isRequired />}
        <TextField name="description" label="Description" />
        <ChoiceField name="shape" label="Shape" options={SHAPES} />
        {shape === 'five-stages' && (
          <>
            <NumberField name="pods" label="Pods" />
            <NumberField name="superSpines.count" label="Super-spines of a plane" />
            <ChoiceField name="superSpines.model" label="Super-spine model" options={models} />
          </>
        )}
        {shape !== 'collapsed' && (
          <>
            <NumberField name="spines.count" label={shape === 'five-stages' ? 'Spines of a pod' : 'Spines'} />
            <ChoiceField name="spines.model" label="Spine model" options={models} />
          </>
        )}
        <NumberField name="parallel" label={shape === 'collapsed' ? 'Links between two leaves' : 'Parallel links'} />
      </FormGrid>
      <Cap>{shape === 'five-stages' ? 'Racks of a pod' : 'Racks'}</Cap>
      <FormGrid>
        {part.rhf.getValues('racks').map((r, i) => {
          const known = parts.rackPatterns.find((p) => p.name === r.pattern);
          const kind = known ? (known.kind === 'single' ? 'one leaf' : 'ESI pair') : 'no longer there';
          return <NumberField key={r.pattern} name={`racks.${i}.count`} label={`${r.pattern} (${kind})`} />;
        })}
      </FormGrid>
      {more || part.rhf.formState.errors.settings || part.rhf.formState.errors.management ? (
        <>
          <Cap>Unlike the rest</Cap>
          <FormGrid>
            {shape !== 'collapsed' && (
              <>
                <OthersField name="spines.others" label="Spines of another model" />
                <BreakoutsField name="spines.breakouts" label="Split ports of the spines" />
              </>
            )}
            {shape === 'five-stages' && (
              <>
                <OthersField name="superSpines.others" label="Super-spines of another model" />
                <BreakoutsField name="superSpines.breakouts" label="Split ports of the super-spines" />
              </>
            )}
            <ManagementFields />
          </FormGrid>
          <SettingFields />
        </>
      ) : (
        <div>
          <Button onPress={() => setMore(true)}>More settings{changed > 0 ? ` (${changed} changed)` : ''}</Button>
        </div>
      )}
    </PartForm>
  );
}
