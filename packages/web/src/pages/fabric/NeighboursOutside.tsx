import {
  familyWith,
  neighbourKey,
  neighbourSchema,
  outsideKey,
  placeWords,
  problem,
  type FabricIntent,
  type OutsideNeighbour,
} from '@anthemion/core';
import { Link } from 'react-router';
import { boolean, string, type AnyObject, type ObjectSchema } from 'yup';
import { useMay } from '../../app/session.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Cap, Faded, H3, Mono } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
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
import { useFabricView, useSelection } from './FabricFrame.tsx';
import { putInPlace, removal } from './inPlace.ts';
import { usePasting } from './usePasting.tsx';

/** What stands in the address where a new neighbour is made. */
export const NEW_NEIGHBOUR = 'new-neighbour';

const DEFAULT_ROUTE = 'a default route';
const SUBNETS = 'the subnets of the tenant';

/** What goes over a session, and the route map it goes through. */
const through = (what: string, map: string | undefined) =>
  map === undefined ? (
    what
  ) : (
    <>
      {what} <Faded>by {map}</Faded>
    </>
  );

function columnsOf(intent: FabricIntent, may: boolean): TableColumn<OutsideNeighbour>[] {
  const systemOf = (n: OutsideNeighbour): string =>
    intent.outside.find((o) => outsideKey(o) === outsideKey(n))?.system ?? '';
  const mono = (text: string) => <Mono title={text}>{text}</Mono>;
  return [
    { id: 'system', title: 'Router', text: systemOf, cell: (n) => mono(systemOf(n)), width: '9%' },
    {
      id: 'far',
      title: 'Its address',
      text: (n) => n.far,
      cell: (n) => (may ? <Link to={`?at=neighbour:${neighbourKey(n)}`}>{mono(n.far)}</Link> : mono(n.far)),
      width: '17%',
    },
    { id: 'asn', title: 'AS', text: (n) => n.asn, width: '7%' },
    { id: 'vrf', title: 'VRF', text: (n) => n.vrf, width: '8%' },
    { id: 'address', title: 'Our address', text: (n) => n.address, cell: (n) => mono(n.address), width: '19%' },
    {
      id: 'link',
      title: 'On',
      text: ({ rack, side, port }) => placeWords({ rack, side, port }),
      width: '13%',
    },
    { id: 'vlan', title: 'VLAN', text: (n) => n.vlan ?? '', width: '7%' },
    // In few words here; in a file, and filtered, in those of its fields.
    {
      id: 'takes',
      title: 'Takes',
      text: (n) => n.takes.join(', ') || DEFAULT_ROUTE,
      cell: (n) => through(n.takes.join(', ') || 'default', n.mapIn),
      width: '9%',
    },
    {
      id: 'tells',
      title: 'Tells',
      text: (n) => n.tells.join(', ') || SUBNETS,
      cell: (n) => through(n.tells.join(', ') || 'subnets', n.mapOut),
      width: '9%',
    },
  ];
}

/** Routers outside that tenants speak BGP to. */
export function NeighboursOutside() {
  const { fabric } = useFabricView();
  const makeEdits = useEdits(fabric.name);
  const may = useMay('designer');
  const [, select] = useSelection();
  const pasting = usePasting('neighbours');
  const { neighbours, outside } = fabric.intent;
  return (
    <>
      <Cap style={{ marginTop: 14 }}>Neighbours outside</Cap>
      <DataTable<OutsideNeighbour>
        label="Neighbours outside"
        rows={neighbours}
        columns={columnsOf(fabric.intent, may)}
        rowKey={neighbourKey}
        fileName={`${fabric.name}-neighbours`}
        {...(may
          ? {
              onPaste: pasting.onPaste,
              bulk: (picked, done) => (
                <Button
                  $kind="danger"
                  onPress={() =>
                    void makeEdits(picked.map((item) => removal('neighbour', { key: neighbourKey(item), item }))).then(
                      done,
                    )
                  }
                >
                  Speak to {picked.length} no more
                </Button>
              ),
            }
          : {})}
        actions={
          may && outside.length > 0 && fabric.intent.vrfs.length > 0 ? (
            <Button onPress={() => select(NEW_NEIGHBOUR)}>Speak BGP</Button>
          ) : undefined
        }
        empty={
          <p>
            No tenant speaks to a router outside yet.
            {outside.length === 0 && ' Join one first.'}
          </p>
        }
      />
      {pasting.dialog}
    </>
  );
}

const SCHEMA = mayBeEmpty(
  (neighbourSchema as ObjectSchema<AnyObject>)
    .omit(['rack', 'side', 'port'])
    .shape({ link: string().required('choose a link'), bfd: boolean().default(false) }),
  'vlan',
  'limit',
  'password',
  'mapIn',
  'mapOut',
);
type Typed = Omit<OutsideNeighbour, 'rack' | 'side' | 'port' | 'vlan' | 'asn' | 'limit' | 'bfd'> & {
  readonly vlan: number | string;
  readonly bfd: boolean;
  readonly link: string;
  readonly asn: number | string;
  readonly limit: number | string;
};

