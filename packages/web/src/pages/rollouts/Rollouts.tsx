import type { RolloutSummary } from '@anthemion/contract';
import { useNavigate } from 'react-router';
import { api, problemOf } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { Empty, Failure, Row, Waiting } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { rolloutMood } from '../../parts/moods.ts';
import { StateMark } from '../../parts/StateMark.tsx';
import { ago, spent } from '../../parts/times.ts';

const KIND: Readonly<Record<RolloutSummary['kind'], string>> = {
  send: '',
  undo: 'Back: ',
  'catch up': 'Catching up: ',
  'put back': 'Putting back: ',
};
export const sentOf = (r: RolloutSummary): { readonly good: number; readonly all: number } => ({
  good: r.counts['as meant'] ?? 0,
  all: Object.values(r.counts).reduce((n, x) => n + x, 0),
});
const COLUMNS: TableColumn<RolloutSummary>[] = [
  {
    id: 'title',
    title: 'Rollout of',
    text: (r) => r.title,
    cell: (r) => <b>{`${KIND[r.kind]}${r.title}`}</b>,
    width: '32%',
  },
  { id: 'fabric', title: 'Fabric', text: (r) => r.fabric, width: '11%' },
  {
    id: 'state',
    title: 'State',
    text: (r) => r.state,
    cell: (r) => (
      <Row $gap={6}>
        <StateMark mood={rolloutMood[r.state]} size={14} /> {r.state}
      </Row>
    ),
    width: '12%',
  },
  { id: 'switches', title: 'As meant', text: (r) => `${sentOf(r).good} of ${sentOf(r).all}`, width: '12%' },
  { id: 'author', title: 'By', text: (r) => r.author, width: '10%' },
  { id: 'when', title: 'Began', text: (r) => r.startedAt, cell: (r) => ago(r.startedAt) },
  { id: 'took', title: 'Took', text: (r) => spent(r.startedAt, r.endedAt), right: true, width: '9%' },
];

export function Rollouts() {
  const rollouts = api.useRolloutsQuery();
  const navigate = useNavigate();
  return (
    <Page title="Rollouts" sub="the act of sending, wave by wave" flush>
      {rollouts.isError && (
        <Failure detail={problemOf(rollouts.error).detail} onRetry={() => void rollouts.refetch()} />
      )}
      {rollouts.isLoading && <Waiting />}
      {rollouts.data && (
        <DataTable
          label="Rollouts"
          rows={rollouts.data}
          columns={COLUMNS}
          rowKey={(r) => r.id}
          onSelect={(r) => void navigate(`/rollouts/${r.id}`)}
          empty={
            <Empty title="Nothing was rolled out yet">
              An approved change is sent from its own page; how it goes is told here, switch by switch.
            </Empty>
          }
        />
      )}
    </Page>
  );
}
