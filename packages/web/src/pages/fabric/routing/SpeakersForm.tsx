import {
  problem,
  readKnown,
  speakersKey,
  speakersSchema,
  whyNotPlugged,
  type KnownSpeaker,
  type NetworkSpeakers,
} from '@anthemion/core';
import { useState } from 'react';
import { boolean, type AnyObject, type ObjectSchema } from 'yup';
import { useEdits } from '../../../app/useEdits.ts';
import { Button, Cap, H3 } from '../../../parts/basics.tsx';
import {
  ChoiceField,
  Form,
  FormButtons,
  LinesField,
  mayBeEmpty,
  ParsedField,
  TextField,
  TickField,
  useFormPart,
} from '../../../parts/Form.tsx';
import { isSaid } from '../../../parts/said.ts';
import { useFabricView } from '../FabricFrame.tsx';
import { putInPlace } from '../inPlace.ts';
import { MapFields, PasswordField } from '../SessionFields.tsx';
import { sayingOf, spareOf, type Spare } from '../spareFields.ts';
import { NOTHING } from './Speakers.tsx';

/** What may be left empty, and then is not said. */
const SPARE = ['limit', 'password', 'mapIn', 'mapOut', 'hold'] as const;
const TICKED = ['bfd', 'originate', 'closed'] as const;
const FIELDS = (speakersSchema as ObjectSchema<AnyObject>).fields;
const SCHEMA = mayBeEmpty(
  (speakersSchema as ObjectSchema<AnyObject>).shape(
    Object.fromEntries(TICKED.map((k) => [k, boolean().default(false)])),
  ),
  ...SPARE,
);
type Typed = Pick<NetworkSpeakers, 'network' | 'from' | 'takes' | 'tells'> & {
  readonly asn: number | string;
  readonly known: readonly KnownSpeaker[];
} & Spare<(typeof SPARE)[number], (typeof TICKED)[number]>;

const typedOf = (s: NetworkSpeakers): Typed => ({ ...s, known: s.known ?? [], ...spareOf(s, SPARE, TICKED) });
/** What is typed; what is empty is not said, but for what is taken and told. */
const speakersOf = ({ takes, tells, ...typed }: Typed): NetworkSpeakers =>
  ({ ...sayingOf(typed, FIELDS), takes, tells }) as NetworkSpeakers;
/** Fields that are shown when they are asked for, or when something is wrong with one. */
const LESS_USED: readonly string[] = ['limit', 'hold', 'bfd', 'originate', 'mapIn', 'mapOut', 'closed'];

/**
 * Lets servers of a network speak BGP to its gateway, or otherwise than so far.
 * @param of the key of those that may; null = new ones
 */
export function SpeakersForm({ of, onDone }: { readonly of: string | null; readonly onDone: () => void }) {
  const { fabric } = useFabricView();
  const { intent, values } = fabric;
  const { speakers, networks } = intent;
  const makeEdits = useEdits(fabric.name);
  const routed = networks.filter((n) => n.vrf !== '');
  const known = speakers.find((s) => speakersKey(s) === of);
  const [more, setMore] = useState(false);
  const part = useFormPart<Typed>({
    schema: SCHEMA,
    initial: typedOf(
      known ??
        ({ network: routed[0]?.name ?? '', from: '', asn: '' as never, takes: [], tells: [] } as NetworkSpeakers),
    ),
    keep: `BGP servers ${of ?? 'new'} of ${fabric.name}`,
    base: '/edits/0/speakers',
  });
  const chosen = part.rhf.watch('network');
  const network = networks.find((n) => n.name === chosen);
  const subnets = ['subnet', 'subnet6'].flatMap((of) => values[`network:${chosen}/${of}`] ?? []);
  const subnet = [...subnets, ...(network?.furtherSubnets ?? [])].join(' or ') || 'Its subnet';
  const able = [...new Set(intent.ports.filter((p) => p.untagged === chosen).map((p) => p.server))].filter(
    (server) => whyNotPlugged(intent, chosen, server) === null,
  );
  const some = able.length === 0 ? 'there is none' : `${able.slice(0, 2).join(', ')}${able.length > 2 ? ' …' : ''}`;
  const errors = Object.keys(part.rhf.formState.errors);
  const used = LESS_USED.filter((field) => isSaid(part.rhf.watch(field as keyof Typed))).length;
  return (
    <Form
      part={part}
      onEnd={onDone}
      onSend={(typed) => {
        const said = speakersOf(typed);
        return putInPlace(makeEdits, {
          kind: 'speakers',
          edit: { kind: 'putSpeakers', speakers: said },
          item: said,
          keyOf: speakersKey,
          known,
          all: speakers,
          taken: () =>
            problem(
              'object-new',
              '/edits/0/speakers/from',
              `Servers of ${said.network} at ${said.from} speak already.`,
              'Change these, or say another range.',
            ),
        });
      }}
      buttons={<FormButtons yes={known ? 'Change' : 'Let them speak'} no="Close" />}
    >
      <Cap>BGP servers</Cap>
      <H3>{known ? `Change ${known.from}` : 'Servers speak BGP to their gateway'}</H3>
      <ChoiceField
        name="network"
        label="Network"
        options={routed.map((n) => ({ id: n.name, name: n.name, note: `VLAN ${n.vlan}, ${n.vrf}` }))}
      />
      <TextField
        name="from"
        label="Who may call"
        placeholder="10.40.0.0/26"
        hint={`${subnet}, or a part of it; every leaf that carries the network answers its own`}
        code
        isRequired
      />
      <TextField name="asn" label="Their AS number" placeholder="64850" code isRequired />
      <LinesField
        name="takes"
        label="They may tell"
        lines={2}
        placeholder="198.51.100.0/24"
        hint="Prefixes, each with all within it"
      />
      <LinesField
        name="tells"
        label="They are told"
        lines={2}
        placeholder={NOTHING}
        hint="Prefixes, each with the subnets within it, never single hosts; empty = nothing"
      />
      <ParsedField<readonly KnownSpeaker[]>
        name="known"
        label="Known servers"
        parse={(text) => (text.trim() === '' ? [] : (readKnown(text) ?? null))}
        show={(v) => v.map((k) => `${k.server} ${k.address}`).join('\n')}
        bad="Write server and address, one a line: node-1 10.40.0.11"
        lines={3}
        hint={`Those on one port without a tag (${some}) stand in the proof with their sessions; others may call all the same`}
        code
      />
      <PasswordField hint="Both sides need the same" />
      {more || errors.some((field) => LESS_USED.includes(field)) ? (
        <>
          <Cap>Less used</Cap>
          <TextField
            name="limit"
            label="Most prefixes"
            placeholder="no limit"
            hint="The session of a server goes down when it tells more"
            code
          />
          <TextField
            name="hold"
            label="Hold time"
            placeholder="default"
            hint="Seconds without a word after which a server is gone"
            code
          />
          <TickField
            name="bfd"
            label="BFD"
            hint="A dead server is noticed in under a second; it has to turn it on too"
          />
          <TickField name="originate" label="Told a default route" hint="Whether there is one or not" />
          <MapFields />
          <TickField name="closed" label="Closed on purpose" hint="Nobody is answered until it is opened again" />
        </>
      ) : (
        <div>
          <Button onPress={() => setMore(true)}>Less used{used > 0 ? ` (${used} said)` : ''}</Button>
        </div>
      )}
    </Form>
  );
}
