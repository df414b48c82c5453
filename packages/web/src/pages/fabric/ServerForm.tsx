import { sameContent, serverPortSchema, type ServerPort } from '@anthemion/core';
import type { AnyObject, AnySchema, ObjectSchema } from 'yup';
import { useEdits } from '../../app/useEdits.ts';
import { Cap, Faded, H3, Row } from '../../parts/basics.tsx';
import { ChoiceField, Form, LinesField, mayBeEmpty, TextField, useFormPart } from '../../parts/Form.tsx';
import { SIDES } from './ConnectForm.tsx';
import { DRIVE_FIELDS, DriveFields, driveSaid, typedDrive, type TypedDrive } from './DriveFields.tsx';
import { useFabricView } from './FabricFrame.tsx';
import { UNCHANGED } from './inPlace.ts';
import { PortFormButtons } from './PortFormButtons.tsx';

const FIELDS = (serverPortSchema as unknown as ObjectSchema<AnyObject>).pick([
  'server',
  'untagged',
  'tagged',
  ...DRIVE_FIELDS,
]);
const SCHEMA = mayBeEmpty(FIELDS as unknown as AnySchema, 'untagged', ...DRIVE_FIELDS);
type Typed = Pick<ServerPort, 'server' | 'tagged'> & TypedDrive & { readonly untagged: string };

/** The server on a port: its name and its networks are changed, or the port is shut, opened or freed. */
export function ServerForm({ known, onDone }: { readonly known: ServerPort; readonly onDone: () => void }) {
  const { fabric } = useFabricView();
  const makeEdits = useEdits(fabric.name);
  const { rack, port, side } = known;
  const part = useFormPart<Typed>({
    schema: SCHEMA,
    initial: { server: known.server, untagged: known.untagged ?? '', tagged: known.tagged, ...typedDrive(known) },
    base: '/edits/0/port',
  });
  const here = fabric.intent.networks.filter((n) => n.racks.includes(rack));
  const { shut, ...open } = known;
  return (
    <Form
      part={part}
      onSend={async ({ server, untagged, tagged, ...drive }) => {
        const { untagged: _, speed: __, fec: ___, ...rest } = known;
        const next: ServerPort = {
          ...rest,
          server,
          tagged,
          ...(untagged === '' ? {} : { untagged }),
          ...driveSaid(drive),
        };
        if (sameContent(next, known)) return UNCHANGED;
        const made = await makeEdits([{ kind: 'changeServer', port: next }], true);
        return made.ok ? null : made;
      }}
      buttons={
        <PortFormButtons
          shut={shut}
          turn={{ kind: 'changeServer', port: shut ? open : { ...known, shut: true } }}
          free={{ kind: 'disconnectServer', rack, side, port }}
          freeing="Free the port"
          onDone={onDone}
        />
      }
    >
      <Cap>Server port</Cap>
      <H3>{known.server}</H3>
      <Row $gap={6} $wrap>
        <Faded>
          rack {rack}, {port}, {SIDES[side]}
          {shut ? ', shut' : ''}
        </Faded>
      </Row>
      <TextField name="server" label="Server" isRequired />
      <ChoiceField
        name="untagged"
        label="Untagged network"
        none="None"
        options={here.map((n) => ({ id: n.name, name: n.name, note: `VLAN ${n.vlan}` }))}
      />
      <LinesField name="tagged" label="Tagged networks, one a line" lines={2} placeholder="tide-model" />
      <DriveFields rack={rack} port={port} />
    </Form>
  );
}
