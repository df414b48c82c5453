import type { ChangeSummary } from '@anthemion/contract';
import { useNavigate } from 'react-router';
import { api, problemOf } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { changeOpened, useAppDispatch } from '../../app/store.ts';
import { Empty, Failure, Row, Waiting } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { changeMood } from '../../parts/moods.ts';
import { StateMark } from '../../parts/StateMark.tsx';
import { ago } from '../../parts/times.ts';

const COLUMNS: TableColumn<ChangeSummary>[] = [
  { id: 'title', title: 'Change', text: (c) => c.title, cell: (c) => <b>{c.title}</b>, width: '32%' },
  { id: 'ticket', title: 'Ticket', text: (c) => c.ticket, width: '11%' },
  { id: 'fabric', title: 'Fabric', text: (c) => c.fabric, width: '11%' },
  {
    id: 'state',
    title: 'State',
    text: (c) => c.state,
    cell: (c) => (
      <Row $gap={6}>
        <StateMark mood={changeMood[c.state]} size={14} /> {c.state}
      </Row>
    ),
    width: '14%',
  },
  { id: 'edits', title: 'Edits', text: (c) => c.edits, right: true, width: '8%' },
  { id: 'author', title: 'By', text: (c) => c.author, width: '10%' },
  { id: 'when', title: 'Touched', text: (c) => c.updatedAt, cell: (c) => ago(c.updatedAt) },
];

export function Changes() {
  const changes = api.useChangesQuery();
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  return (
    <Page
      title="Changes"
      sub={
        changes.data ? `${changes.data.filter((c) => c.state !== 'Live' && c.state !== 'Withdrawn').length} open` : ''
      }
      flush
    >
      {changes.isError && <Failure detail={problemOf(changes.error).detail} onRetry={() => void changes.refetch()} />}
      {changes.isLoading && <Waiting />}
      {changes.data && (
        <DataTable
          label="Changes"
          rows={changes.data}
          columns={COLUMNS}
          rowKey={(c) => c.id}
          onSelect={(c) => {
            if (c.state !== 'Live' && c.state !== 'Withdrawn') dispatch(changeOpened(c.id));
            void navigate(`/changes/${c.id}`);
          }}
          empty={
            <Empty title="No changes yet">
              A change is a named set of edits with a reason. The first edit on a fabric offers to open one.
            </Empty>
          }
        />
      )}
    </Page>
  );
}
