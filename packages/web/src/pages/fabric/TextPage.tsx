import { lazy, Suspense, useState } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import { DOCUMENT_NAMES, hasServers, lineCounts, type ConfigFiles, type Origin } from '@anthemion/core';
import { toast } from 'sonner';
import { api, problemOf } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { LinkButton } from '../../parts/LinkButton.tsx';
import { Bad, Button, Empty, Failure, New, Note, Row, Waiting } from '../../parts/basics.tsx';
import { ago, clock } from '../../parts/times.ts';
import { useMay } from '../../app/session.ts';
import { useCauseActs } from '../watch/useCauseActs.tsx';
import { fabricCrumbs, FabricTabs, useFabricView } from './FabricFrame.tsx';
import { OriginNotes } from './OriginNotes.tsx';
import { SnippetDialog } from './SnippetDialog.tsx';
import { SwitchList } from './SwitchList.tsx';
import { Bar, Code, Columns } from './textStyles.ts';
import { layoutOf } from '../../app/layoutOf.ts';

const TextCompare = lazy(() => import('../../parts/TextCompare.tsx'));
const SIDES = { live: 'live revision', running: 'running', meant: 'meant' } as const;
type Against = 'live' | 'running';

/** Text of every switch: live or running beside what is meant, with the origin of each line in the aside. */
export function TextPage() {
  const { fabric, change, live, stands } = useFabricView();
  const acts = useCauseActs();
  const operator = useMay('operator');
  const designer = useMay('designer');
  const [search] = useSearchParams();
  const params = useParams();
  const navigate = useNavigate();
  const [wanted, setFile] = useState<string | null>(null);
  const [against, setAgainst] = useState<Against | null>(null);
  const [columns, setColumns] = useState(false);
  const [line, setLine] = useState<number | null>(null);
  const [snippets, setSnippets] = useState(false);
  const [read, reading] = api.useReadSwitchMutation();
  const seats = layoutOf(fabric.intent).seats;
  const named = search.get('host');
  const seat =
    params['seat'] ??
    (named === null ? undefined : seats.find((s) => s.host === named)?.id) ??
    seats.find(hasServers)?.id ??
    seats[0]?.id;
  const text = api.useTextQuery({ name: fabric.name, change, seat: seat ?? '' }, { skip: seat === undefined });
  if (seat === undefined)
    return (
      <Page title="Text" crumbs={fabricCrumbs(fabric.name)} tabs={<FabricTabs />}>
        <Empty title="No text yet">
          Text is rendered for every seat as soon as the fabric is laid out and its values are drawn.
        </Empty>
      </Page>
    );
  const data = text.data;
  const left: Against = against ?? (change ? 'live' : 'running');
  const old = (data?.[left] ?? null) as ConfigFiles | null;
  // The file that differs is shown first.
  const there = { ...old, ...data?.meant };
  const files = DOCUMENT_NAMES.filter((f) => f in there);
  const file =
    wanted ?? files.find((f) => old !== null && data?.meant != null && old[f] !== data.meant[f]) ?? files[0] ?? '';
  const before = old?.[file] ?? '';
  const meant = data?.meant?.[file] ?? '';
  const counts = lineCounts(before, meant);
  const origin: Origin | null = line === null ? null : (data?.origins[file]?.[line - 1] ?? null);
  const lineText = line === null ? '' : (meant.split('\n')[line - 1] ?? '').trim();
  const sameValue = origin?.value
    ? Object.entries(data?.origins ?? {}).flatMap(([f, os]) =>
        os.map((o, i) => ({ f, i, o })).filter((x) => x.o?.value?.key === origin.value!.key),
      ).length
    : 0;
  const here = seats.find((s) => s.id === seat)!;
  const stand = stands.get(seat);
  const cause = live?.causes.find((c) => c.kind === 'edited' && c.hosts.includes(here?.host));
  const readNow = async (): Promise<void> => {
    if (!data?.serial) return;
    const result = await read(data.serial);
    if ('error' in result) toast.error(problemOf(result.error).detail);
  };
  return (
    <Page
      title={here?.host ?? seat}
      sub={`seat ${seat} · ${here?.model ?? ''}${data?.dialect ? ` · ${data.dialect} dialect` : ''}${data?.readAt ? ` · read ${ago(data.readAt)}` : ' · never read'}`}
      crumbs={<>{fabricCrumbs(fabric.name)} › Text</>}
      tabs={<FabricTabs />}
      flush
      actions={
        <Row>
          <Button onPress={() => setSnippets(true)}>
            Snippets{fabric.intent.snippets.length > 0 ? ` (${fabric.intent.snippets.length})` : ''}
          </Button>
          <LinkButton to={`/fabrics/${fabric.name}/between?left=${left}&right=${change ? 'meant' : 'live'}&of=${seat}`}>
            Compare …
          </LinkButton>
          {data?.serial && (
            <Button onPress={() => void readNow()} isDisabled={reading.isLoading}>
              {reading.isLoading ? 'Reading …' : 'Read now'}
            </Button>
          )}
        </Row>
      }
      asideLabel="Origin of the line"
      aside={
        <OriginNotes
          fabric={fabric}
          dialect={data?.dialect ?? null}
          file={file}
          line={line}
          text={lineText}
          origin={origin}
          sameValue={sameValue}
        />
      }
    >
      {stand?.health === 'drifted' && (
        <Note $tone="bad" style={{ marginTop: 10, display: 'flex', gap: 12, alignItems: 'center' }}>
          <span style={{ flex: 1 }}>
            <b>Edited by hand</b>
            {cause && `, since ${clock(cause.since)}`}: {stand.byHand.slice(0, 3).join('; ')}
            {stand.byHand.length > 3 && ` and ${stand.byHand.length - 3} more`}
          </span>
          {cause && operator && (
            <Button $kind="main" onPress={() => acts.putBack([cause])}>
              Put back
            </Button>
          )}
          {cause && designer && <Button onPress={() => acts.adopt([cause])}>Adopt</Button>}
        </Note>
      )}
      {stand?.health === 'unread' && stand.serial !== null && (
        <Note $tone="wait" style={{ marginTop: 10 }}>
          Unread: {stand.why}
        </Note>
      )}
      {acts.dialogs}
      <Bar>
        <span>
          Compare{' '}
          {(['live', 'running'] as const).map((s) => (
            <button key={s} aria-pressed={left === s} onClick={() => setAgainst(s)}>
              {SIDES[s]}
            </button>
          ))}{' '}
          with <b>meant</b>
        </span>
        <button aria-pressed={columns} onClick={() => setColumns(!columns)}>
          side by side
        </button>
        <span>
          <New>+{counts.added}</New> <Bad>−{counts.removed}</Bad>
        </span>
        <span className="files">
          {files.map((f) => (
            <button key={f} aria-pressed={file === f} onClick={() => (setFile(f), setLine(null))}>
              {f}
            </button>
          ))}
        </span>
      </Bar>
      <Columns>
        <SwitchList seats={seats} seat={seat} onGo={() => setLine(null)} />
        <Code>
          {text.isError ? (
            <Failure detail={problemOf(text.error).detail} onRetry={() => void text.refetch()} />
          ) : !data ? (
            <Waiting what="Rendering" />
          ) : data.meant === null ? (
            <Empty
              title="Its values are not drawn yet"
              action={<Button onPress={() => void navigate(`/fabrics/${fabric.name}/values`)}>To the values</Button>}
            >
              Text is rendered when every value of the seat is drawn.
            </Empty>
          ) : (
            <Suspense fallback={<Waiting what="Opening the comparison" />}>
              <TextCompare
                before={before}
                after={meant}
                origins={data.origins[file] ?? []}
                sideBySide={columns && old !== null}
                changed={old !== null}
                onLine={setLine}
              />
            </Suspense>
          )}
        </Code>
      </Columns>
      <SnippetDialog isOpen={snippets} onClose={() => setSnippets(false)} />
    </Page>
  );
}
