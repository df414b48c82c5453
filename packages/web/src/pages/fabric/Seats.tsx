import type { SeatState } from '@anthemion/contract';
import { isRouted, type Edit } from '@anthemion/core';
import { useMemo } from 'react';
import { Link } from 'react-router';
import { api } from '../../app/api.ts';
import { useMay } from '../../app/session.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Cap, Copyable, Faded, Facts, H3, Mono, Row } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { Choice } from '../../parts/fields.tsx';
import { healthMood, type SwitchStanding } from '../../parts/moods.ts';
import { fullness, StateMark } from '../../parts/StateMark.tsx';
import { ago } from '../../parts/times.ts';
import { DrainNotes, drainWords } from './DrainNotes.tsx';
import { FabricPage, useFabricView, useSelection } from './FabricFrame.tsx';
import { usePasting } from './usePasting.tsx';

const readWords = (at: string | null): string => (at === null ? 'never' : ago(at));

/** Which switch sits in which seat. Free switches of the right model are proposed. */
export function Seats() {
  const { fabric, stands } = useFabricView();
  const { data: inventory = [] } = api.useSwitchesQuery();
  const makeEdits = useEdits(fabric.name);
  const may = useMay('designer');
  const [at, select] = useSelection();
  const pasting = usePasting('seats');
  const taken = useMemo(
    () => new Set(fabric.seats.flatMap((s) => (s.serial === null ? [] : [s.serial]))),
    [fabric.seats],
  );
  const free = inventory.filter((s) => !taken.has(s.serial) && s.seat === null);
  const empty = fabric.seats.filter((s) => s.serial === null);
  const proposals = (): { seat: string; serial: string }[] => {
    const left = [...free];
    return empty.flatMap((seat) => {
      const i = left.findIndex((s) => s.model === seat.model);
      return i < 0 ? [] : [{ seat: seat.seat, serial: left.splice(i, 1)[0]!.serial }];
    });
  };
  /** A seat whose switch is not known yet was not read. */
  const standing = (s: SeatState): SwitchStanding => stands.get(s.seat)?.standing ?? 'unread';
  const drained = useMemo(() => new Set(fabric.intent.drained.map((d) => d.seat)), [fabric.intent]);
  /** How it is, and whether it is drained, or about to be. */
  const stateWords = (s: SeatState): string => {
    if (s.serial === null) return 'empty';
    const is = standing(s);
    const words = drainWords(drained.has(s.seat), stands.get(s.seat)?.drain ?? null);
    if (words === null || words === is) return is;
    // What is wrong with it is said first.
    return is === 'as meant' || is === 'waiting' || is === 'drained' ? words : `${is}, ${words}`;
  };
  const columns: TableColumn<SeatState>[] = [
    { id: 'seat', title: 'Seat', text: (s) => s.seat, width: '13%' },
    { id: 'host', title: 'Name on the switch', text: (s) => s.host, cell: (s) => <Mono>{s.host}</Mono>, width: '18%' },
    { id: 'model', title: 'Model', text: (s) => s.model, width: '12%' },
    {
      id: 'serial',
      title: 'Serial',
      text: (s) => s.serial ?? '',
      cell: (s) => (s.serial === null ? <Faded>empty</Faded> : <Copyable text={s.serial} />),
      width: '20%',
    },
    {
      id: 'health',
      title: 'State',
      text: stateWords,
      cell: (s) => (
        <Row $gap={6} title={stands.get(s.seat)?.why ?? ''}>
          <StateMark mood={s.serial === null ? 'bud' : healthMood[standing(s)]} size={14} /> {stateWords(s)}
        </Row>
      ),
    },
    {
      id: 'read',
      title: 'Read',
      text: (s) => stands.get(s.seat)?.readAt ?? '',
      cell: (s) => readWords(stands.get(s.seat)?.readAt ?? null),
      width: '16%',
    },
  ];
  const picked = fabric.seats.find((s) => `seat:${s.seat}` === at);
  const known = inventory.find((s) => s.serial === picked?.serial);
  return (
    <FabricPage
      flush
      asideLabel="Seat"
      aside={
        picked && (
          <>
            <Cap>Seat</Cap>
            <H3>{picked.seat}</H3>
            <Facts>
              <dt>Name</dt>
              <dd>
                <Mono>{picked.host}</Mono>
              </dd>
              <dt>Model</dt>
              <dd>{picked.model}</dd>
              <dt>Serial</dt>
              <dd>{picked.serial ?? 'empty'}</dd>
              {known && (
                <>
                  <dt>Address</dt>
                  <dd>
                    <Mono>
                      {known.address}:{known.port}
                    </Mono>
                  </dd>
                  <dt>Stands in</dt>
                  <dd>{known.location || 'unknown'}</dd>
                  <dt>Runs</dt>
                  <dd>{known.version ?? 'not read'}</dd>
                </>
              )}
            </Facts>
            {may && (
              <>
                <Choice
                  label={picked.serial === null ? 'Seat a switch' : 'Reseat with'}
                  value=""
                  onChange={(serial) => serial && void makeEdits([{ kind: 'takeSeat', seat: picked.seat, serial }])}
                  options={free
                    .filter((s) => s.model === picked.model)
                    .map((s) => ({ id: s.serial, name: s.serial, note: s.location }))}
                  placeholder={
                    free.some((s) => s.model === picked.model)
                      ? 'Choose an unseated switch …'
                      : `No unseated ${picked.model}`
                  }
                />
                {picked.serial !== null && (
                  <Button onPress={() => void makeEdits([{ kind: 'clearSeat', seat: picked.seat }])}>
                    Leave the seat empty
                  </Button>
                )}
              </>
            )}
            {isRouted(fabric.intent) && <DrainNotes key={picked.seat} seat={picked.seat} host={picked.host} />}
            <Link to={`/fabrics/${fabric.name}/text/${picked.seat}`}>Its text</Link>
          </>
        )
      }
    >
      <DataTable<SeatState>
        label="Seats"
        rows={fabric.seats}
        columns={columns}
        rowKey={(s) => s.seat}
        selected={picked?.seat}
        onSelect={(s) => select(`seat:${s.seat}`)}
        fileName={`${fabric.name}-seats`}
        {...(may
          ? {
              onPaste: pasting.onPaste,
              bulk: (picked, done) => {
                const filled = picked.filter((s) => s.serial !== null);
                const make = (edits: Edit[]): void => void makeEdits(edits).then(done);
                const turn = (kind: 'drainSeat' | 'bringBack') => {
                  const turned = picked.filter((s) => drained.has(s.seat) === (kind === 'bringBack'));
                  return (
                    turned.length > 0 && (
                      <Button onPress={() => make(turned.map(({ seat }) => ({ kind, seat })))}>
                        {kind === 'drainSeat' ? `Drain ${turned.length}` : `Bring ${turned.length} back`}
                      </Button>
                    )
                  );
                };
                return (
                  <>
                    <Button
                      isDisabled={filled.length === 0}
                      onPress={() => make(filled.map((s) => ({ kind: 'clearSeat', seat: s.seat })))}
                    >
                      Leave {filled.length} {filled.length === 1 ? 'seat' : 'seats'} empty
                    </Button>
                    {isRouted(fabric.intent) && turn('drainSeat')}
                    {turn('bringBack')}
                  </>
                );
              },
            }
          : {})}
        actions={
          <Row>
            <StateMark {...fullness(fabric.seats.length - empty.length, fabric.seats.length)} size={16} />
            <span>
              {fabric.seats.length - empty.length} of {fabric.seats.length} seats filled
            </span>
            {may && empty.length > 0 && (
              <Button
                $kind="main"
                isDisabled={proposals().length === 0}
                onPress={() => void makeEdits(proposals().map((p) => ({ kind: 'takeSeat', ...p })))}
              >
                Seat the best matches ({proposals().length})
              </Button>
            )}
          </Row>
        }
        empty={<Faded style={{ padding: 20 }}>Seats appear when the fabric is laid out.</Faded>}
      />
      {pasting.dialog}
    </FabricPage>
  );
}
