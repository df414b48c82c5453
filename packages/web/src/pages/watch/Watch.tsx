import type { CauseAnswer, FabricDay, PastCause } from '@anthemion/contract';
import { countCauses } from '@anthemion/core';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { styled } from 'styled-components';
import { problemOf } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { watchApi } from '../../app/watchApi.ts';
import { Button, Empty, Faded, Failure, H2, Row, Waiting } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { Choice, Tick } from '../../parts/fields.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { token } from '../../parts/theme.ts';
import { ago, dayTime, spent } from '../../parts/times.ts';
import { CauseLine } from './CauseLine.tsx';
import { useCauseActs } from './useCauseActs.tsx';

/** Causes that are drawn before somebody asks for the rest. */
const SHOWN = 60;

/** What is wrong now, over all fabrics that are seen: the cause before its symptoms, and what was wrong before. */
export function Watch() {
  const day = watchApi.useDayQuery();
  const [params, setParams] = useSearchParams();
  const fabric = params.get('fabric') ?? '';
  const acts = useCauseActs();
  const [isWhole, setWhole] = useState(false);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  if (day.isError)
    return (
      <Page title="Watch">
        <Failure detail={problemOf(day.error).detail} onRetry={() => void day.refetch()} />
      </Page>
    );
  if (!day.data)
    return (
      <Page title="Watch">
        <Waiting />
      </Page>
    );
  const { causes, fabrics } = day.data;
  const shown = causes.filter((c) => fabric === '' || c.fabric === fabric);
  const keyOf = (c: CauseAnswer): string => `${c.fabric} ${c.key}`;
  const edited = shown.filter((c) => c.kind === 'edited');
  const many = edited.filter((c) => picked.has(keyOf(c)));
  const oneFabric = new Set(many.map((c) => c.fabric)).size === 1;
  const newest = fabrics.reduce<string | null>(
    (at, f) => (f.readAt !== null && (at === null || f.readAt > at) ? f.readAt : at),
    null,
  );
  const pick = (c: CauseAnswer, on: boolean): void => {
    const next = new Set(picked);
    if (on) next.add(keyOf(c));
    else next.delete(keyOf(c));
    setPicked(next);
  };
  return (
    <Page
      title="Watch"
      sub={`${countCauses(shown)}${newest === null ? '' : ` · read ${ago(newest)}`}`}
      actions={
        <Row>
          <Choice
            label="Fabric"
            hideLabel
            value={fabric}
            onChange={(f) => setParams(f === '' ? {} : { fabric: f })}
            options={[{ id: '', name: 'All fabrics' }, ...fabrics.map((f) => ({ id: f.name, name: f.name }))]}
            placeholder="All fabrics"
          />
          {fabric !== '' && (
            <Button onPress={() => acts.readAgain(fabric)} isDisabled={acts.reading}>
              {acts.reading ? 'Reading …' : 'Read all now'}
            </Button>
          )}
        </Row>
      }
    >
      {many.length > 0 && (
        <Bulk role="toolbar" aria-label="For the picked switches">
          <b>{many.length} picked</b>
          <Button $kind="main" isDisabled={!oneFabric} onPress={() => acts.putBack(many)}>
            Put back
          </Button>
          <Button isDisabled={!oneFabric} onPress={() => acts.adopt(many)}>
            Adopt
          </Button>
          {!oneFabric && <Faded>those of one fabric at a time</Faded>}
          {many.length < edited.length && (
            <Button onPress={() => setPicked(new Set(edited.map(keyOf)))}>Pick all {edited.length}</Button>
          )}
          <Button onPress={() => setPicked(new Set())}>Pick none</Button>
        </Bulk>
      )}
      <H2 style={{ marginTop: 14 }}>Wrong now</H2>
      {shown.length === 0 ? (
        <Empty title="Nothing is wrong">
          Every switch that was read runs as meant, and every link and session that is meant is up. What goes wrong
          stands here with its cause first, and what hangs on it.
        </Empty>
      ) : (
        <List>
          {(isWhole ? shown : shown.slice(0, SHOWN)).map((c) => (
            <CauseLine
              key={keyOf(c)}
              cause={c}
              withFabric={fabric === ''}
              onPutBack={(x) => acts.putBack([x])}
              onAdopt={(x) => acts.adopt([x])}
              onReadAgain={(x) => acts.readAgain(x.fabric)}
              whole
              pick={
                c.kind === 'edited' ? (
                  <Tick
                    label={`Pick ${c.title}`}
                    hideLabel
                    value={picked.has(keyOf(c))}
                    onChange={(on) => pick(c, on)}
                  />
                ) : undefined
              }
            />
          ))}
        </List>
      )}
      {!isWhole && shown.length > SHOWN && (
        <Row>
          <Button onPress={() => setWhole(true)}>Show {shown.length - SHOWN} more</Button>
        </Row>
      )}
      <Drained fabrics={fabrics.filter((f) => fabric === '' || f.name === fabric)} />
      {acts.dialogs}
      <Before fabric={fabric === '' ? (fabrics[0]?.name ?? '') : fabric} />
    </Page>
  );
}

