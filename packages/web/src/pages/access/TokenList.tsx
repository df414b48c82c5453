import type { TokenAnswer } from '@anthemion/contract';
import type { ReactNode } from 'react';
import { accessApi } from '../../app/accessApi.ts';
import { problemOf } from '../../app/api.ts';
import { Button, Empty, Failure, Row, Waiting } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { ago, dated } from '../../parts/times.ts';
import { useSave } from '../../app/useSave.ts';

const scopeOf = (t: TokenAnswer): string =>
  `${t.roles.length === 0 ? 'looks' : t.roles.join(', ')}${t.fabrics.length === 0 ? '' : ` on ${t.fabrics.join(', ')}`}`;
const isOver = (t: TokenAnswer): boolean => new Date(t.endsAt).getTime() <= Date.now();

/** Tokens of scripts, one's own or everybody's, each with the button that ends it. */
export function TokenList({ whose, actions }: { readonly whose: 'own' | 'all'; readonly actions?: ReactNode }) {
  const tokens = accessApi.useTokensQuery(whose);
  const [end] = accessApi.useEndTokenMutation();
  const { save } = useSave();
  const columns: TableColumn<TokenAnswer>[] = [
    ...(whose === 'all'
      ? [{ id: 'account', title: 'Account', text: (t: TokenAnswer) => t.account, width: '14%' }]
      : []),
    { id: 'name', title: 'Token', text: (t) => t.name, cell: (t) => <b>{t.name}</b>, width: '18%' },
    {
      id: 'scope',
      title: 'May',
      text: scopeOf,
      cell: (t) => <span title={scopeOf(t)}>{scopeOf(t)}</span>,
      width: '26%',
    },
    {
      id: 'ends',
      title: 'Ends',
      text: (t) => t.endsAt,
      cell: (t) => (
        <Row $gap={6}>
          <StateMark mood={isOver(t) ? 'folded' : 'bloom'} size={12} /> {isOver(t) ? 'run out' : dated(t.endsAt)}
        </Row>
      ),
      width: '21%',
    },
    {
      id: 'used',
      title: 'Used',
      text: (t) => t.usedAt ?? '',
      cell: (t) => (t.usedAt ? ago(t.usedAt) : 'never'),
      width: '11%',
    },
    {
      id: 'end',
      title: 'End',
      text: () => '',
      cell: (t) => (
        <Button
          aria-label={`End token ${t.name} of ${t.account}`}
          style={{ padding: '1px 8px' }}
          onPress={() => void save(end({ whose, id: t.id }), `Token ${t.name} has ended`)}
        >
          End
        </Button>
      ),
    },
  ];
  if (tokens.isError) return <Failure detail={problemOf(tokens.error).detail} onRetry={() => void tokens.refetch()} />;
  if (!tokens.data) return <Waiting />;
  return (
    <DataTable
      label="Tokens"
      rows={tokens.data}
      columns={columns}
      rowKey={(t) => t.id}
      actions={actions}
      empty={
        <Empty title="No tokens" action={actions}>
          A script shows a token instead of signing in. It has at most the roles of its owner, and an end.
        </Empty>
      }
    />
  );
}
