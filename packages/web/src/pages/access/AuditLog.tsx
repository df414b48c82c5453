import { ROUTES, type AuditEntry, type RouteName } from '@anthemion/contract';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { styled } from 'styled-components';
import { accessApi } from '../../app/accessApi.ts';
import { problemOf } from '../../app/api.ts';
import { token } from '../../parts/theme.ts';
import { Button, Cap, Copyable, Empty, Facts, Failure, H3, Mono, Note, Row, Waiting } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { StateMark, type Mood } from '../../parts/StateMark.tsx';
import { dated } from '../../parts/times.ts';
import { useSave } from '../../app/useSave.ts';
import { AccessPage } from './AccessPage.tsx';

const moodOf = (e: AuditEntry): Mood =>
  e.outcome === 'done'
    ? 'bloom'
    : /^(refused|failed)/.test(e.outcome)
      ? 'fallen'
      : e.endedAt === null && e.account !== 'server'
        ? 'dewed'
        : 'bloom';

/** What was asked, in words; what the server did by itself has its own. */
const askedOf = (e: AuditEntry): string =>
  Object.hasOwn(ROUTES, e.action) ? ROUTES[e.action as RouteName].summary.split(';')[0]! : e.action;

/** The fields that were kept of the body, in words: `name jonah, days 30`. */
function detailOf(e: AuditEntry): string {
  try {
    return Object.entries(JSON.parse(e.detail || '{}') as Record<string, unknown>)
      .filter(([, v]) => v !== null && JSON.stringify(v) !== '[]' && JSON.stringify(v) !== '{}')
      .map(([k, v]) => `${k} ${typeof v === 'object' ? JSON.stringify(v) : String(v)}`)
      .join(', ');
  } catch {
    return e.detail;
  }
}
const aboutOf = (e: AuditEntry): string => [e.fabric, e.subject, detailOf(e)].filter((t) => t !== '').join(' · ');

const COLUMNS: TableColumn<AuditEntry>[] = [
  { id: 'n', title: 'No', text: (e) => e.n, width: '6%' },
  { id: 'at', title: 'When', text: (e) => e.at, cell: (e) => dated(e.at), width: '20%' },
  { id: 'who', title: 'Who', text: (e) => e.account || 'nobody', width: '8%' },
  { id: 'address', title: 'From', text: (e) => e.address, cell: (e) => <Mono>{e.address}</Mono>, width: '10%' },
  {
    id: 'action',
    title: 'Asked',
    text: askedOf,
    cell: (e) => <span title={`${askedOf(e)} (${e.action})`}>{askedOf(e)}</span>,
    width: '22%',
  },
  {
    id: 'subject',
    title: 'About',
    text: aboutOf,
    cell: (e) => <span title={aboutOf(e)}>{aboutOf(e)}</span>,
    width: '20%',
  },
  {
    id: 'outcome',
    title: 'Outcome',
    text: (e) => e.outcome,
    cell: (e) => (
      <Row $gap={6}>
        <StateMark mood={moodOf(e)} size={12} /> {e.outcome}
      </Row>
    ),
  },
];
const NARROWED = ['account', 'fabric', 'text', 'from', 'to'] as const;
const LABELS: Readonly<Record<(typeof NARROWED)[number], string>> = {
  account: 'Who',
  fabric: 'Fabric',
  text: 'Words',
  from: 'From day, UTC',
  to: 'Up to and with, UTC',
};

