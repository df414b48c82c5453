import { problem, racksOf, racksText, racksWords, routeKey, routeSchema, type TenantRoute } from '@anthemion/core';
import { Link } from 'react-router';
import { string, type AnyObject, type ObjectSchema } from 'yup';
import { useMay } from '../../../app/session.ts';
import { useEdits } from '../../../app/useEdits.ts';
import { Button, Cap, Empty, H3, Mono } from '../../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../../parts/DataTable.tsx';
import { ChoiceField, Form, FormButtons, mayBeEmpty, TextField, useFormPart } from '../../../parts/Form.tsx';
import { useFabricView, useSelection } from '../FabricFrame.tsx';
import { putInPlace } from '../inPlace.ts';
import { useObjectRows } from '../useObjectRows.tsx';

/** What stands in the address where a new route is made. */
export const NEW_ROUTE = 'new-route';
const DROPPED = 'dropped';

const columnsOf = (may: boolean, routes: readonly TenantRoute[]): TableColumn<TenantRoute>[] => {
  const prefix = (r: TenantRoute) => <Mono>{r.prefix}</Mono>;
  return [
    {
      id: 'prefix',
      title: 'Prefix',
      text: (r) => r.prefix,
      cell: may ? (r) => <Link to={`?at=${encodeURIComponent(`route:${routeKey(r)}`)}`}>{prefix(r)}</Link> : prefix,
    },
    { id: 'vrf', title: 'VRF', text: (r) => r.vrf, width: '16%' },
    {
      id: 'via',
      title: 'Next hop',
      text: (r) => r.via ?? DROPPED,
      cell: (r) => (r.via === undefined ? DROPPED : <Mono>{r.via}</Mono>),
    },
    { id: 'racks', title: 'On racks', text: (r) => racksText(r.racks), width: '18%' },
    { id: 'distance', title: 'Distance', text: (r) => r.distance ?? 1, width: '12%' },
    // Where none is, nobody asks.
    ...(routes.some((r) => r.tag !== undefined)
      ? [{ id: 'tag', title: 'Tag', text: (r: TenantRoute) => r.tag ?? '', width: '10%' }]
      : []),
  ];
};

/** Static routes of tenants: said by the leaves of some racks, told by them to all others. */
export function StaticRoutes() {
  const { fabric } = useFabricView();
  const may = useMay('designer');
  const [, select] = useSelection();
  const rows = useObjectRows<TenantRoute>({
    table: 'routes',
    kind: 'route',
    keyOf: routeKey,
    away: (n) => `Remove ${n}`,
  });
  const { routes, vrfs } = fabric.intent;
  const add =
    may && vrfs.length > 0 ? <Button onPress={() => select(NEW_ROUTE)}>Add a static route</Button> : undefined;
  return (
    <>
      <DataTable<TenantRoute>
        label="Static routes"
        rows={routes}
        columns={columnsOf(may, routes)}
        rowKey={routeKey}
        fileName={`${fabric.name}-static-routes`}
        {...rows.does}
        actions={routes.length > 0 ? add : undefined}
        empty={
          <Empty title="No static routes yet" {...(add ? { action: add } : {})}>
            One by a firewall or a router in a network of the tenant is said by the leaves of the racks that carry the
            network; all other leaves hear of it.{vrfs.length === 0 && ' Add a VRF under Tenants first.'}
          </Empty>
        }
      />
      {rows.dialog}
    </>
  );
}

const SCHEMA = mayBeEmpty(
  (routeSchema as ObjectSchema<AnyObject>).omit(['racks']).shape({
    racks: string()
      .required('the racks are missing')
      .test('racks', 'racks are written 1-3, 7', (v) => v === undefined || racksOf(v) !== null),
  }),
  'via',
  'distance',
  'tag',
);
interface Typed {
  readonly vrf: string;
  readonly prefix: string;
  readonly via: string;
  readonly racks: string;
  readonly distance: number | string;
  readonly tag: number | string;
}

/**
 * Adds a static route of a tenant, or says it otherwise.
 * @param of the key of one that is there; null = a new one
 */
export function RouteForm({ of, onDone }: { readonly of: string | null; readonly onDone: () => void }) {
  const { fabric } = useFabricView();
  const { routes, vrfs } = fabric.intent;
  const makeEdits = useEdits(fabric.name);
  const known = routes.find((r) => routeKey(r) === of);
  const part = useFormPart<Typed>({
    schema: SCHEMA,
    initial: {
      vrf: known?.vrf ?? vrfs[0]?.name ?? '',
      prefix: known?.prefix ?? '',
      via: known?.via ?? '',
      racks: known ? racksText(known.racks) : '',
      distance: known?.distance ?? '',
      tag: known?.tag ?? '',
    },
    keep: `route ${of ?? 'new'} of ${fabric.name}`,
    base: '/edits/0/route',
  });
  return (
    <Form
      part={part}
      onEnd={onDone}
      onSend={({ vrf, prefix, via, racks, distance, tag }) => {
        const route: TenantRoute = {
          vrf,
          prefix,
          ...(via ? { via } : {}),
          racks: racksOf(racks) ?? [],
          ...(distance === '' || distance === undefined ? {} : { distance: Number(distance) }),
          ...(tag === '' || tag === undefined ? {} : { tag: Number(tag) }),
        };
        return putInPlace(makeEdits, {
          kind: 'route',
          edit: { kind: 'putRoute', route },
          item: route,
          keyOf: routeKey,
          known,
          all: routes,
          taken: (twin) =>
            problem(
              'object-new',
              '/edits/0/route/prefix',
              `${vrf} has that route already, on ${racksWords(twin.racks)}.`,
              'Change that one.',
            ),
        });
      }}
      buttons={<FormButtons yes={known ? 'Change' : 'Add'} no="Close" />}
    >
      <Cap>Static route</Cap>
      <H3>{known ? `Change ${known.prefix}` : 'A static route of a tenant'}</H3>
      <ChoiceField name="vrf" label="VRF" options={vrfs.map((v) => ({ id: v.name, name: v.name }))} />
      <TextField name="prefix" label="Prefix" placeholder="0.0.0.0/0" code isRequired />
      <TextField
        name="via"
        label="Next hop"
        placeholder={DROPPED}
        hint="An address in a network that those racks carry; empty = what goes there is dropped"
        code
      />
      <TextField
        name="racks"
        label="On racks"
        placeholder="1-3, 7"
        hint="Their leaves say it; all others hear it"
        isRequired
      />
      <TextField
        name="distance"
        label="Distance"
        placeholder="1"
        hint="Of two routes to one prefix the lower counts; below 20, which is that of BGP"
        code
      />
      <TextField
        name="tag"
        label="Tag"
        placeholder="none"
        hint="A number from 10 on by which a route map of the VRF knows it"
        code
      />
    </Form>
  );
}
