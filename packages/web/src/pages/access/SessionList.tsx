import type { SessionRow } from '@anthemion/contract';
import { accessApi } from '../../app/accessApi.ts';
import { problemOf } from '../../app/api.ts';
import { Button, Empty, Faded, Failure, Mono, Waiting } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { ago, dated } from '../../parts/times.ts';
import { useSave } from '../../app/useSave.ts';

/** A browser as it calls itself, in two words. */
const browserOf = (agent: string): string => {
  const name = /(Firefox|Edg|Chrome|Safari|curl)/.exec(agent)?.[1] ?? agent.slice(0, 24);
  const system = /(Windows|Mac OS X|Android|iPhone|Linux)/.exec(agent)?.[1];
  return `${name === 'Edg' ? 'Edge' : name}${system === undefined ? '' : ` on ${system}`}` || 'unknown';
};

/** Sessions, one's own or everybody's, each with the button that ends it. */
export function SessionList({ whose }: { readonly whose: 'own' | 'all' }) {
  const sessions = accessApi.useSessionsQuery(whose);
  const [end] = accessApi.useEndSessionMutation();
  const { save } = useSave();
  const columns: TableColumn<SessionRow>[] = [
    ...(whose === 'all' ? [{ id: 'account', title: 'Account', text: (s: SessionRow) => s.account, width: '16%' }] : []),
    {
      id: 'agent',
      title: 'With',
      text: (s) => browserOf(s.agent),
      cell: (s) => <span title={s.agent}>{browserOf(s.agent)}</span>,
      width: '18%',
    },
    { id: 'address', title: 'From', text: (s) => s.address, cell: (s) => <Mono>{s.address}</Mono>, width: '18%' },
    { id: 'began', title: 'Since', text: (s) => s.beganAt, cell: (s) => dated(s.beganAt), width: '22%' },
    { id: 'seen', title: 'Seen', text: (s) => s.seenAt, cell: (s) => ago(s.seenAt), width: '14%' },
    {
      id: 'end',
      title: 'End',
      text: (s) => (s.own ? 'this one' : ''),
      cell: (s) =>
        s.own ? (
          <Faded>this one</Faded>
        ) : (
          <Button
            aria-label={`End the session of ${s.account} from ${s.address}, begun ${dated(s.beganAt)}`}
            style={{ padding: '1px 8px' }}
            onPress={() => void save(end({ whose, id: s.id }), 'The session has ended')}
          >
            End
          </Button>
        ),
    },
  ];
  if (sessions.isError)
    return <Failure detail={problemOf(sessions.error).detail} onRetry={() => void sessions.refetch()} />;
  if (!sessions.data) return <Waiting />;
  return (
    <DataTable
      label="Sessions"
      rows={sessions.data}
      columns={columns}
      rowKey={(s) => s.id}
      empty={
        <Empty title="Nobody is signed in">
          A session begins with a sign-in and ends by itself when it is not used.
        </Empty>
      }
    />
  );
}
