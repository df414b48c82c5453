import { expandPorts, hasServers, rackPatternOf, type Layout } from '@anthemion/core';
import { useMemo, useState } from 'react';
import { useSearchParams } from 'react-router';
import { styled } from 'styled-components';
import { api } from '../../app/api.ts';
import { useMay } from '../../app/session.ts';
import { Button, Row } from '../../parts/basics.tsx';
import { token } from '../../parts/theme.ts';
import { ago } from '../../parts/times.ts';
import { AddRackDialog } from './AddRackDialog.tsx';
import { FabricPage, useFabricView, useSelection } from './FabricFrame.tsx';
import { LayFabric } from './LayFabric.tsx';
import { GroupedPicture } from './shape/GroupedPicture.tsx';
import { GroupNotes } from './shape/GroupNotes.tsx';
import { groupRacks, RACKS_SHOWN } from './shape/groups.ts';
import { Lattice } from './shape/Lattice.tsx';
import { Legend } from './shape/Legend.tsx';
import type { RackFacts } from './shape/RackPetal.tsx';
import { RackPicture, type Show } from './shape/RackPicture.tsx';
import { SelectionNotes } from './shape/SelectionNotes.tsx';
import { TiersDialog } from './TiersDialog.tsx';
import { layoutOf } from '../../app/layoutOf.ts';

