import { useEffect } from 'react';
import { nextFreePort, rackPatternAt, serverPortSchema, type ServerPort, type Side } from '@anthemion/core';
import { useEdits } from '../../app/useEdits.ts';
import { Cap, H3 } from '../../parts/basics.tsx';
import { ChoiceField, Form, FormButtons, LinesField, mayBeEmpty, TextField, useFormPart } from '../../parts/Form.tsx';
import { DRIVE_FIELDS, DriveFields, driveSaid, NOTHING_TYPED, type TypedDrive } from './DriveFields.tsx';
import { useFabricView } from './FabricFrame.tsx';

export const SIDES: Readonly<Record<Side, string>> = { both: 'both leaves, ESI LAG', a: 'leaf a', b: 'leaf b' };
const SCHEMA = mayBeEmpty(serverPortSchema, 'port', 'side', ...DRIVE_FIELDS);
type Typed = Omit<ServerPort, 'rack' | 'port' | 'side' | 'speed' | 'fec'> &
  TypedDrive & {
    readonly rack: number | string;
    readonly port?: string | undefined;
    readonly side?: Side | undefined;
  };

/** A server on a port of a rack: the next free port, and both leaves of a pair, unless one says otherwise. */
export function ConnectForm({ rack: wanted, onDone }: { readonly rack: string | null; readonly onDone: () => void }) {
  const { fabric } = useFabricView();
  const { intent } = fabric;
  const makeEdits = useEdits(fabric.name);
  const first = wanted ?? String(intent.racks[0]?.number ?? '');
  const part = useFormPart<Typed>({
    schema: SCHEMA,
    initial: {
      rack: first,
      server: '',
      tagged: [],
      untagged: undefined as never,
      ...NOTHING_TYPED,
    },
    keep: `server of ${fabric.name}`,
    base: '/edits/0/port',
  });
  const { getValues, setValue } = part.rhf;
  // Opened by a link, what the open change would have comes after the form.
  useEffect(() => {
    if (getValues('rack') === '' && first !== '') setValue('rack', first);
  }, [first, getValues, setValue]);
  const number = Number(part.rhf.watch('rack'));
  const pattern = rackPatternAt(intent, number);
  const free = nextFreePort(intent, number) ?? '';
  const here = intent.networks.filter((n) => n.racks.includes(number));
  const close = (): void => {
    part.forget();
    onDone();
  };
  return (
    <Form
      part={part}
      onSend={async ({ rack, side, port, untagged, speed, fec, ...rest }) => {
        const next: ServerPort = {
          ...rest,
          rack: Number(rack),
          side: side ?? (pattern?.kind === 'esi-pair' ? 'both' : 'a'),
          port: port || free,
          ...(untagged ? { untagged } : {}),
          ...driveSaid({ speed, fec }),
        };
        const made = await makeEdits([{ kind: 'connectServer', port: next }], true);
        // The next server is likely to want the same.
        if (made.ok)
          part.rhf.reset({
            rack,
            untagged: untagged as never,
            tagged: rest.tagged,
            server: '',
            port: '',
            speed,
            fec,
          });
        return made.ok ? null : made;
      }}
      buttons={<FormButtons yes="Connect" no="Close" onNo={close} />}
    >
      <Cap>Port</Cap>
      <H3>Connect a server</H3>
      <TextField name="server" label="Server" placeholder="echo-301" autoFocus isRequired />
      <ChoiceField
        name="rack"
        label="Rack"
        options={intent.racks.map((r) => ({ id: String(r.number), name: `rack-${r.number}`, note: r.pattern }))}
      />
      <TextField name="port" label="Port" placeholder={free ? `${free}, next free` : 'the rack is full'} code />
      {pattern?.kind === 'esi-pair' && (
        <ChoiceField
          name="side"
          label="On"
          placeholder={SIDES.both}
          options={Object.entries(SIDES).map(([id, name]) => ({ id, name }))}
        />
      )}
      <ChoiceField
        name="untagged"
        label="Untagged network"
        options={here.map((n) => ({ id: n.name, name: n.name, note: `VLAN ${n.vlan}` }))}
        placeholder={here.length > 0 ? 'None' : 'This rack carries no network'}
      />
      <LinesField name="tagged" label="Tagged networks, one a line" lines={2} placeholder="tide-model" />
      <DriveFields rack={number} port={String(part.rhf.watch('port') ?? '') || free} />
    </Form>
  );
}
