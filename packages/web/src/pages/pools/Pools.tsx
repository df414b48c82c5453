import type { PoolAnswer } from '@anthemion/contract';
import { kindOfRole, POOL_ROLES, poolSchema, valueWords, type Pool, type PoolKind } from '@anthemion/core';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { styled } from 'styled-components';
import { api, notTaken, problemOf, type LedgerAnswer } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { useMay } from '../../app/session.ts';
import { token } from '../../parts/theme.ts';
import { Button, Cap, Copyable, Empty, Faded, Failure, H3, Mono, Row, Stack, Waiting } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { ROLE_TITLES } from '../../parts/poolRoles.ts';
import { RemoveButton } from '../../parts/RemoveButton.tsx';
import { ChoiceField, Form, LinesField, TextField, TicksField, useFormPart } from '../../parts/Form.tsx';

const KINDS: Readonly<Record<PoolKind, string>> = { asn: 'AS numbers', ipv4: 'IPv4', ipv6: 'IPv6', vni: 'VNIs' };
const EXAMPLES: Readonly<Record<PoolKind, string>> = {
  asn: '65101-65199',
  ipv4: '10.255.0.0/24',
  ipv6: 'fd00:32::/48',
  vni: '10000-10999',
};
const MEANT_FOR: TableColumn<PoolAnswer> = {
  id: 'serves',
  title: 'Meant for',
  text: (p) => (p.serves ?? []).map((r) => ROLE_TITLES[r]).join(', '),
  width: '15%',
};
/** What a pool of a kind can be for. */
const rolesOf = (kind: PoolKind) =>
  POOL_ROLES.filter((r) => kindOfRole(r) === kind).map((id) => ({ id, name: ROLE_TITLES[id] }));
const large = (n: number): string => n.toLocaleString('en').replaceAll(',', ' ');

/** Pools with how full they are, and the ledger of the one selected: who holds each value, since which change. */
export function Pools() {
  const pools = api.usePoolsQuery();
  const name = useParams()['pool'];
  const [params] = useSearchParams();
  const navigate = useNavigate();
  const may = useMay('designer');
  const making = params.get('new') !== null;
  if (pools.isError)
    return (
      <Page title="Pools">
        <Failure detail={problemOf(pools.error).detail} onRetry={() => void pools.refetch()} />
      </Page>
    );
  if (!pools.data)
    return (
      <Page title="Pools">
        <Waiting />
      </Page>
    );
  const pool = pools.data.find((p) => p.name === name);
  const columns: TableColumn<PoolAnswer>[] = [
    { id: 'name', title: 'Pool', text: (p) => p.name, cell: (p) => <b>{p.name}</b>, width: '20%' },
    { id: 'kind', title: 'Holds', text: (p) => KINDS[p.kind], width: '13%' },
    ...(pools.data.some((p) => p.serves) ? [MEANT_FOR] : []),
    {
      id: 'ranges',
      title: 'Ranges',
      text: (p) => p.ranges.join(', '),
      cell: (p) => <Mono>{p.ranges.join(', ')}</Mono>,
    },
    {
      id: 'used',
      title: 'Held',
      text: (p) => p.held / Math.max(1, p.size),
      width: '28%',
      cell: (p) => (
        <Used>
          <span className="bar" aria-hidden>
            <i
              style={{ width: `${Math.min(100, (100 * p.held) / Math.max(1, p.size))}%` }}
              className={p.held > 0.85 * p.size ? 'tight' : ''}
            />
          </span>
          {large(p.held)} of {large(p.size)}
        </Used>
      ),
    },
  ];
  return (
    <Page
      title="Pools"
      sub="ranges that AS numbers, addresses and VNIs are drawn from"
      flush
      asideLabel="Pool"
      aside={making ? <PoolForm key="new" /> : pool ? <PoolForm key={pool.name} pool={pool} /> : undefined}
    >
      <Split $open={pool !== undefined}>
        <DataTable
          label="Pools"
          rows={pools.data}
          columns={columns}
          rowKey={(p) => p.name}
          selected={name}
          onSelect={(p) => void navigate(`/pools/${p.name}`)}
          actions={
            may && (
              <Button $kind="main" onPress={() => void navigate('/pools?new=1')}>
                Make a pool
              </Button>
            )
          }
          empty={
            <Empty
              title="No pools yet"
              action={
                may && (
                  <Button $kind="main" onPress={() => void navigate('/pools?new=1')}>
                    Make the first pool
                  </Button>
                )
              }
            >
              A fabric draws its AS numbers, loopbacks, VTEPs, link addresses, VNIs and subnets from pools. The demo
              comes with seven of them.
            </Empty>
          }
        />
        {pool && <Ledger pool={pool} />}
      </Split>
    </Page>
  );
}