/**
 * Has a tenant speak BGP to the router on an outside link or a VLAN of it, or otherwise than so far.
 * @param of the key of one that is there; null = a new one
 */
export function NeighbourForm({ of, onDone }: { readonly of: string | null; readonly onDone: () => void }) {
  const { fabric } = useFabricView();
  const { outside, neighbours, vrfs, secrets, policies } = fabric.intent;
  const maps = policies.flatMap((p) => (p.is === 'route-map' ? { id: p.name, name: p.name } : []));
  const makeEdits = useEdits(fabric.name);
  const known = neighbours.find((n) => neighbourKey(n) === of);
  const free = outside.find((o) => !neighbours.some((n) => outsideKey(n) === outsideKey(o))) ?? outside[0];
  const initial: Typed = known
    ? {
        ...known,
        link: outsideKey(known),
        vlan: known.vlan ?? '',
        limit: known.limit ?? '',
        mapIn: known.mapIn ?? '',
        mapOut: known.mapOut ?? '',
        password: known.password ?? '',
        bfd: known.bfd === true,
      }
    : {
        link: free ? outsideKey(free) : '',
        vlan: '',
        vrf: vrfs[0]?.name ?? '',
        address: '',
        far: '',
        asn: '',
        takes: [],
        tells: [],
        mapIn: '',
        mapOut: '',
        limit: '',
        password: '',
        bfd: false,
      };
  const part = useFormPart<Typed>({
    schema: SCHEMA,
    initial,
    keep: `neighbour ${of ?? 'new'} of ${fabric.name}`,
    base: '/edits/0/neighbour',
  });
  const close = (): void => {
    part.forget();
    onDone();
  };
  return (
    <Form
      part={part}
      onSend={async ({ link, vlan, vrf, address, far, asn, takes, tells, mapIn, mapOut, limit, password, bfd }) => {
        const at = outside.find((o) => outsideKey(o) === link)!;
        const neighbour: OutsideNeighbour = {
          rack: at.rack,
          side: at.side,
          port: at.port,
          ...(vlan === '' || vlan === undefined ? {} : { vlan: Number(vlan) }),
          vrf,
          address,
          far,
          asn: Number(asn),
          takes,
          tells,
          ...(mapIn ? { mapIn } : {}),
          ...(mapOut ? { mapOut } : {}),
          ...(limit === '' || limit === undefined ? {} : { limit: Number(limit) }),
          ...(password ? { password } : {}),
          ...(bfd ? { bfd } : {}),
        };
        // On another VLAN, or in the other family, it is another session.
        const key = neighbourKey(neighbour);
        const twin = neighbours.find((n) => neighbourKey(n) === key);
        const message =
          twin && `${at.system} is spoken to there already, by IPv${familyWith(twin)}: ${twin.far} in ${twin.vrf}.`;
        const refused = await putInPlace(makeEdits, {
          kind: 'neighbour',
          edit: { kind: 'putNeighbour', neighbour },
          key,
          was: known && { key: neighbourKey(known), item: known },
          taken: message
            ? problem('object-new', '/edits/0/neighbour/vlan', message, 'Change that one, or say another VLAN.')
            : undefined,
        });
        if (refused === null) close();
        return refused;
      }}
      buttons={<FormButtons yes={known ? 'Change' : 'Speak BGP'} no="Close" onNo={close} />}
    >
      <Cap>Neighbour outside</Cap>
      <H3>{known ? `Change ${known.far}` : 'Speak BGP to a router outside'}</H3>
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
      {maps.length > 0 && (
        <>
          <ChoiceField
            name="mapIn"
            label="Route map in"
            options={maps}
            none="none"
            hint="What it tells goes through it, once the prefixes above let it in"
          />
          <ChoiceField name="mapOut" label="Route map out" options={maps} none="none" />
        </>
      )}
      <TextField
        name="limit"
        label="Most prefixes"
        placeholder="no limit"
        hint="The session goes down when it tells more"
        code
      />
      <ChoiceField
        name="password"
        label="Password"
        options={secrets.map((s) => ({ id: s.name, name: s.name }))}
        none="none"
        hint={
          secrets.length === 0
            ? 'Secrets that the fabric has taken up (Text › Snippets) can be chosen here'
            : 'Both sides need the same; a new one takes the session down until the other side has it'
        }
      />
      <TickField
        name="bfd"
        label="BFD"
        hint="Both sides notice a dead link in under a second; the other side has to turn it on too"
      />
    </Form>
  );
}