/** Switches that others go round on purpose: nothing is wrong with them, and somebody has to bring them back. */
function Drained({ fabrics }: { readonly fabrics: readonly FabricDay[] }) {
  const all = fabrics.flatMap((f) => f.drained.map((d) => ({ fabric: f.name, ...d })));
  if (all.length === 0) return null;
  return (
    <>
      <H2 style={{ marginTop: 22 }}>Drained</H2>
      <List>
        {all.map((d) => (
          <Row key={`${d.fabric} ${d.seat}`} $gap={8} style={{ padding: '3px 0' }}>
            <StateMark mood={d.asks === true ? 'folded' : 'dewed'} size={16} />
            <span>
              <Link to={`/fabrics/${d.fabric}/seats?at=seat:${d.seat}`}>{d.host}</Link>{' '}
              {d.asks === true
                ? 'asks others to go round it'
                : d.asks === null
                  ? 'is to be drained, and unread'
                  : 'is to be drained, and does not ask for it yet'}
            </span>
          </Row>
        ))}
      </List>
    </>
  );
}

const COLUMNS: readonly TableColumn<PastCause>[] = [
  { id: 'title', title: 'What', text: (c) => c.title, width: '52%' },
  { id: 'began', title: 'Began', text: (c) => c.began, cell: (c) => dayTime(c.began) },
  {
    id: 'ended',
    title: 'Ended',
    text: (c) => c.ended ?? '',
    cell: (c) => (c.ended === null ? 'lasts' : dayTime(c.ended)),
  },
  { id: 'took', title: 'Lasted', text: (c) => spent(c.began, c.ended), width: '10%', right: true },
];

/** What was wrong in one fabric, newest first. */
function Before({ fabric }: { readonly fabric: string }) {
  const { data = [] } = watchApi.useCausesQuery(fabric, { skip: fabric === '' });
  if (data.length === 0) return null;
  return (
    <Past>
      <H2>What was wrong in {fabric}</H2>
      <DataTable
        label="What was wrong"
        rows={data}
        columns={COLUMNS}
        rowKey={(c) => String(c.n)}
        fileName={`${fabric}-causes`}
      />
    </Past>
  );
}

const List = styled.ul`
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding: 8px 0;
`;
const Bulk = styled.div`
  display: flex;
  gap: 10px;
  align-items: center;
  position: sticky;
  top: 0;
  z-index: 2;
  padding: 8px 12px;
  margin-top: 10px;
  border-radius: 4px;
  background: ${token('verdigris-wash')};
`;
const Past = styled.section`
  margin-top: 22px;
  display: flex;
  flex-direction: column;
  min-height: 220px;
  flex: 1;
`;
