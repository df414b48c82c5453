import { demandsOf, valueWords } from '@anthemion/core';
import { useMemo } from 'react';
import { Link } from 'react-router';
import { api } from '../../app/api.ts';
import { useMay } from '../../app/session.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Copyable, Faded, Row } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { DrawnFrom } from './DrawnFrom.tsx';
import { FabricPage, useFabricView } from './FabricFrame.tsx';
import { SettingsForm } from './SettingsForm.tsx';
import { layoutOf } from '../../app/layoutOf.ts';

interface ValueRow {
  readonly key: string;
  readonly what: string;
  readonly value: string;
  readonly pool: string;
  readonly how: string;
}

/** Every value the fabric draws: what, from which pool, whether this change drew it; and where they are drawn from. */
export function Values() {
  const { fabric } = useFabricView();
  const { data: pools = [] } = api.usePoolsQuery();
  const makeEdits = useEdits(fabric.name);
  const may = useMay('designer');
  const { intent, values, ledger } = fabric;
  const rows = useMemo(() => {
    const entries = new Map(ledger.map((e) => [e.key, e]));
    return demandsOf(intent, layoutOf(intent)).map((d): ValueRow => {
      const entry = entries.get(d.key);
      return {
        key: d.key,
        what: valueWords(d.key),
        value: values[d.key] ?? '',
        pool: entry?.pool ?? d.pool,
        how:
          values[d.key] === undefined
            ? 'waits'
            : entry?.change
              ? 'drawn by this change'
              : d.wanted !== undefined
                ? 'chosen'
                : 'drawn',
      };
    });
  }, [intent, values, ledger]);
  const columns: TableColumn<ValueRow>[] = [
    { id: 'what', title: 'For', text: (r) => r.what, width: '36%' },
    {
      id: 'value',
      title: 'Value',
      text: (r) => r.value,
      cell: (r) => (r.value ? <Copyable text={r.value} /> : <Faded>none yet</Faded>),
      width: '26%',
    },
    {
      id: 'pool',
      title: 'Pool',
      text: (r) => r.pool,
      cell: (r) => (r.pool ? <Link to={`/pools/${r.pool}`}>{r.pool}</Link> : <Faded>from none</Faded>),
    },
    {
      id: 'how',
      title: 'State',
      text: (r) => r.how,
      cell: (r) => (
        <Row $gap={6}>
          <StateMark mood={r.how === 'waits' ? 'bud' : r.how.startsWith('drawn by') ? 'dewed' : 'bloom'} size={12} />{' '}
          {r.how}
        </Row>
      ),
    },
  ];
  return (
    <FabricPage
      flush
      asideLabel="Pools and settings"
      aside={
        <>
          <DrawnFrom chosen={intent.pools} pools={pools} onEdit={may ? (edit) => void makeEdits([edit]) : null} />
          {may && intent.pattern !== '' && (
            <SettingsForm settings={intent.settings} onSave={(edit) => makeEdits([edit], true)} />
          )}
        </>
      }
    >
      <DataTable
        label="Values"
        rows={rows}
        columns={columns}
        rowKey={(r) => r.key}
        fileName={`${fabric.name}-values`}
        empty={<Faded style={{ padding: 20 }}>Lay the fabric out under Shape; its values are drawn at once.</Faded>}
      />
    </FabricPage>
  );
}
