import type { RoutingAnswer } from '@anthemion/contract';
import type { NeighbourEnd, NeighbourRow } from '@anthemion/core';
import { useMemo, useState, type FormEvent } from 'react';
import { Link, useSearchParams } from 'react-router';
import { Button, Cap, Faded, Facts, H3, Mono, Note, Row } from '../../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../../parts/DataTable.tsx';
import { TextInput } from '../../../parts/fields.tsx';
import { StateMark, type Mood } from '../../../parts/StateMark.tsx';
import { ago } from '../../../parts/times.ts';
import { useFabricView, useSelection } from '../FabricFrame.tsx';
import { asReadIn, type AsRead } from './asRead.ts';
import { LookUpForm } from './lookUpForm.ts';

/** Names a row in the address. */
export const rowKeyOf = ({ kind, vrf, a }: NeighbourRow): string => `${kind} ${a.host} ${vrf ?? ''} ${a.peer}`;

const STAND_MOOD: Readonly<Record<NeighbourRow['stand'], Mood>> = { up: 'bloom', down: 'fallen', uncertain: 'dewed' };
const over = ({ host, peer, port }: NeighbourEnd): string => `${host} ${port ?? peer}`;
const asWords = ({ a, b }: NeighbourRow): string =>
  a.as === null ? '' : b?.as === null || b === null ? String(a.as) : `${a.as}–${b.as}`;

const columnsOf = (
  asRead: ((row: NeighbourRow) => AsRead | null) | null,
  tenants: boolean,
): readonly TableColumn<NeighbourRow>[] => [
  { id: 'one', title: 'One end', text: (r) => over(r.a), cell: (r) => <Mono>{over(r.a)}</Mono>, width: '18%' },
  {
    id: 'other',
    title: 'Other end',
    text: (r) => (r.b === null ? 'nobody' : over(r.b)),
    cell: (r) => (r.b === null ? <Faded>nobody</Faded> : <Mono>{over(r.b)}</Mono>),
    width: '20%',
  },
  { id: 'by', title: 'By', text: (r) => r.kind, width: '8%' },
  { id: 'as', title: 'AS', text: asWords, width: '14%' },
  ...(tenants ? [{ id: 'vrf', title: 'VRF', text: (r: NeighbourRow) => r.vrf ?? '', width: '8%' }] : []),
  { id: 'carries', title: 'Carries', text: (r) => r.carries.join(' '), width: '11%' },
  {
    id: 'model',
    title: 'By the model',
    text: (r) => (r.why === null ? r.stand : `${r.stand}: ${r.why}`),
    cell: (r) => (
      <Row $gap={6}>
        <StateMark mood={STAND_MOOD[r.stand]} size={14} /> {r.stand}
        {r.why !== null && <Faded>{r.why}</Faded>}
      </Row>
    ),
  },
  ...(asRead === null
    ? []
    : [
        {
          id: 'read',
          title: 'As read',
          text: (r: NeighbourRow) => asRead(r)?.words ?? '',
          cell: (r: NeighbourRow) => {
            const read = asRead(r);
            return read === null ? (
              <Faded>not read</Faded>
            ) : (
              <Row $gap={6}>
                <StateMark mood={read.mood} size={14} /> {read.words}
              </Row>
            );
          },
          width: '9%',
        },
      ]),
];

/** Of a fabric with more neighbours than are shown, those of one switch. */
function OfOne({ of, cut }: { readonly of: string | null; readonly cut: string | null }) {
  const { fabric } = useFabricView();
  const [, setParams] = useSearchParams();
  const [typed, setTyped] = useState(of ?? '');
  const [wrong, setWrong] = useState<string | null>(null);
  const show = (e: FormEvent): void => {
    e.preventDefault();
    const host = typed.trim();
    const known = host === '' || fabric.seats.some((s) => s.host === host);
    setWrong(known ? null : `${fabric.name} has no switch ${host}. Write its name as Seats has it.`);
    if (known) setParams(host === '' ? {} : { of: host }, { replace: true });
  };
  return (
    <LookUpForm onSubmit={show}>
      <TextInput
        label="Neighbours of"
        code
        value={typed}
        onChange={setTyped}
        placeholder="all switches"
        {...(cut === null ? {} : { hint: cut })}
        {...(wrong === null ? {} : { error: wrong })}
      />
      <Button type="submit">Show</Button>
    </LookUpForm>
  );
}

