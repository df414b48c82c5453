import {
  FEC_WORDS,
  FECS,
  sameContent,
  serverPortSchema,
  SPEEDS,
  speedWords,
  type Edit,
  type Fec,
  type ServerPort,
} from '@anthemion/core';
import { string, type AnyObject, type ObjectSchema } from 'yup';
import { ChoiceField } from '../../parts/Form.tsx';
import { AS_IT_IS, PickedPortsDialog, type PickedPorts } from './PickedPortsDialog.tsx';

/** What stands for nothing said. */
const UNSAID = '(unsaid)';
interface Typed {
  readonly speed: string;
  readonly fec: string;
}
const SCHEMA = (serverPortSchema as unknown as ObjectSchema<AnyObject>)
  .pick([])
  .shape({ speed: string().defined(), fec: string().defined() });

/** Edits that tell ports a speed and FEC; those that are told so already are left. */
export function toldSo(picked: readonly ServerPort[], { speed, fec }: Typed): Edit[] {
  return picked.flatMap((p): Edit[] => {
    const { speed: fast, fec: code, ...rest } = p;
    const [nextSpeed, nextFec] = [
      speed === AS_IT_IS ? fast : speed === UNSAID ? undefined : Number(speed),
      fec === AS_IT_IS ? code : fec === UNSAID ? undefined : (fec as Fec),
    ];
    const port: ServerPort = {
      ...rest,
      ...(nextSpeed === undefined ? {} : { speed: nextSpeed }),
      ...(nextFec === undefined ? {} : { fec: nextFec }),
    };
    return sameContent(port, p) ? [] : [{ kind: 'changeServer', port }];
  });
}

/** Tells many ports a speed and FEC together. */
export const PortDriveDialog = (ports: PickedPorts) => (
  <PickedPortsDialog<Typed>
    {...ports}
    of="Speed and FEC"
    note="The far ends, which are servers, have to be told the same."
    yes={(of) => `Tell ${of}`}
    schema={SCHEMA}
    initial={{ speed: AS_IT_IS, fec: AS_IT_IS }}
    edits={toldSo}
    already="They are all told so already."
  >
    <ChoiceField
      name="speed"
      label="Speed"
      none="As each has it"
      options={[
        ...SPEEDS.map((s) => ({ id: String(s), name: speedWords(s) })),
        { id: UNSAID, name: 'As the port has it by itself' },
      ]}
    />
    <ChoiceField
      name="fec"
      label="FEC"
      none="As each has it"
      options={[
        ...FECS.map((f) => ({ id: f, name: FEC_WORDS[f] })),
        { id: UNSAID, name: 'As the cable has it by itself' },
      ]}
    />
  </PickedPortsDialog>
);
