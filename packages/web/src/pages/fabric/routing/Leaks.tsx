import { leakKey, leakSchema, problem, type Edit, type FabricIntent, type Leak } from '@anthemion/core';
import { Link } from 'react-router';
import { boolean, type AnyObject, type ObjectSchema } from 'yup';
import { useMay } from '../../../app/session.ts';
import { notMade, useEdits } from '../../../app/useEdits.ts';
import { Button, Cap, Empty, Faded, H3, Mono } from '../../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../../parts/DataTable.tsx';
import { ChoiceField, Form, FormButtons, LinesField, TickField, useFormPart } from '../../../parts/Form.tsx';
import { useFabricView, useSelection } from '../FabricFrame.tsx';
import { putInPlace } from '../inPlace.ts';
import { useObjectRows } from '../useObjectRows.tsx';

/** What stands in the address where a new one is made. */
export const NEW_LEAK = 'new-leak';
const ALL = 'the subnets of its networks';

const otherWay = ({ into, from }: Leak, leaks: readonly Leak[]): Leak | undefined =>
  leaks.find((l) => l.into === from && l.from === into);

const columnsOf = (may: boolean, leaks: readonly Leak[]): TableColumn<Leak>[] => [
  {
    id: 'into',
    title: 'VRF',
    text: (l) => l.into,
    cell: may ? (l) => <Link to={`?at=${encodeURIComponent(`leak:${leakKey(l)}`)}`}>{l.into}</Link> : (l) => l.into,
    width: '18%',
  },
  { id: 'from', title: 'Has routes of', text: (l) => l.from, width: '18%' },
  {
    id: 'prefixes',
    title: 'Which',
    text: (l) => l.prefixes.join(', ') || ALL,
    cell: (l) => (l.prefixes.length === 0 ? ALL : <Mono>{l.prefixes.join(', ')}</Mono>),
  },
  {
    id: 'back',
    title: 'Answers',
    text: (l) => (otherWay(l, leaks) ? 'have a way back' : `no way back: ${l.from} has nothing of ${l.into}`),
    width: '30%',
  },
];

/** Routes that tenants have of one another, each way a row. */
export function Leaks() {
  const { fabric } = useFabricView();
  const may = useMay('designer');
  const [, select] = useSelection();
  const rows = useObjectRows<Leak>({ table: 'leaks', kind: 'leak', keyOf: leakKey, away: (n) => `Remove ${n}` });
  const { leaks, vrfs } = fabric.intent;
  const add =
    may && vrfs.length > 1 ? (
      <Button onPress={() => select(NEW_LEAK)}>Let a VRF have routes of another</Button>
    ) : undefined;
  return (
    <>
      <DataTable<Leak>
        label="Routes between VRFs"
        rows={leaks}
        columns={columnsOf(may, leaks)}
        rowKey={leakKey}
        fileName={`${fabric.name}-leaks`}
        {...rows.does}
        actions={leaks.length > 0 ? add : undefined}
        empty={
          <Empty title="No VRF has routes of another" {...(add ? { action: add } : {})}>
            Tenants are apart unless it is said here, one way or both, all or some. Every switch that carries the one
            carries the other then, and has its routes from there.
            {vrfs.length < 2 && ' It takes two VRFs: add them under Tenants first.'}
          </Empty>
        }
      />
      {rows.dialog}
    </>
  );
}

interface Typed {
  readonly into: string;
  readonly from: string;
  readonly prefixes: readonly string[];
  readonly back: boolean;
}
const SCHEMA = (leakSchema as ObjectSchema<AnyObject>).shape({ back: boolean() });

/**
 * Lets a VRF have routes of another, or others than so far.
 * @param of the key of one that is there; null = a new one
 */
export function LeakForm({ of, onDone }: { readonly of: string | null; readonly onDone: () => void }) {
  const { fabric } = useFabricView();
  const { leaks, vrfs } = fabric.intent;
  const makeEdits = useEdits(fabric.name);
  const known = leaks.find((l) => leakKey(l) === of);
  const part = useFormPart<Typed>({
    schema: SCHEMA,
    initial: {
      into: known?.into ?? vrfs[0]?.name ?? '',
      from: known?.from ?? vrfs[1]?.name ?? '',
      prefixes: known?.prefixes ?? [],
      back: !known,
    },
    keep: `leak ${of ?? 'new'} of ${fabric.name}`,
    base: '/edits/0/leak',
  });
  const [into, from] = part.rhf.watch(['into', 'from']);
  const options = vrfs.map((v) => ({ id: v.name, name: v.name }));
  return (
    <Form
      part={part}
      onEnd={onDone}
      onSend={async ({ back, ...leak }) => {
        const taken = (): ReturnType<typeof problem> =>
          problem(
            'object-new',
            '/edits/0/leak/from',
            `${leak.into} has routes of ${leak.from} already.`,
            'Change that one.',
          );
        const edit: Edit = { kind: 'putLeak', leak };
        const twin = leaks.some((l) => leakKey(l) === leakKey(leak));
        if (!known && !twin && back && !otherWay(leak, leaks))
          return notMade(
            await makeEdits(
              [edit, { kind: 'putLeak', leak: { into: leak.from, from: leak.into, prefixes: [] } }],
              true,
            ),
          );
        return putInPlace(makeEdits, { kind: 'leak', edit, item: leak, keyOf: leakKey, known, all: leaks, taken });
      }}
      buttons={<FormButtons yes={known ? 'Change' : 'Add'} no="Close" />}
    >
      <Cap>Routes between VRFs</Cap>
      <H3>{known ? `What ${known.into} has of ${known.from}` : 'A VRF has routes of another'}</H3>
      <ChoiceField name="into" label="VRF" options={options} />
      <ChoiceField name="from" label="Has routes of" options={options} />
      <LinesField
        name="prefixes"
        label="Which"
        lines={3}
        placeholder={ALL}
        hint={`Prefixes, each with the subnets within it, never single hosts; 0.0.0.0/0 is the default route alone; empty = the subnets of the networks of ${from}`}
      />
      {!known && (
        <TickField
          name="back"
          label={`${from} has the subnets of ${into} as well`}
          hint="Without a way back nothing answers"
        />
      )}
    </Form>
  );
}

/** The form of what is chosen in the address; null = it is none of these. */
export function leakForm(at: string, { leaks }: FabricIntent, onDone: () => void) {
  if (at === NEW_LEAK) return <LeakForm key={at} of={null} onDone={onDone} />;
  const of = at.startsWith(OF_LEAK) ? at.slice(OF_LEAK.length) : null;
  if (of === null) return null;
  return leaks.some((l) => leakKey(l) === of) ? (
    <LeakForm key={at} of={of} onDone={onDone} />
  ) : (
    <Faded>No VRF has these routes of another (any more).</Faded>
  );
}
const OF_LEAK = 'leak:';
