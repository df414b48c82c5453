import type { FabricStateAnswer, LiveAnswer } from '@anthemion/contract';
import { capital, countTiers, shapeOf, type FabricShape, type ProofReport } from '@anthemion/core';
import { layoutOf } from '../../app/layoutOf.ts';
import { tierText } from '../../parts/tierText.ts';
import { useEffect, useMemo, type ComponentProps } from 'react';
import { Link, NavLink, Outlet, useOutletContext, useParams, useSearchParams } from 'react-router';
import { styled } from 'styled-components';
import { isWrong } from './shape/palmetteColours.ts';
import { api, problemOf } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { watchApi } from '../../app/watchApi.ts';
import { useChangeOf } from '../../app/useEdits.ts';
import { token } from '../../parts/theme.ts';
import { Failure, Waiting } from '../../parts/basics.tsx';
import { fullness, StateMark, type Mood } from '../../parts/StateMark.tsx';
import { ago } from '../../parts/times.ts';
import { Standing } from './Standing.tsx';
import { standsIn, type SeatStand } from './stands.ts';

/** What every page of a fabric works with: the fabric as the open change would have it, or as it is live. */
export interface FabricView {
  readonly fabric: FabricStateAnswer;
  readonly change: string | null;
  readonly proof: ProofReport | null;
  /** What was read of it; null = not there yet. */
  readonly live: LiveAnswer | null;
  /** How the switch of each seat is, by what was read. */
  readonly stands: ReadonlyMap<string, SeatStand>;
}
export const useFabricView = (): FabricView => useOutletContext<FabricView>();

/** A selection that has its own link: `?at=rack:7`. */
export function useSelection(): readonly [string | null, (at: string | null) => void] {
  const [params, setParams] = useSearchParams();
  const at = params.get('at');
  const select = (next: string | null): void => {
    const copy = new URLSearchParams(params);
    if (next === null) copy.delete('at');
    else copy.set('at', next);
    setParams(copy, { replace: true });
  };
  useEffect(() => {
    if (at === null) return;
    const onKey = (e: KeyboardEvent): void => {
      if (e.key === 'Escape' && !document.querySelector('[role=dialog]')) select(null);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
  return [at, select];
}

export function FabricFrame() {
  const name = useParams()['fabric']!;
  const change = useChangeOf(name);
  const query = api.useFabricQuery({ name, change });
  const { currentData: changeAnswer } = api.useChangeQuery(change ?? '', { skip: change === null });
  const { currentData: liveProof } = api.useLiveProofQuery(name, { skip: change !== null });
  const { currentData: live = null } = watchApi.useLiveQuery({ name, change });
  const stands = useMemo(() => standsIn(live), [live]);
  if (query.isError)
    return (
      <main style={{ padding: 24 }}>
        <Failure detail={problemOf(query.error).detail} onRetry={() => void query.refetch()} />
      </main>
    );
  const fabric = query.data?.name === name ? query.data : undefined;
  if (!fabric)
    return (
      <main style={{ padding: 24 }}>
        <Waiting what={`Reading ${name}`} />
      </main>
    );
  const proof = change === null ? (liveProof ?? null) : (changeAnswer?.proof ?? null);
  return <Outlet context={{ fabric, change, proof, live, stands } satisfies FabricView} />;
}

const SHAPE_WORDS: Readonly<Record<FabricShape, string>> = {
  'three-stages': 'three stages',
  'five-stages': 'five stages',
  collapsed: 'collapsed',
  switched: 'switched',
};
/** The line under a fabric's name. */
function fabricSub(f: FabricStateAnswer, change: string | null): string {
  const racks = f.intent.racks.length;
  const shape =
    racks === 0
      ? 'nothing laid out yet'
      : `${SHAPE_WORDS[shapeOf(f.intent)]} · ${tierText(countTiers(layoutOf(f.intent).seats), racks)}`;
  const rev =
    f.revision === 0 ? 'nothing live' : `revision ${f.revision}${change ? '' : `, live since ${ago(f.liveSince!)}`}`;
  return `${shape} · ${rev}${change ? ' with the open change' : ''}`;
}

const MARK_WORDS: Readonly<Record<string, string>> = {
  proof: 'has findings',
  text: 'edited by hand',
  cables: 'something is wrong',
};

/** Pages of a fabric in the order of work; only a page with something open or wrong carries a mark. */
export function FabricTabs() {
  const { fabric, proof, live } = useFabricView();
  const seats = fabric.seats.filter((s) => s.serial !== null).length;
  const marks: Record<string, { mood: Mood; share?: number } | null> = {
    values:
      proof && proof.values.drawn < proof.values.needed ? fullness(proof.values.drawn, proof.values.needed) : null,
    seats: fabric.seats.length > 0 && seats < fabric.seats.length ? fullness(seats, fabric.seats.length) : null,
    proof: proof && !proof.clean ? { mood: 'fallen' } : null,
    text: live?.seats.some((s) => s.health === 'drifted') ? { mood: 'fallen' } : null,
    cables: live?.links.others.some((l) => isWrong(l.stand)) ? { mood: 'fallen' } : null,
  };
  const base = `/fabrics/${fabric.name}`;
  return (
    <>
      <Tabs aria-label="Pages of the fabric">
        {[
          ['', 'Shape'],
          ['values', 'Values'],
          ['seats', 'Seats'],
          ['cables', 'Cables'],
          ['tenants', 'Tenants'],
          ['ports', 'Ports'],
          ['outside', 'Outside'],
          ['routing', 'Routing'],
          ['text', 'Text'],
          ['proof', 'Proof'],
          ['history', 'History'],
        ].map(([to, title]) => (
          <NavLink key={to} to={to === '' ? base : `${base}/${to}`} end={to === ''}>
            {marks[to!] && <StateMark size={12} {...marks[to!]!} label={MARK_WORDS[to!] ?? 'not complete'} />}
            {title}
          </NavLink>
        ))}
      </Tabs>
      <Standing fabric={fabric} />
    </>
  );
}
export const fabricCrumbs = (name: string) => (
  <>
    <Link to="/fabrics">Fabrics</Link> › <Link to={`/fabrics/${name}`}>{capital(name)}</Link>
  </>
);
export const Tabs = styled.nav`
  display: flex;
  gap: 20px;
  border-bottom: 1px solid ${token('rule')};
  margin: 6px -22px 0;
  padding: 0 22px;
  a {
    display: flex;
    gap: 6px;
    align-items: center;
    padding: 7px 0 8px;
    color: ${token('faded')};
    border-bottom: 2px solid transparent;
    font-size: 13.5px;
    text-decoration: none;
  }
  a.active {
    color: ${token('ink')};
    border-color: ${token('ink')};
    font-weight: 600;
  }
  a:hover {
    color: ${token('ink')};
  }
`;

/** A page of a fabric: its name, what it is, and its other pages above the one main thing. */
export function FabricPage(page: Omit<ComponentProps<typeof Page>, 'title' | 'sub' | 'crumbs' | 'tabs'>) {
  const { fabric, change } = useFabricView();
  return (
    <Page
      title={capital(fabric.name)}
      sub={fabricSub(fabric, change)}
      crumbs={fabricCrumbs(fabric.name)}
      tabs={<FabricTabs />}
      {...page}
    />
  );
}
