import type { BackupAnswer, FabricBetween, SwitchBetween, TextsBetween, TextSide } from '@anthemion/contract';
import { DOCUMENT_NAMES, lineCounts, plural, type Between as Said } from '@anthemion/core';
import { skipToken } from '@reduxjs/toolkit/query';
import { ArrowLeftRight } from 'lucide-react';
import { lazy, Suspense, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { api, problemOf } from '../../app/api.ts';
import { compareApi, type Moments } from '../../app/compareApi.ts';
import { Page } from '../../app/Page.tsx';
import { Bad, Cap, Empty, Failure, Faded, H3, IconButton, New, Note, Waiting } from '../../parts/basics.tsx';
import { backupWords } from '../../parts/backupWords.ts';
import { Choice, Tick, type Option } from '../../parts/fields.tsx';
import { dated, dayTime } from '../../parts/times.ts';
import { layoutOf } from '../../app/layoutOf.ts';
import { fabricCrumbs, FabricTabs, useFabricView } from './FabricFrame.tsx';
import { SwitchColumn, type SwitchLine } from './SwitchColumn.tsx';
import { Bar, Code, Columns, MomentsBar, Sentences } from './textStyles.ts';

const TextCompare = lazy(() => import('../../parts/TextCompare.tsx'));

/** A fabric at two moments: the edits between them, the switches that differ, and of each its lines and what they mean. */
export function Between() {
  const { fabric, change } = useFabricView();
  const [params, setParams] = useSearchParams();
  // What a change would mean is asked for while it is open.
  const moment = (side: string, otherwise: string): string => {
    const said = params.get(side) ?? otherwise;
    return said === 'meant' && change === null ? 'live' : said;
  };
  const left = moment('left', 'live');
  const right = moment('right', change === null ? 'running' : 'meant');
  const of = params.get('of');
  const other = params.get('with') ?? of;
  const set = (next: Readonly<Record<string, string | null>>): void => {
    const copy = new URLSearchParams(params);
    for (const [k, v] of Object.entries(next))
      if (v === null) copy.delete(k);
      else copy.set(k, v);
    setParams(copy, { replace: true });
  };
  const at = { name: fabric.name, change };
  const whole = ofAnySwitch({ left, right });
  const all = compareApi.useBetweenQuery({ ...at, ...whole });
  const one = compareApi.useTextsBetweenQuery(
    of === null || other === null ? skipToken : { ...at, left, right, seat: of, with: other },
  );
  const answer = all.currentData;
  const texts = of === null || one.isError ? undefined : one.currentData;
  const moments = useMoments(of, other);
  return (
    <Page
      title="Compare"
      sub={subOf(answer, texts)}
      crumbs={<>{fabricCrumbs(fabric.name)} › Compare</>}
      tabs={<FabricTabs />}
      flush
      asideLabel="What differs"
      aside={
        of === null
          ? answer && <EditsBetween answer={answer} />
          : texts && <Meaning key={`${of} ${other}`} texts={texts} />
      }
    >
      <MomentsBar>
        <Choice hideLabel label="From" value={left} options={moments.left} onChange={(v) => set({ left: v })} />
        {of !== null && (
          <SwitchChoice
            label="Switch"
            value={of}
            onChange={(v) => set({ of: v, with: other === of ? null : other, ...whole })}
          />
        )}
        <IconButton
          aria-label="Change sides"
          onPress={() => set({ left: right, right: left, of: other, with: other === of ? null : of })}
        >
          <ArrowLeftRight size={15} />
        </IconButton>
        <Choice hideLabel label="To" value={right} options={moments.right} onChange={(v) => set({ right: v })} />
        {other !== null && (
          <SwitchChoice
            label="With switch"
            value={other}
            onChange={(v) => set({ with: v === of ? null : v, right: whole.right })}
          />
        )}
      </MomentsBar>
      {all.isError ? (
        <Failure detail={problemOf(all.error).detail} onRetry={() => void all.refetch()} />
      ) : !answer ? (
        <Waiting what="Comparing" />
      ) : (
        <Columns>
          <SwitchColumn lines={linesOf(answer.switches, { left, right })} seat={of} />
          <Code>
            {of === null ? (
              <WholeFabric answer={answer} />
            ) : one.isError ? (
              <Failure detail={problemOf(one.error).detail} onRetry={() => void one.refetch()} />
            ) : !texts ? (
              <Waiting what="Comparing" />
            ) : (
              <Texts key={`${of} ${other}`} texts={texts} />
            )}
          </Code>
        </Columns>
      )}
    </Page>
  );
}

/** A back-up is of one switch: of others, what is live or runs stands in its place. */
const ofAnySwitch = ({ left, right }: Moments): Moments => ({
  left: left.startsWith('kept-') ? 'live' : left,
  right: right.startsWith('kept-') ? 'running' : right,
});

/** Each leads to its own comparison; where that is of other moments than the one in view, or of one, nothing is said of it. */
function linesOf(switches: readonly SwitchBetween[], moments: Moments): SwitchLine[] {
  const whole = ofAnySwitch(moments);
  const says = moments.left === whole.left && moments.right === whole.right && moments.left !== moments.right;
  return switches.map(({ seat, host, stand, added, removed }) => {
    const to = new URLSearchParams({ ...whole, of: seat });
    const note = !says ? '' : stand === 'differs' ? `+${added} −${removed}` : stand;
    return { seat, host, note, to: `?${to.toString()}` };
  });
}

function subOf(all: FabricBetween | undefined, texts: TextsBetween | undefined): string {
  if (texts) {
    const side = ({ title, at }: TextSide): string => (at === null ? title : `${title} (${dayTime(at)})`);
    const { left, right } = texts;
    if (left.host === right.host) return `${left.host}: ${side(left)} → ${side(right)}`;
    return `${left.host}, ${side(left)} → ${right.host}, ${side(right)}`;
  }
  if (!all) return '';
  const differ = all.switches.filter((s) => s.stand !== 'same').length;
  return `${all.left} → ${all.right}: ${differ === 0 ? 'no switch differs' : `${plural(differ, 'switch', 'switches')} of ${all.switches.length} ${differ === 1 ? 'differs' : 'differ'}`}`;
}

/** What can stand on each side: revisions, what is live, meant and read, and the back-ups of the switch one looks at. */
function useMoments(of: string | null, other: string | null): Readonly<Record<keyof Moments, readonly Option[]>> {
  const { fabric, change } = useFabricView();
  const { data: revisions = [] } = api.useRevisionsQuery(fabric.name);
  const serialOf = (seat: string | null) => fabric.seats.find((s) => s.seat === seat)?.serial ?? null;
  const [a, b] = [serialOf(of), serialOf(other)];
  const { currentData: left = [] } = compareApi.useBackupsQuery(a ?? skipToken);
  const { currentData: right = [] } = compareApi.useBackupsQuery(b ?? skipToken);
  const common: readonly Option[] = [
    { id: 'live', name: 'live' },
    ...(change === null ? [] : [{ id: 'meant', name: 'the open change' }]),
    { id: 'running', name: 'what runs' },
    ...revisions.map((r) => ({
      id: `revision-${r.number}`,
      name: `revision ${r.number}`,
      note: `${r.title} · ${dayTime(r.at)}`,
    })),
  ];
  const kept = (backups: readonly BackupAnswer[]): Option[] =>
    backups
      .filter((k) => k.fabric === fabric.name)
      .map((k) => ({ id: `kept-${k.id}`, name: `back-up of ${dayTime(k.at)}`, note: backupWords(k) }));
  return { left: [...common, ...kept(left)], right: [...common, ...kept(right)] };
}

function SwitchChoice({
  label,
  value,
  onChange,
}: {
  readonly label: string;
  readonly value: string;
  readonly onChange: (seat: string) => void;
}) {
  const { fabric } = useFabricView();
  const seats = layoutOf(fabric.intent).seats;
  const options = seats.map((s) => ({ id: s.id, name: s.host }));
  // A seat that is gone by now is still compared.
  if (!seats.some((s) => s.id === value)) options.unshift({ id: value, name: value });
  return <Choice hideLabel label={label} value={value} options={options} onChange={onChange} />;
}

function WholeFabric({ answer }: { readonly answer: FabricBetween }) {
  const differ = answer.switches.filter((s) => s.stand !== 'same');
  if (differ.length === 0)
    return (
      <Empty title="No switch differs">{`The texts of ${answer.left} and of ${answer.right} are the same, line for line.`}</Empty>
    );
  const count = (key: 'added' | 'removed'): number => differ.reduce((n, s) => n + s[key], 0);
  return (
    <Empty title={`${plural(differ.length, 'switch', 'switches')} of ${answer.switches.length}`}>
      {`${count('added')} lines more and ${count('removed')} lines less in ${answer.right}. Pick a switch to see them, and what they mean.`}
    </Empty>
  );
}

function EditsBetween({ answer }: { readonly answer: FabricBetween }) {
  return (
    <>
      <Cap>Intent</Cap>
      <H3>From {answer.left}</H3>
      <Faded>to {answer.right}</Faded>
      {answer.edits === null ? (
        <Note>What runs says no intent: look at a switch to see what its lines mean.</Note>
      ) : answer.edits.length === 0 ? (
        <Note>The intent is the same.</Note>
      ) : (
        <Sentences>
          {answer.edits.map((e, i) => (
            <li key={i}>{e}</li>
          ))}
        </Sentences>
      )}
    </>
  );
}

const timed = ({ title, at }: TextSide): string => (at === null ? title : `${title}, ${dated(at)}`);

function Meaning({ texts }: { readonly texts: TextsBetween }) {
  const { fabric } = useFabricView();
  const [own, setOwn] = useState(false);
  const { left, right, says } = texts;
  const ofEach = says?.filter((s) => s.own).length ?? 0;
  const shown = says?.filter((s) => own || !s.own) ?? [];
  return (
    <>
      <Cap>What it means</Cap>
      <H3>{left.host === right.host ? left.host : `${left.host} and ${right.host}`}</H3>
      <Faded>{left.title === right.title ? left.title : `${timed(left)} → ${timed(right)}`}</Faded>
      {says === null ? (
        <Note $tone="wait">
          {(left.files === null ? left : right).title} has no text of it: nothing was read, or none is kept.
        </Note>
      ) : shown.length === 0 ? (
        <Note>{ofEach > 0 ? 'Beside what each has of its own they mean the same.' : 'They mean the same.'}</Note>
      ) : (
        <Sentences>
          {shown.map((s: Said) => (
            <li key={s.words}>{s.words}</li>
          ))}
        </Sentences>
      )}
      {ofEach > 0 && <Tick label={`Also what each has of its own (${ofEach})`} value={own} onChange={setOwn} />}
      <p>
        <Link to={`/fabrics/${fabric.name}/text/${right.seat}`}>Its text, line by line</Link>
      </p>
    </>
  );
}

function Texts({ texts: { left, right } }: { readonly texts: TextsBetween }) {
  const [wanted, setFile] = useState<string | null>(null);
  const [columns, setColumns] = useState(true);
  const there = { ...left.files, ...right.files };
  const files = DOCUMENT_NAMES.filter((f) => f in there);
  const differs = (f: string): boolean => left.files?.[f] !== right.files?.[f];
  const file = wanted ?? files.find(differs) ?? files[0];
  if (file === undefined)
    return <Empty title="No text">{`Neither ${left.title} nor ${right.title} has a text of it.`}</Empty>;
  const [before, after] = [left.files?.[file] ?? '', right.files?.[file] ?? ''];
  const counts = lineCounts(before, after);
  return (
    <>
      <Bar $inset>
        <button aria-pressed={columns} onClick={() => setColumns(!columns)}>
          side by side
        </button>
        <span>
          <New>+{counts.added}</New> <Bad>−{counts.removed}</Bad>
        </span>
        <span className="files">
          {files.map((f) => (
            <button key={f} aria-pressed={file === f} onClick={() => setFile(f)}>
              {f}
              {differs(f) && ' ·'}
            </button>
          ))}
        </span>
      </Bar>
      <Suspense fallback={<Waiting what="Opening the comparison" />}>
        <TextCompare
          before={before}
          after={after}
          origins={NONE}
          sideBySide={columns}
          changed
          onLine={() => undefined}
        />
      </Suspense>
    </>
  );
}
const NONE: readonly never[] = [];