/** Who did what to what, from where, and how it ended. The log is only ever added to. */
export function AuditLog() {
  const [params, setParams] = useSearchParams();
  const asked = Object.fromEntries(
    NARROWED.flatMap((key) => {
      const value = params.get(key) ?? '';
      // The log is asked up to a moment; people mean the whole of the last day.
      return value === '' ? [] : [[key, key === 'to' ? `${value}T23:59:59.999Z` : value]];
    }),
  );
  const [marks, setMarks] = useState<readonly string[]>([]);
  const after = marks.at(-1);
  const log = accessApi.useAuditQuery({ ...asked, limit: '200', ...(after === undefined ? {} : { after }) });
  const [check, { isLoading: checking }] = accessApi.useCheckAuditMutation();
  const [whole, setWhole] = useState<string | null>(null);
  const { save } = useSave();
  const picked = log.data?.entries.find((e) => String(e.n) === params.get('at'));
  const set = (key: string, value: string): void => {
    const next = new URLSearchParams(params);
    if (value === '') next.delete(key);
    else next.set(key, value);
    if (key !== 'at') {
      next.delete('at');
      setMarks([]);
    }
    setParams(next, { replace: true });
  };
  const walk = async (): Promise<void> => {
    const done = await save(check(), '');
    if (done)
      setWhole(
        done.data.brokenAt === null
          ? `All ${done.data.entries} entries are as they were written.`
          : `Entry ${done.data.brokenAt} is not as it was written: somebody has worked on the file. Compare with an export or a back-up.`,
      );
  };
  return (
    <AccessPage
      title="Audit log"
      sub={whole ?? 'who did what, from where; only ever added to'}
      actions={
        <Row>
          <Button onPress={() => void walk()} isDisabled={checking}>
            {checking ? 'Walking it …' : 'Check the chain'}
          </Button>
          <ExportLink href="/api/audit/export" download="audit.ndjson">
            Export all
          </ExportLink>
        </Row>
      }
      aside={picked && <EntryNotes e={picked} />}
    >
      <Search role="search" aria-label="Narrow the log">
        {NARROWED.map((key) => (
          <label key={key}>
            {LABELS[key]}
            <input
              type={key === 'from' || key === 'to' ? 'date' : 'text'}
              value={params.get(key) ?? ''}
              onChange={(e) => set(key, e.target.value)}
            />
          </label>
        ))}
      </Search>
      {log.isError && <Failure detail={problemOf(log.error).detail} onRetry={() => void log.refetch()} />}
      {log.isLoading && <Waiting />}
      {log.data && (
        <DataTable
          label="Audit log"
          rows={log.data.entries}
          columns={COLUMNS}
          rowKey={(e) => String(e.n)}
          selected={params.get('at') ?? undefined}
          onSelect={(e) => set('at', String(e.n))}
          actions={
            <Row>
              <Button isDisabled={marks.length === 0} onPress={() => setMarks(marks.slice(0, -1))}>
                Newer
              </Button>
              <Button isDisabled={log.data.next === null} onPress={() => setMarks([...marks, log.data!.next!])}>
                Older
              </Button>
            </Row>
          }
          empty={<Empty title="Nothing matches">Take a word out of the search above.</Empty>}
        />
      )}
    </AccessPage>
  );
}

function EntryNotes({ e }: { readonly e: AuditEntry }) {
  return (
    <>
      <Cap>Entry {e.n}</Cap>
      <H3>{askedOf(e)}</H3>
      {askedOf(e) !== e.action && <Mono style={{ overflowWrap: 'anywhere' }}>{e.action}</Mono>}
      <Facts>
        <dt>When</dt>
        <dd>{dated(e.at)}</dd>
        <dt>Who</dt>
        <dd>{e.account || 'nobody was signed in'}</dd>
        <dt>By</dt>
        <dd>{e.via}</dd>
        <dt>From</dt>
        <dd>
          <Mono>{e.address || 'the server itself'}</Mono>
        </dd>
        {e.fabric !== '' && (
          <>
            <dt>Fabric</dt>
            <dd>{e.fabric}</dd>
          </>
        )}
        {e.subject !== '' && (
          <>
            <dt>About</dt>
            <dd>{e.subject}</dd>
          </>
        )}
        {e.endedAt !== null && (
          <>
            <dt>Ended</dt>
            <dd>{dated(e.endedAt)}</dd>
          </>
        )}
      </Facts>
      <Note $tone={moodOf(e) === 'fallen' ? 'bad' : moodOf(e) === 'dewed' ? 'wait' : 'good'}>{e.outcome}</Note>
      {e.detail !== '' && <Mono style={{ overflowWrap: 'anywhere', whiteSpace: 'pre-wrap' }}>{e.detail}</Mono>}
      <Cap>Hash over it and the one before</Cap>
      <Copyable text={e.hash}>
        <Mono>{e.hash.slice(0, 16)}…</Mono>
      </Copyable>
    </>
  );
}

const ExportLink = styled.a`
  border: 1px solid ${token('rule')};
  border-radius: 4px;
  padding: 5px 12px;
  font-size: 13px;
  color: ${token('ink')};
  text-decoration: none;
  &:hover {
    background: ${token('rule-soft')};
  }
`;
const Search = styled.form`
  display: flex;
  gap: 10px;
  padding: 10px 0 0;
  flex-wrap: wrap;
  label {
    display: flex;
    flex-direction: column;
    gap: 2px;
    font-size: 12px;
    color: ${token('faded')};
  }
  input {
    border: 1px solid ${token('rule')};
    border-radius: 4px;
    background: ${token('sheet')};
    color: ${token('ink')};
    padding: 3px 8px;
    font-size: 13px;
    width: 148px;
  }
`;
