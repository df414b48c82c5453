import {
  FEC_WORDS,
  FECS,
  portsOf,
  rackPatternAt,
  SPEEDS,
  speedWords,
  type Drive,
  type Fec,
  type FabricIntent,
} from '@anthemion/core';
import { FormGrid } from '../../parts/fields.tsx';
import { ChoiceField } from '../../parts/Form.tsx';
import { useFabricView } from './FabricFrame.tsx';

/** How a port is driven, as a form holds it: empty = nothing is said of it. */
export interface TypedDrive {
  readonly speed: number | string;
  readonly fec: string;
}
export const NOTHING_TYPED: TypedDrive = { speed: '', fec: '' };
export const typedDrive = ({ speed, fec }: Drive): TypedDrive => ({ speed: speed ?? '', fec: fec ?? '' });
export const driveSaid = ({ speed, fec }: TypedDrive): Drive => ({
  ...(speed === '' ? {} : { speed: Number(speed) }),
  ...(fec === '' ? {} : { fec: fec as Fec }),
});
/** Fields of a schema that these may leave empty. */
export const DRIVE_FIELDS = ['speed', 'fec'] as const;

/** What a port of a rack runs at by its model, in Gb/s; undefined = there is no such port. */
function madeFor(intent: FabricIntent, number: number, port: string): number | undefined {
  const pattern = rackPatternAt(intent, number);
  const model = intent.models.find((m) => m.name === pattern?.leafModel);
  return model && portsOf(model, pattern?.breakouts).get(port);
}

/** Speed and FEC of a port: what its model has is offered. */
export function DriveFields({ rack, port }: { readonly rack: number; readonly port: string }) {
  const { intent } = useFabricView().fabric;
  const most = madeFor(intent, rack, port);
  return (
    <FormGrid>
      <ChoiceField
        name="speed"
        label="Speed"
        none={most === undefined ? 'as the port has it' : `as the port has it, ${speedWords(most)}`}
        options={SPEEDS.filter((s) => most === undefined || s <= most).map((s) => ({
          id: String(s),
          name: speedWords(s),
        }))}
      />
      <ChoiceField
        name="fec"
        label="FEC"
        none="as the cable has it"
        options={FECS.map((f) => ({ id: f, name: FEC_WORDS[f] }))}
      />
    </FormGrid>
  );
}
