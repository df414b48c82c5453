import {
  FEC_WORDS,
  FECS,
  plural,
  sameContent,
  serverPortSchema,
  SPEEDS,
  speedWords,
  type Edit,
  type Fec,
  type ServerPort,
} from '@anthemion/core';
import { string, type AnyObject, type ObjectSchema } from 'yup';
import { useEdits } from '../../app/useEdits.ts';
import { Faded, Stack } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { ChoiceField, Form, FormButtons, useFormPart } from '../../parts/Form.tsx';

/** What stands for what each port has, and for nothing said. */
const AS_IT_IS = '';
const UNSAID = '(unsaid)';
const OF_A_PORT = /^\/edits\/\d+\/port/;
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
export function PortDriveDialog({
  fabric,
  picked,
  onDone,
  onClose,
}: {
  readonly fabric: string;
  readonly picked: readonly ServerPort[];
  readonly onDone: () => void;
  readonly onClose: () => void;
}) {
  const makeEdits = useEdits(fabric);
  const part = useFormPart<Typed>({ schema: SCHEMA, initial: { speed: AS_IT_IS, fec: AS_IT_IS } });
  const ports = plural(picked.length, 'port');
  return (
    <Dialog title={`Speed and FEC of ${ports}`} isOpen onClose={onClose}>
      <Stack $gap={12}>
        <Faded>The far ends, which are servers, have to be told the same.</Faded>
        <Form
          part={part}
          onSend={async (typed) => {
            const edits = toldSo(picked, typed);
            if (edits.length === 0) return { findings: [], detail: 'They are all told so already.' };
            const made = await makeEdits(edits, true);
            if (made.ok) onDone();
            // What one port is refused stands at the field that all of them have it from.
            return made.ok
              ? null
              : { ...made, findings: made.findings.map((f) => ({ ...f, path: f.path?.replace(OF_A_PORT, '') ?? '' })) };
          }}
          buttons={<FormButtons yes={`Tell ${ports}`} onNo={onClose} />}
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
        </Form>
      </Stack>
    </Dialog>
  );
}