function Ledger({ pool }: { readonly pool: PoolAnswer }) {
  const { data = [] } = api.useLedgerQuery({ pool: pool.name });
  const columns: TableColumn<LedgerAnswer>[] = [
    { id: 'value', title: 'Value', text: (e) => e.value, cell: (e) => <Copyable text={e.value} />, width: '27%' },
    {
      id: 'owner',
      title: 'Held by',
      text: (e) => `${e.fabric} ${valueWords(e.key)}`,
      cell: (e) => <Link to={`/fabrics/${e.fabric}/values`}>{`${e.fabric} › ${valueWords(e.key)}`}</Link>,
    },
    {
      id: 'since',
      title: 'Since',
      text: (e) => e.drawnBy?.title ?? '',
      cell: (e) => (e.drawnBy ? <Link to={`/changes/${e.drawnBy.id}`}>{e.drawnBy.title}</Link> : ''),
      width: '21%',
    },
    { id: 'state', title: 'State', text: (e) => (e.change ? 'open change' : 'live'), width: '13%' },
  ];
  return (
    <Stack $gap={0} style={{ minHeight: 0, flex: 1 }}>
      <Cap style={{ paddingTop: 12 }}>Ledger of {pool.name}</Cap>
      <DataTable
        label={`Ledger of ${pool.name}`}
        rows={data}
        columns={columns}
        rowKey={(e) => `${e.fabric}${e.key}${e.change}`}
        fileName={`${pool.name}-ledger`}
        empty={<Faded style={{ padding: 12 }}>Nobody holds a value of it.</Faded>}
      />
    </Stack>
  );
}

function PoolForm({ pool }: { readonly pool?: PoolAnswer }) {
  const navigate = useNavigate();
  const may = useMay('designer');
  const [make] = api.useMakePoolMutation();
  const [put] = api.usePutPoolMutation();
  const [remove] = api.useRemovePoolMutation();
  const part = useFormPart<Pool>({
    schema: poolSchema,
    initial: {
      name: pool?.name ?? '',
      kind: pool?.kind ?? 'ipv4',
      ranges: pool?.ranges ?? [],
      note: pool?.note ?? '',
      serves: pool?.serves ?? [],
    },
    keep: `pool ${pool?.name ?? ''}`,
  });
  const kind = part.rhf.watch('kind');
  const close = (): void => {
    part.forget();
    void navigate('/pools');
  };
  return (
    <Form
      part={part}
      onSend={async ({ note, serves, ...values }) => {
        // Ticks of another kind are of the one that was chosen before.
        const meant = (serves ?? []).filter((role) => kindOfRole(role) === values.kind);
        const next = { ...values, ...(note ? { note } : {}), ...(meant.length > 0 ? { serves: meant } : {}) };
        const no = notTaken(await (pool ? put(next) : make(next)));
        if (no === null) void navigate(`/pools/${next.name}`);
        return no;
      }}
      buttons={
        may && (
          <Row $wrap>
            <Button type="submit" $kind="main">
              {pool ? 'Change pool' : 'Make pool'}
            </Button>
            <Button onPress={close}>Close</Button>
            {pool && (
              <RemoveButton
                what={`pool ${pool.name}`}
                means="It is refused while a value of it is held."
                remove={async () => notTaken(await remove(pool.name))}
                onGone={close}
              />
            )}
          </Row>
        )
      }
    >
      <Cap>Pool</Cap>
      <H3>{pool ? pool.name : 'A new pool'}</H3>
      {!pool && <TextField name="name" label="Name" placeholder="skerry-tenants" autoFocus isRequired />}
      {!pool && (
        <ChoiceField name="kind" label="Holds" options={Object.entries(KINDS).map(([id, n]) => ({ id, name: n }))} />
      )}
      <LinesField name="ranges" label="Ranges, one a line" lines={4} placeholder={EXAMPLES[kind]} />
      <Cap>Meant for</Cap>
      <TicksField name="serves" options={rolesOf(kind)} />
      <TextField name="note" label="Note" />
    </Form>
  );
}

const Split = styled.div<{ $open: boolean }>`
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-rows: ${(p) => (p.$open ? 'minmax(0, 1fr) minmax(0, 1fr)' : 'minmax(0, 1fr)')};
  > * {
    min-height: 0;
  }
`;
const Used = styled.span`
  display: grid;
  grid-template-columns: 74px 1fr;
  gap: 10px;
  align-items: center;
  .bar {
    height: 6px;
    background: ${token('rule-soft')};
    border-radius: 3px;
    overflow: hidden;
  }
  i {
    display: block;
    height: 100%;
    min-width: 2px;
    background: ${token('verdigris')};
  }
  i.tight {
    background: ${token('ochre')};
  }
`;
