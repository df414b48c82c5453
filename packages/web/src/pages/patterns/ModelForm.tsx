import {
  blocksOf,
  blocksText,
  DIALECT_NAMES,
  modelSchema,
  portNames,
  portsOf,
  tablesOf,
  tablesText,
  type PortBlock,
  type SwitchModel,
  type TableSizes,
} from '@anthemion/core';
import { styled } from 'styled-components';
import { api } from '../../app/api.ts';
import { Faded } from '../../parts/basics.tsx';
import { FormGrid } from '../../parts/fields.tsx';
import { ChoiceField, NumberField, ParsedField, TextField, useFormPart } from '../../parts/Form.tsx';
import { token } from '../../parts/theme.ts';
import { PartForm } from './PartForm.tsx';

/** From this many Gb/s on a port is drawn as one towards other switches. */
const FAST = 100;

/** A model of which nothing is said that is empty. */
const modelOf = ({ tables = {}, ...model }: SwitchModel): SwitchModel => ({
  ...model,
  ...(Object.keys(tables).length === 0 ? {} : { tables }),
});

/** A switch model: who makes it, what it is told in, its ports. */
export function ModelForm({
  model,
  taken,
  onSaved,
  onGone,
}: {
  readonly model: SwitchModel;
  readonly taken: readonly SwitchModel[];
  readonly onSaved: (name: string) => void;
  readonly onGone: () => void;
}) {
  const [put] = api.usePutModelMutation();
  const part = useFormPart<SwitchModel>({
    schema: modelSchema,
    initial: { tables: {}, ...model },
    keep: `switch model ${model.name}`,
  });
  const typed = part.rhf.watch('blocks') as readonly PortBlock[] | string;
  const made = { ...model, blocks: Array.isArray(typed) ? (typed as PortBlock[]) : [] };
  const ports = [...portsOf(made)];
  const { key, nameOf } = portNames(made);
  // With one kind of label its first word says nothing: a face has room for the numbers.
  const word = new Set(ports.map(([p]) => /^[A-Za-z]*-?/.exec(p)![0]));
  const short = (label: string): string => (word.size === 1 ? label.slice([...word][0]!.length) : label);
  return (
    <PartForm
      of="models"
      name={model.name}
      part={part}
      taken={taken}
      keep={(typed) => put(modelOf(typed))}
      onSaved={onSaved}
      onGone={onGone}
    >
      <FormGrid>
        {model.name === '' && <TextField name="name" label="Name" placeholder="TV-L48F" isRequired />}
        <TextField name="maker" label="Maker" placeholder="Tarn & Vale" isRequired />
        <ChoiceField
          name="dialect"
          label="Told in"
          options={DIALECT_NAMES.map((id) => ({ id, name: id }))}
          hint="the dialect of its configuration"
        />
        <NumberField name="maxMtu" label="Largest MTU" hint="bytes of layer 3 it forwards" isRequired />
        <ParsedField<readonly PortBlock[]>
          name="blocks"
          label="Ports, a block a line"
          placeholder={'e1/1-e1/48 25G\ne1/49-e1/56 100G × 2, 4 as /1'}
          hint="as the maker prints them, with Gb/s; × 2, 4 where one can be split so, as /1 where its parts are e1/49/1 and on; = swp1-swp48 where the switch calls them that"
          parse={blocksOf}
          show={blocksText}
          bad="Write each block as p1-p48 25G, e1/49-e1/56 100G × 2, 4 as /1, or e1/1-e1/48 25G = swp1-swp48."
          lines={4}
          code
        />
        <ParsedField<TableSizes>
          name="tables"
          label="What its tables hold"
          placeholder="4000 VNIs, 512 VRFs, 56 LAGs, 1000 gateways"
          hint="what is not said is not judged"
          parse={tablesOf}
          show={tablesText}
          bad="Write it as 4000 VNIs, 512 VRFs; there are VNIs, VRFs, LAGs and gateways."
        />
      </FormGrid>
      <Faded>
        {ports.length === 0
          ? 'No port is named yet.'
          : `${ports.length} ports, ${ports
              .reduce((n, [, speed]) => n + speed, 0)
              .toLocaleString('en')
              .replaceAll(',', ' ')} Gb/s in all${
              key === '' ? '' : `; on the switch ${ports[0]![0]} is ${nameOf(ports[0]![0])}`
            }`}
      </Faded>
      {ports.length > 0 && (
        <Faceplate
          $cell={Math.max(30, 8 + 7 * Math.max(...ports.map(([p]) => short(p).length)))}
          aria-label={`Ports of ${model.name || 'the model'}`}
        >
          {ports.map(([p, speed]) => (
            <li
              key={p}
              className={speed >= FAST ? 'fast' : ''}
              title={`${p}, ${speed}G${nameOf(p) === p ? '' : `; the switch calls it ${nameOf(p)}`}`}
            >
              {short(p)}
            </li>
          ))}
        </Faceplate>
      )}
    </PartForm>
  );
}

const Faceplate = styled.ul<{ readonly $cell: number }>`
  display: grid;
  grid-template-columns: repeat(auto-fill, ${(p) => p.$cell}px);
  gap: 4px;
  max-width: 580px;
  background: ${token('sheet')};
  border: 1px solid ${token('rule')};
  border-radius: 5px;
  padding: 12px;
  li {
    border: 1px solid ${token('link')};
    border-radius: 3px;
    font-size: 11px;
    text-align: center;
    padding: 2px 0;
  }
  li.fast {
    border-color: ${token('verdigris')};
    background: ${token('verdigris-wash')};
  }
`;
