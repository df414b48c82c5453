import { portsOnSwitches, type Edit, type LinkStand, type PortEnd } from '@anthemion/core';
import { useMemo } from 'react';
import { styled } from 'styled-components';
import { toast } from 'sonner';
import { problemOf } from '../../app/api.ts';
import { benchApi } from '../../app/benchApi.ts';
import { useMay } from '../../app/session.ts';
import { useEdits } from '../../app/useEdits.ts';
import { watchApi } from '../../app/watchApi.ts';
import { Button, Cap, Faded, Mono, Note, Row } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { linkMood } from '../../parts/moods.ts';
import { PortWords, portText } from '../../parts/PortWords.tsx';
import { fullness, StateMark } from '../../parts/StateMark.tsx';
import { ago } from '../../parts/times.ts';
import { FabricPage, useFabricView } from './FabricFrame.tsx';
import { layoutOf } from '../../app/layoutOf.ts';

/** An end, and what its switch calls the port. */
interface NamedEnd extends PortEnd {
  readonly name: string;
}
interface CableRow {
  readonly id: string;
  readonly a: NamedEnd;
  readonly b: NamedEnd;
  /** What it is for. */
  readonly kind: string;
  /** Null = its far end is not ours to read. */
  readonly stand: LinkStand | null;
  /** Is it meant to be shut? */
  readonly shut: boolean;
  readonly aSees: PortEnd | null;
  readonly bSees: PortEnd | null;
}
const STAND_WORDS: Readonly<Record<LinkStand, string>> = {
  up: 'as planned',
  'no signal': 'no signal',
  'not seen': 'nobody seen',
  miscabled: 'miscabled',
  shut: 'port shut',
  'at rest': 'shut, as planned',
  unread: 'unread',
  out: 'not judged',
};
const isAsPlanned = ({ stand, shut }: CableRow): boolean => stand === (shut ? 'at rest' : 'up');
const standWords = ({ stand, shut }: CableRow): string => {
  if (stand === null) return 'not ours to read';
  if (shut === (stand === 'at rest')) return STAND_WORDS[stand];
  // The open change says otherwise.
  return `${shut ? 'to be shut' : 'to be opened'}, now ${stand}`;
};
const sees = (end: PortEnd, far: PortEnd | null): string =>
  `${end.host} sees ${far === null ? 'nobody' : `${far.host} ${far.port}`}`;