/** The fabric as a picture: how its switches and links are, or what the open change touches. */
export function Shape() {
  const { fabric, change, proof, live, stands } = useFabricView();
  const [params, setParams] = useSearchParams();
  const [at, select] = useSelection();
  const [wanted, setShow] = useState<Show | null>(null);
  const show: Show = wanted ?? (change ? 'change' : 'state');
  const [lattice, setLattice] = useState(false);
  const may = useMay('designer');
  const { currentData: steps } = api.useChangeQuery(change ?? '', { skip: change === null });
  const { intent } = fabric;
  const layout = layoutOf(intent);
  const seats = useMemo(() => new Map(fabric.seats.map((s) => [s.seat, s])), [fabric.seats]);
  const links = useMemo(() => new Map((live?.links.others ?? []).map((l) => [l.id, l.stand])), [live]);
  const touched = useMemo(
    () => new Set(change === null ? [] : (proof?.switches ?? []).filter((s) => s.fate !== 'same').map((s) => s.host)),
    [change, proof],
  );
  const findings = useMemo(
    () =>
      new Set((proof?.findings ?? []).filter((f) => f.severity === 'error').flatMap((f) => (f.host ? [f.host] : []))),
    [proof],
  );
  const groups = useMemo(() => {
    if (intent.racks.length <= RACKS_SHOWN) return null;
    const byRack = new Map<number, string[]>();
    for (const s of layout.seats) if (s.rack !== undefined) byRack.set(s.rack, [...(byRack.get(s.rack) ?? []), s.id]);
    return groupRacks(
      intent.racks.map((r) => ({ rack: r.number, place: r.place ?? '', seats: byRack.get(r.number) ?? [] })),
    );
  }, [intent.racks, layout]);
  const open = groups?.find((g) => g.id === params.get('open')) ?? null;
  const racks = useMemo(() => {
    const shown = open === null ? null : new Set(open.racks);
    const used = new Map<number, number>();
    for (const p of intent.ports) used.set(p.rack, (used.get(p.rack) ?? 0) + 1);
    const fresh = new Map<number, number>();
    for (const x of change === null ? [] : (steps?.steps ?? []))
      if (x.edit.kind === 'connectServer') fresh.set(x.edit.port.rack, (fresh.get(x.edit.port.rack) ?? 0) + 1);
    return intent.racks
      .filter((r) => shown?.has(r.number) ?? true)
      .map((r): RackFacts => {
        const pattern = rackPatternOf(intent, r);
        return {
          rack: r.number,
          name: `rack-${r.number}`,
          serverPorts: pattern ? (expandPorts(pattern.serverPorts)?.length ?? 0) : 0,
          used: used.get(r.number) ?? 0,
          touched: fresh.get(r.number) ?? 0,
        };
      });
  }, [intent, open, change, steps]);
  // A link may name the switch instead of the place it has in the picture.
  const named = params.get('host') === null ? undefined : layout.seats.find((s) => s.host === params.get('host'));
  const selected = at ?? (named ? (named.rack === undefined ? `seat:${named.id}` : `rack:${named.rack}`) : null);
  const openGroup = (id: string | null): void => setParams(id === null ? {} : { open: id });
  if (intent.pattern === '')
    return (
      <FabricPage>
        <LayFabric />
      </FabricPage>
    );
  const grouped = groups !== null && open === null;
  const group = grouped
    ? groups.find((g) => selected === `group:${g.id}` || g.racks.some((r) => selected === `rack:${r}`))
    : undefined;
  return (
    <FabricPage
      flush
      actions={
        may && (
          <Row>
            <Button onPress={() => setParams({ new: 'tiers' })}>Above the racks</Button>
            <Button onPress={() => setParams({ new: 'rack' })}>Add a rack</Button>
          </Row>
        )
      }
      aside={
        group ? (
          <GroupNotes
            group={group}
            layout={layout}
            stands={stands}
            links={links}
            onOpen={() => openGroup(group.id)}
            onLattice={() => setLattice(true)}
          />
        ) : selected ? (
          <SelectionNotes at={selected} onLattice={() => setLattice(true)} />
        ) : undefined
      }
      asideLabel="Selected"
    >
      {open && (
        <Opened>
          <button onClick={() => openGroup(null)}>All racks</button> › {open.name}
        </Opened>
      )}
      {lattice ? (
        <Lattice layout={layout} stands={stands} links={links} selected={selected} onSelect={select} />
      ) : grouped ? (
        <GroupedPicture
          layout={layout}
          groups={groups}
          stands={stands}
          links={links}
          touched={show === 'change' ? touchedSeats(layout, touched) : null}
          selected={group ? `group:${group.id}` : selected}
          onSelect={select}
          onOpen={(g) => openGroup(g.id)}
        />
      ) : (
        <RackPicture
          layout={layout}
          racks={racks}
          seats={seats}
          stands={stands}
          links={links}
          touched={touched}
          show={show}
          selected={selected}
          onSelect={select}
          findings={findings}
        />
      )}
      <Foot>
        <span>Show</span>
        {change && (
          <button aria-pressed={show === 'change' && !lattice} onClick={() => (setShow('change'), setLattice(false))}>
            what the change touches
          </button>
        )}
        <button aria-pressed={show === 'state' && !lattice} onClick={() => (setShow('state'), setLattice(false))}>
          state
        </button>
        <button aria-pressed={lattice} onClick={() => setLattice(true)}>
          lattice
        </button>
        <span>{live?.readAt ? `read ${ago(live.readAt)}` : 'nothing was read yet'}</span>
        {!lattice && (
          <Legend
            above={aboveOf(layout)}
            grouped={grouped}
            gates={layout.seats.some((s) => s.duties)}
            show={show}
            findings={findings.size}
          />
        )}
      </Foot>
      <TiersDialog isOpen={may && params.get('new') === 'tiers'} onClose={() => setParams({})} />
      <AddRackDialog isOpen={may && params.get('new') === 'rack'} onClose={() => setParams({})} />
    </FabricPage>
  );
}

/** What stands above the racks, in the words of the legend. */
const aboveOf = (layout: Layout): string =>
  [...new Set(layout.seats.filter((s) => !hasServers(s)).map((s) => s.tier))].toReversed().join(', ');

const touchedSeats = (layout: Layout, hosts: ReadonlySet<string>): ReadonlySet<string> =>
  new Set(layout.seats.filter((s) => hosts.has(s.host)).map((s) => s.id));

const Opened = styled.p`
  font-size: 13px;
  padding-top: 8px;
  button {
    all: unset;
    cursor: pointer;
    text-decoration: underline;
  }
  button:focus-visible {
    outline: 2px solid ${token('verdigris')};
  }
`;
const Foot = styled.div`
  display: flex;
  gap: 14px;
  align-items: center;
  font-size: 12.5px;
  color: ${token('faded')};
  padding: 6px 0 9px;
  > span:first-child ~ span:not([aria-label]) {
    white-space: nowrap;
  }
  button {
    all: unset;
    cursor: pointer;
    white-space: nowrap;
  }
  button[aria-pressed='true'] {
    color: ${token('ink')};
    font-weight: 600;
    text-decoration: underline;
    text-underline-offset: 3px;
  }
  button:focus-visible {
    outline: 2px solid ${token('verdigris')};
  }
`;