/**
 * Everybody who speaks BGP or OSPF with whom, by the model and as read.
 * @param of of this switch alone; null = of all
 */
export function Neighbours({
  routing: { neighbours, counts },
  of,
}: {
  readonly routing: RoutingAnswer;
  readonly of: string | null;
}) {
  const { fabric, change, live } = useFabricView();
  const [at, select] = useSelection();
  // What a change would bring nobody can have read.
  const asRead = useMemo(() => (change === null && live ? asReadIn(live) : null), [change, live]);
  const all = counts.up + counts.down + counts.uncertain;
  return (
    <>
      {(of !== null || neighbours.length < all) && (
        <OfOne
          of={of}
          cut={neighbours.length < all ? `${neighbours.length} of ${all} are shown, what is wrong first.` : null}
        />
      )}
      <DataTable<NeighbourRow>
        label="Neighbours"
        rows={neighbours}
        columns={columnsOf(
          asRead,
          neighbours.some((r) => r.vrf !== null),
        )}
        rowKey={rowKeyOf}
        selected={at ?? undefined}
        onSelect={(r) => select(rowKeyOf(r))}
        fileName={`${fabric.name}-neighbours-of-routing`}
        actions={
          <Faded>
            {counts.up} of {all} up by the model
            {counts.down > 0 && `, ${counts.down} down`}
            {counts.uncertain > 0 && `, ${counts.uncertain} uncertain`}
          </Faded>
        }
        empty={<p>Nobody speaks BGP or OSPF here.</p>}
      />
    </>
  );
}

function End({ end, title }: { readonly end: NeighbourEnd; readonly title: string }) {
  const { fabric, stands } = useFabricView();
  const seat = fabric.seats.find((s) => s.host === end.host);
  const readAt = seat && stands.get(seat.seat)?.readAt;
  return (
    <>
      <Cap style={{ marginTop: 10 }}>{title}</Cap>
      <Facts>
        <dt>Switch</dt>
        <dd>
          {seat ? (
            <Link to={`/fabrics/${fabric.name}/text/${seat.seat}`}>{end.host}</Link>
          ) : (
            <Mono>{end.host}, outside</Mono>
          )}
        </dd>
        {seat && (
          <>
            <dt>Speaks with</dt>
            <dd>
              <Link to={`/fabrics/${fabric.name}/routing?of=${end.host}`}>its neighbours</Link>
            </dd>
          </>
        )}
        <dt>Knows it as</dt>
        <dd>
          <Mono>{end.peer}</Mono>
        </dd>
        {end.as !== null && (
          <>
            <dt>AS</dt>
            <dd>{end.as}</dd>
          </>
        )}
        {readAt && (
          <>
            <dt>Read</dt>
            <dd>{ago(readAt)}</dd>
          </>
        )}
      </Facts>
    </>
  );
}

/** Both ends of a row, with what is wrong. */
export function NeighbourFacts({ row }: { readonly row: NeighbourRow }) {
  return (
    <>
      <Cap>{row.kind}</Cap>
      <H3>
        {row.a.host} and {row.b?.host ?? 'nobody'}
      </H3>
      <p>
        <StateMark mood={STAND_MOOD[row.stand]} size={14} /> {row.stand} by the model
        {row.vrf !== null && `, in ${row.vrf}`}
      </p>
      {row.why !== null && <Note $tone={row.stand === 'down' ? 'bad' : 'wait'}>{row.why}</Note>}
      <End end={row.a} title="One end" />
      {row.b && <End end={row.b} title="Other end" />}
    </>
  );
}