/** The cabling plan both ends can be worked from, beside the neighbours the switches really see. */
export function Cables() {
  const { fabric, change, live } = useFabricView();
  const { data: bench } = benchApi.useBenchQuery();
  const [cable, cabling] = benchApi.useCableBenchMutation();
  const [pull, pulling] = benchApi.usePullCableMutation();
  const [swap] = benchApi.useSwapCablesMutation();
  const [read, reading] = watchApi.useReadFabricMutation();
  const may = useMay('operator');
  const mayDesign = useMay('designer');
  const makeEdits = useEdits(fabric.name);
  const rows = useMemo(() => {
    const layout = layoutOf(fabric.intent);
    const known = new Map((live?.links.others ?? []).map((l) => [l.id, l]));
    const portOf = portsOnSwitches(fabric.intent.models, layout);
    const named = (host: string, port: string): NamedEnd => ({ host, port, name: portOf({ host, port }) });
    const host = (seat: string): string => layout.seatById.get(seat)!.host;
    const seatsRead = new Set((live?.seats ?? []).map((s) => s.host));
    const outward = layout.outward.map((o): CableRow => ({
      id: o.id,
      kind: o.kind === 'site' ? 'other site' : o.kind,
      a: named(host(o.a.seat), o.a.port),
      b: named(o.far.name, o.far.port),
      stand: null,
      shut: false,
      aSees: null,
      bSees: null,
    }));
    const within = layout.links.map((l): CableRow => {
      const [a, b] = [named(host(l.a.seat), l.a.port), named(host(l.b.seat), l.b.port)];
      const other = known.get(l.id);
      // A link the live revision does not have yet was not looked at.
      const planned = seatsRead.has(a.host) && seatsRead.has(b.host);
      return {
        id: l.id,
        kind: l.kind,
        a,
        b,
        shut: l.shut === true,
        stand: other?.stand ?? (planned ? 'up' : 'unread'),
        aSees: other?.aSees ?? null,
        bSees: other?.bSees ?? null,
      };
    });
    return [...within, ...outward];
  }, [fabric.intent, live]);
  const judged = rows.filter((c) => c.stand !== null);
  const right = judged.filter(isAsPlanned).length;
  const kinds = new Set(rows.map((c) => c.kind)).size > 1;
  const serialOf = new Map(fabric.seats.flatMap((s) => (s.serial === null ? [] : [[s.host, s.serial] as const])));
  const benchOf = new Map(
    (bench?.cables ?? []).flatMap((c) => [
      [`${c.a.serial} ${c.a.port}`, c] as const,
      [`${c.b.serial} ${c.b.port}`, c] as const,
    ]),
  );
  const onBench = (c: CableRow) => benchOf.get(`${serialOf.get(c.a.host) ?? ''} ${c.a.name}`);
  const togglePlug = async (c: CableRow, pulled: boolean): Promise<void> => {
    const result = await pull({ serial: serialOf.get(c.a.host)!, port: c.a.name, pulled });
    if ('error' in result) toast.error(problemOf(result.error).detail);
  };
  const swapFarEnds = async ([one, two]: readonly CableRow[]): Promise<void> => {
    const end = (c: CableRow) => ({ serial: serialOf.get(c.a.host)!, port: c.a.name });
    const result = await swap({ a: end(one!), b: end(two!) });
    if ('error' in result) toast.error(problemOf(result.error).detail);
    else toast.success('Their far ends have changed places on the bench. The next reading finds it.');
  };
  const onTheBench = may && benchOf.size > 0;
  /** Links between switches; what leads outside is shut on its own page. */
  const within = new Set(rows.flatMap((c) => (c.stand === null ? [] : c.id)));
  const turned = (picked: readonly CableRow[], shut: boolean): Edit[] =>
    picked
      .filter((c) => within.has(c.id) && c.shut !== shut)
      .map(({ id }): Edit => ({ kind: shut ? 'shutLink' : 'openLink', link: id }));
  const portCell = (end: 'a' | 'b') => (c: CableRow) => <PortWords label={c[end].port} name={c[end].name} />;
  const twoNames = rows.some((c) => c.a.name !== c.a.port || c.b.name !== c.b.port);
  const portWidth = twoNames ? '13%' : '9%';
  const columns: TableColumn<CableRow>[] = [
    { id: 'from', title: 'From', text: (c) => c.a.host, cell: (c) => <Mono>{c.a.host}</Mono>, width: '15%' },
    { id: 'fromPort', title: 'Port', text: (c) => portText(c.a.port, c.a.name), cell: portCell('a'), width: portWidth },
    { id: 'to', title: 'To', text: (c) => c.b.host, cell: (c) => <Mono>{c.b.host}</Mono>, width: '15%' },
    { id: 'toPort', title: 'Port', text: (c) => portText(c.b.port, c.b.name), cell: portCell('b'), width: portWidth },
    ...(kinds
      ? [{ id: 'kind', title: 'For', text: (c: CableRow) => c.kind, width: '11%' } satisfies TableColumn<CableRow>]
      : []),
    {
      id: 'state',
      title: 'Seen',
      text: standWords,
      width: '16%',
      cell: (c) =>
        c.stand === null ? (
          <Faded>not ours to read</Faded>
        ) : (
          <Row $gap={6}>
            <StateMark mood={linkMood[c.stand]} size={14} /> {standWords(c)}
          </Row>
        ),
    },
    {
      id: 'sees',
      title: 'The switches see',
      text: (c) => (c.stand === 'up' || c.stand === null ? '' : `${sees(c.a, c.aSees)}; ${sees(c.b, c.bSees)}`),
      cell: (c) =>
        c.stand === 'miscabled' ? (
          <Mono>{`${sees(c.a, c.aSees)}; ${sees(c.b, c.bSees)}`}</Mono>
        ) : c.stand === 'no signal' || c.stand === 'not seen' ? (
          <Faded>neither end sees a neighbour</Faded>
        ) : (
          ''
        ),
      width: '20%',
    },
    ...(may && benchOf.size > 0
      ? [
          {
            id: 'bench',
            title: 'Bench',
            text: (c: CableRow) => (onBench(c)?.pulled ? 'pulled' : ''),
            cell: (c: CableRow) => {
              const found = onBench(c);
              return found ? (
                <SmallButton
                  isDisabled={pulling.isLoading}
                  aria-label={`${found.pulled ? 'Plug in' : 'Pull'} ${c.a.host} ${c.a.port}`}
                  onPress={() => void togglePlug(c, !found.pulled)}
                >
                  {found.pulled ? 'Plug in' : 'Pull'}
                </SmallButton>
              ) : (
                ''
              );
            },
            width: '10%',
          },
        ]
      : []),
  ];
  const seated = fabric.seats.some((s) => s.serial !== null);
  // Routers outside are nobody's to read: the bench gets what they are expected to run whenever it is asked to.
  const asked = right < judged.length || (fabric.intent?.neighbours.length ?? 0) > 0;
  const spare = (bench?.switches.length ?? 0) > 0 && may && seated && asked;
  const cableBench = async (): Promise<void> => {
    const result = await cable({ fabric: fabric.name, change });
    if ('error' in result) toast.error(problemOf(result.error).detail);
    else {
      toast.success(`${result.data.cabled} cables plugged on the bench, as planned`);
      void lookAgain();
    }
  };
  const lookAgain = async (): Promise<void> => {
    const result = await read({ name: fabric.name, change });
    if ('error' in result) toast.error(problemOf(result.error).detail);
  };
  const tangles = (live?.causes ?? []).filter((c) => c.kind === 'miscabled');
  const unread = (live?.seats ?? []).filter((s) => s.serial !== null && s.health === 'unread');
  return (
    <FabricPage flush>
      {unread.length > 0 && (
        <Note $tone="wait" style={{ marginTop: 10 }}>
          {unread.length} {unread.length === 1 ? 'switch is' : 'switches are'} unread:{' '}
          {unread
            .slice(0, 3)
            .map((s) => `${s.host}: ${s.why ?? ''}`)
            .join('; ')}
        </Note>
      )}
      {tangles.map((c) => (
        <Note key={c.key} $tone="bad" style={{ marginTop: 10 }}>
          <b>{c.title}.</b> Mended by {c.moves.length} {c.moves.length === 1 ? 'plug' : 'plugs'}:{' '}
          {c.moves
            .map(
              (m) =>
                `at ${m.from.host} from ${m.from.port} to ${m.to.host === m.from.host ? m.to.port : `${m.to.host} ${m.to.port}`}`,
            )
            .join('; ')}
        </Note>
      ))}
      <DataTable<CableRow>
        label="Cables"
        rows={rows}
        columns={columns}
        rowKey={(c) => c.id}
        fileName={`${fabric.name}-cables`}
        {...(mayDesign || onTheBench
          ? {
              bulk: (picked, done) => {
                const plugged = picked.filter((c) => onBench(c) !== undefined);
                const each = async (pulled: boolean): Promise<void> => {
                  for (const c of plugged) await togglePlug(c, pulled);
                  done();
                };
                return (
                  <>
                    {mayDesign && (
                      <>
                        {[true, false].map((shut) => {
                          const edits = turned(picked, shut);
                          return (
                            <Button
                              key={String(shut)}
                              isDisabled={edits.length === 0}
                              onPress={() => void makeEdits(edits).then(done)}
                            >
                              {shut ? 'Shut' : 'Open'} {edits.length}
                            </Button>
                          );
                        })}
                      </>
                    )}
                    {onTheBench && (
                      <>
                        <Button
                          isDisabled={picked.length !== 2 || plugged.length !== 2}
                          onPress={() => void swapFarEnds(picked).then(done)}
                        >
                          Swap the far ends of two
                        </Button>
                        <Button onPress={() => void each(true)}>Pull {plugged.length}</Button>
                        <Button onPress={() => void each(false)}>Plug in {plugged.length}</Button>
                      </>
                    )}
                  </>
                );
              },
            }
          : {})}
        actions={
          <Row>
            {live?.readAt && <StateMark {...fullness(right, judged.length)} size={16} />}
            <span>
              {reading.isLoading
                ? 'asking the switches …'
                : live?.readAt
                  ? `${right} of ${judged.length} as planned, read ${ago(live.readAt)}`
                  : `${rows.length} planned`}
            </span>
            {spare && (
              <Button onPress={() => void cableBench()} isDisabled={cabling.isLoading}>
                Cable the bench by this plan
              </Button>
            )}
            {seated && (
              <Button onPress={() => void lookAgain()} isDisabled={reading.isLoading}>
                Look again
              </Button>
            )}
          </Row>
        }
        empty={
          <div style={{ padding: 20 }}>
            <Cap>No cables yet</Cap> <Faded>The plan appears when the fabric is laid out.</Faded>
          </div>
        }
      />
    </FabricPage>
  );
}
const SmallButton = styled(Button)`
  padding: 1px 9px;
`;
