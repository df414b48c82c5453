import {
  familyWith,
  neighbourKey,
  neighbourSchema,
  outsideKey,
  problem,
  spokenTo,
  type OutsideLink,
  type OutsideNeighbour,
} from '@anthemion/core';
import { useState } from 'react';
import { boolean, string, type AnyObject, type ObjectSchema } from 'yup';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Cap, H3 } from '../../parts/basics.tsx';
import {
  ChoiceField,
  Form,
  FormButtons,
  LinesField,
  mayBeEmpty,
  NumberField,
  TextField,
  TickField,
  useFormPart,
} from '../../parts/Form.tsx';
import { isSaid } from '../../parts/said.ts';
import { useFabricView } from './FabricFrame.tsx';
import { putInPlace } from './inPlace.ts';
import { MapFields, PasswordField } from './SessionFields.tsx';
import { sayingOf, spareOf, type Spare } from './spareFields.ts';

/** What is taken, and what is told, where nothing is said. */
export const DEFAULT_ROUTE = 'a default route';
export const SUBNETS = 'the subnets of the tenant';

/** What may be left empty, and then is not said. */
const SPARE = ['vlan', 'loopback', 'hops', 'limit', 'password', 'mapIn', 'mapOut', 'hold', 'localAs', 'ownAs'] as const;
const TICKED = ['bfd', 'originate', 'ttlSecurity', 'asOverride', 'closed'] as const;
const FIELDS = (neighbourSchema as ObjectSchema<AnyObject>).fields;
const SCHEMA = mayBeEmpty(
  (neighbourSchema as ObjectSchema<AnyObject>).omit(['rack', 'side', 'port']).shape({
    link: string().required('choose a link'),
    ...Object.fromEntries(TICKED.map((k) => [k, boolean().default(false)])),
  }),
  ...SPARE,
);
type Typed = Pick<OutsideNeighbour, 'vrf' | 'address' | 'far' | 'takes' | 'tells'> & {
  readonly link: string;
  readonly asn: number | string;
  readonly aggregates: readonly string[];
} & Spare<(typeof SPARE)[number], (typeof TICKED)[number]>;

function typedOf(n: OutsideNeighbour): Typed {
  const { rack: _, side: __, port: ___, aggregates = [], ...said } = n;
  return { ...said, link: outsideKey(n), aggregates, ...spareOf(n, SPARE, TICKED) };
}
/** Fields that are shown when they are asked for, or when something is wrong with one. */
const LESS_USED: ReadonlySet<string> = new Set([
  'loopback',
  'hops',
  'aggregates',
  'originate',
  'hold',
  'ttlSecurity',
  'localAs',
  'ownAs',
  'asOverride',
  'closed',
]);

/** What is typed, over a link; what is empty is not said, but for what is taken and told. */
const neighbourOf = ({ link: _, takes, tells, ...typed }: Typed, { rack, side, port }: OutsideLink): OutsideNeighbour =>
  ({ ...sayingOf(typed, FIELDS), rack, side, port, takes, tells }) as OutsideNeighbour;

/**
 * Has a tenant speak BGP to the router on an outside link or a VLAN of it, or otherwise than so far.
 * @param of the key of one that is there; null = a new one
 */
export function NeighbourForm({ of, onDone }: { readonly of: string | null; readonly onDone: () => void }) {
  const { fabric } = useFabricView();
  const { outside, neighbours, vrfs } = fabric.intent;
  const makeEdits = useEdits(fabric.name);
  const known = neighbours.find((n) => neighbourKey(n) === of);
  const free = outside.find((o) => !neighbours.some((n) => outsideKey(n) === outsideKey(o))) ?? outside[0];
  const [more, setMore] = useState(false);
  const initial: Typed = known
    ? typedOf(known)
    : {
        link: free ? outsideKey(free) : '',
        vrf: vrfs[0]?.name ?? '',
        address: '',
        far: '',
        asn: '',
        takes: [],
        tells: [],
        aggregates: [],
        ...spareOf({}, SPARE, TICKED),
      };
  const part = useFormPart<Typed>({
    schema: SCHEMA,
    initial,
    keep: `neighbour ${of ?? 'new'} of ${fabric.name}`,
    base: '/edits/0/neighbour',
  });
  const errors = Object.keys(part.rhf.formState.errors);
  const used = [...LESS_USED].filter((field) => isSaid(part.rhf.watch(field as keyof Typed))).length;
  return (
    <Form
      part={part}
      onEnd={onDone}
      onSend={(typed) => {
        const at = outside.find((o) => outsideKey(o) === typed.link)!;
        const neighbour = neighbourOf(typed, at);
        // On another VLAN, or in the other family, it is another session.
        return putInPlace(makeEdits, {
          kind: 'neighbour',
          edit: { kind: 'putNeighbour', neighbour },
          item: neighbour,
          keyOf: neighbourKey,
          known,
          all: neighbours,
          taken: (twin) =>
            problem(
              'object-new',
              '/edits/0/neighbour/vlan',
              `${at.system} is spoken to there already, by IPv${familyWith(twin)}: ${spokenTo(twin)} in ${twin.vrf}.`,
              'Change that one, or say another VLAN.',
            ),
        });
      }}
      buttons={<FormButtons yes={known ? 'Change' : 'Speak BGP'} no="Close" />}
    >
      <Cap>Neighbour outside</Cap>
      <H3>{known ? `Change ${spokenTo(known)}` : 'Speak BGP to a router outside'}</H3>
      <ChoiceField
        name="link"
        label="Link"
        options={outside
          .filter((o) => !known || outsideKey(o) === outsideKey(known))
          .map((o) => ({
            id: outsideKey(o),
            name: `${o.system} ${o.farPort}`,
            note: `rack ${o.rack} ${o.port} (${o.side})`,
          }))}
      />
      <NumberField
        name="vlan"
        label="VLAN"
        placeholder="untagged"
        hint="The tag that is this tenant’s on the link; others have others"
      />
      <ChoiceField name="vrf" label="VRF" options={vrfs.map((v) => ({ id: v.name, name: v.name }))} />
      <TextField
        name="address"
        label="Our address"
        placeholder="192.0.2.0/31"
        hint="Of either family; for both, a session each"
        code
        isRequired
      />
      <TextField name="far" label="Its address" placeholder="192.0.2.1" code isRequired />
      <TextField name="asn" label="Its AS number" placeholder="64701" code isRequired />
      <LinesField
        name="takes"
        label="Takes from it"
        lines={2}
        placeholder="0.0.0.0/0"
        hint={`Prefixes, each with all within it; empty = ${DEFAULT_ROUTE}`}
      />
      <LinesField
        name="tells"
        label="Tells it"
        lines={2}
        placeholder="10.32.0.0/16"
        hint={`Prefixes, each with the subnets within it, never single hosts; empty = ${SUBNETS}`}
      />
      <MapFields />
      <TextField
        name="limit"
        label="Most prefixes"
        placeholder="no limit"
        hint="The session goes down when it tells more"
        code
      />
      <PasswordField hint="Both sides need the same; a new one takes the session down until the other side has it" />
      <TickField
        name="bfd"
        label="BFD"
        hint="Both sides notice a dead link in under a second; the other side has to turn it on too"
      />
      {more || errors.some((field) => LESS_USED.has(field)) ? (
        <>
          <Cap>Less used</Cap>
          <TextField
            name="loopback"
            label="Speaks from"
            placeholder="its address on the link"
            hint="An address of its own behind the link: the leaf gets a static route to it, and speaks with it"
            code
          />
          <TextField
            name="hops"
            label="Hops to it"
            placeholder="two"
            hint="How many routers away that address is at most"
            code
          />
          <LinesField
            name="aggregates"
            label="Sums it is told"
            lines={2}
            placeholder="10.32.0.0/16"
            hint="Each in place of all within it, also for other routers this leaf speaks to in the tenant"
          />
          <TickField name="originate" label="Told a default route" hint="Whether there is one or not" />
          <TextField
            name="hold"
            label="Hold time"
            placeholder="default"
            hint="Seconds without a word after which it is gone; the smaller of both sides counts"
            code
          />
          <TickField
            name="ttlSecurity"
            label="TTL security"
            hint="Only what came over this one link is taken; the other side has to turn it on too"
          />
          <TextField
            name="localAs"
            label="AS number it sees"
            placeholder="that of the switch"
            hint="Before that of the switch; the other side has to name it"
            code
          />
          <TextField
            name="ownAs"
            label="Own AS allowed"
            placeholder="never"
            hint="How often the number of the switch may stand in a path it tells"
            code
          />
          <TickField
            name="asOverride"
            label="AS override"
            hint="Its own number stands as ours in what it is told: other sites of its number are heard of"
          />
          <TickField name="closed" label="Closed on purpose" hint="Nothing goes over it until it is opened again" />
        </>
      ) : (
        <div>
          <Button onPress={() => setMore(true)}>Less used{used > 0 ? ` (${used} said)` : ''}</Button>
        </div>
      )}
    </Form>
  );
}
