import {
  asnKey,
  layOut,
  loopbackKey,
  portsOf,
  rackPatternOf,
  sizePattern,
  vtepKey,
  expandPorts,
} from '@anthemion/core';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { styled } from 'styled-components';
import { api } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { token } from '../../app/theme.ts';
import { useEdits } from '../../app/useEdits.ts';
import { useMay } from '../../app/session.ts';
import { Button, Cap, Facts, H3, Mono, New, Note, Row, Rule } from '../../parts/basics.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { healthMood } from '../../parts/moods.ts';
import { AddRackDialog } from './AddRackDialog.tsx';
import { fabricCrumbs, FabricTabs, fabricSub, fabricTitle, useFabricView, useSelection } from './FabricFrame.tsx';
import { LayFabric } from './LayFabric.tsx';
import { Lattice } from './shape/Lattice.tsx';
import { PalmettePicture, type Show } from './shape/PalmettePicture.tsx';

export function Shape() {
  const { fabric, change, proof } = useFabricView();
  const [selected, select] = useSelection();
  const [wanted, setShow] = useState<Show | null>(null);
  const show: Show = wanted ?? (change ? 'change' : 'state');
  const { data: steps } = api.useChangeQuery(change ?? '', { skip: change === null });
  const [lattice, setLattice] = useState(false);
  const [adding, setAdding] = useState(false);
  const may = useMay('designer');
  const { intent } = fabric;
  const layout = useMemo(() => layOut(intent), [intent]);
  const seats = useMemo(() => new Map(fabric.seats.map((s) => [s.seat, s])), [fabric.seats]);
  const touched = useMemo(
    () => new Set((proof?.switches ?? []).filter((s) => s.fate !== 'same').map((s) => s.host)),
    [proof],
  );
  const findings = useMemo(
    () =>
      new Set((proof?.findings ?? []).filter((f) => f.severity === 'error').flatMap((f) => (f.host ? [f.host] : []))),
    [proof],
  );
  const racks = useMemo(
    () =>
      intent.racks.map((r) => {
        const pattern = rackPatternOf(intent, r);
        return {
          rack: r.number,
          name: `rack-${r.number}`,
          serverPorts: pattern ? (expandPorts(pattern.serverPorts)?.length ?? 0) : 0,
          used: intent.ports.filter((p) => p.rack === r.number).length,
          touched: (change ? (steps?.steps ?? []) : []).filter(
            (x) => x.edit.kind === 'connectServer' && x.edit.port.rack === r.number,
          ).length,
        };
      }),
    [intent, change, steps],
  );
  const crumbs = fabricCrumbs(fabric.name);
  if (intent.pattern === '')
    return (
      <Page title={fabricTitle(fabric)} sub={fabricSub(fabric, change)} crumbs={crumbs} tabs={<FabricTabs />}>
        <LayFabric />
      </Page>
    );
  return (
    <Page
      title={fabricTitle(fabric)}
      sub={fabricSub(fabric, change)}
      crumbs={crumbs}
      tabs={<FabricTabs />}
      flush
      actions={may && <Button onPress={() => setAdding(true)}>Add a rack</Button>}
      aside={selected ? <SelectionNotes at={selected} onLattice={() => setLattice(true)} /> : undefined}
      asideLabel="Selected"
    >
      {lattice ? (
        <Lattice layout={layout} selected={selected} onSelect={select} />
      ) : (
        <PalmettePicture
          layout={layout}
          racks={racks}
          seats={seats}
          touched={change ? touched : new Set()}
          show={show}
          selected={selected}
          onSelect={select}
          findings={findings}
        />
      )}
      <Legend>
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
        {!lattice && (
          <span className="key">
            <i className="spine" /> spine <i className="leaf" /> leaf <i className="leaf dashed" /> seat empty{' '}
            {findings.size > 0 && (
              <>
                <i className="leaf bad" /> {findings.size === 1 ? 'a finding' : `${findings.size} with findings`}
              </>
            )}
          </span>
        )}
      </Legend>
      <AddRackDialog isOpen={adding} onClose={() => setAdding(false)} />
    </Page>
  );
}

function SelectionNotes({ at, onLattice }: { readonly at: string; readonly onLattice: () => void }) {
  const { fabric, proof, change } = useFabricView();
  const { intent, values } = fabric;
  const makeEdits = useEdits(fabric.name);
  const may = useMay('designer');
  const layout = useMemo(() => layOut(intent), [intent]);
  const rack = at.startsWith('rack:') ? intent.racks.find((r) => r.number === Number(at.slice(5))) : undefined;
  const seats = rack
    ? layout.seats.filter((s) => s.rack === rack.number)
    : layout.seats.filter((s) => `seat:${s.id}` === at);
  if (seats.length === 0) return <p>Nothing is selected.</p>;
  const pattern = rack && rackPatternOf(intent, rack);
  const first = seats[0]!;
  const short = (key: (id: string) => string): string =>
    seats.map((s) => (values[key(s.id)] ?? 'waits').replace('/32', '')).join(', ');
  const links = seats.flatMap((s) => layout.linksOf.get(s.id) ?? []);
  const model = intent.models.find((m) => m.name === first.model);
  const speed = model && links[0] ? portsOf(model).get(rack ? links[0].leafPort : links[0].spinePort) : undefined;
  const size =
    rack && pattern
      ? sizePattern(
          {
            name: 'x',
            description: '',
            spines: intent.spines,
            parallel: intent.parallel,
            racks: [{ pattern: pattern.name, count: 1 }],
            settings: {},
          },
          { models: intent.models, rackPatterns: intent.rackPatterns },
        ).rackSizings[0]
      : undefined;
  const used = rack ? intent.ports.filter((p) => p.rack === rack.number).length : 0;
  const slots = pattern ? (expandPorts(pattern.serverPorts)?.length ?? 0) : 0;
  const states = seats.map((s) => fabric.seats.find((x) => x.seat === s.id)!);
  const changes = (proof?.switches ?? []).filter((s) => seats.some((x) => x.host === s.host) && s.fate !== 'same');
  const findings = (proof?.findings ?? []).filter((f) => seats.some((s) => s.host === f.host));
  const ratio = (n: number | null | undefined): string => (n == null ? '' : `${Number(n.toFixed(2))} : 1`);
  return (
    <>
      <Cap>{rack ? `Rack · ${pattern?.kind === 'esi-pair' ? 'pair, ESI' : 'single leaf'}` : 'Spine'}</Cap>
      <H3>
        {rack ? `rack-${rack.number}` : first.id}
        {rack?.place ? `, ${rack.place}` : ''}
      </H3>
      <Facts>
        <dt>{seats.length > 1 ? 'Seats' : 'Seat'}</dt>
        <dd>{seats.map((s) => s.id).join(', ')}</dd>
        <dt>On the switch</dt>
        <dd>
          <Mono>{seats.map((s) => s.host).join(', ')}</Mono>
        </dd>
        <dt>Model</dt>
        <dd>{first.model}</dd>
        <dt>{new Set(seats.map((s) => values[asnKey(intent, s)])).size > 1 ? 'AS numbers' : 'AS number'}</dt>
        <dd>
          <Mono>{[...new Set(seats.map((s) => values[asnKey(intent, s)] ?? 'waits'))].join(', ')}</Mono>
        </dd>
        <dt>Loopback</dt>
        <dd>
          <Mono>{short(loopbackKey)}</Mono>
        </dd>
        {rack && (
          <>
            <dt>VTEP</dt>
            <dd>
              <Mono>{short(vtepKey)}</Mono>
            </dd>
          </>
        )}
        <dt>{rack ? 'Uplinks' : 'Links'}</dt>
        <dd>
          {links.length} × {speed ?? '?'}G
        </dd>
        {rack && (
          <>
            <dt>Servers</dt>
            <dd>
              {used} of {slots} ports
            </dd>
            <dt>Oversubscr.</dt>
            <dd>
              {ratio(size?.oversubscription)}, spine lost {ratio(size?.oversubscriptionSpineLost)}
            </dd>
            <dt>Networks</dt>
            <dd>
              {intent.networks
                .filter((n) => n.racks.includes(rack.number))
                .map((n) => n.name)
                .join(', ') || 'none'}
            </dd>
          </>
        )}
      </Facts>
      <Rule />
      <Cap>State</Cap>
      {states.map((s) => (
        <Row key={s.seat} $gap={7}>
          <StateMark mood={s.serial === null ? 'bud' : healthMood[s.health]} size={16} />
          <span>
            <Mono>{s.host}</Mono> {s.serial === null ? 'seat is empty' : s.health}
          </span>
        </Row>
      ))}
      {change && (
        <>
          <Rule />
          <Cap>This change</Cap>
          {changes.length === 0 && <span>touches nothing here</span>}
          {changes.map((c) => (
            <Row key={c.host} $gap={7} $align="start">
              <StateMark mood="dewed" size={16} />
              <span>
                <Mono>{c.host}</Mono>{' '}
                {c.fate === 'new' ? 'gets its first text' : c.fate === 'gone' ? 'is cleared' : 'waits'}:{' '}
                <New>+{c.added}</New> −{c.removed} lines
              </span>
            </Row>
          ))}
        </>
      )}
      {findings.slice(0, 4).map((f) => (
        <Note key={f.message} $tone={f.severity === 'error' ? 'bad' : 'wait'}>
          {f.message} {f.cure}
        </Note>
      ))}
      <Row $wrap style={{ marginTop: 'auto', paddingTop: 10 }}>
        <LinkButton to={`/fabrics/${fabric.name}/text/${first.id}`}>Text</LinkButton>
        {rack && <LinkButton to={`/fabrics/${fabric.name}/ports?rack=${rack.number}`}>Ports</LinkButton>}
        <Button onPress={onLattice}>Lattice</Button>
        {rack && may && (
          <Button $kind="danger" onPress={() => void makeEdits([{ kind: 'removeRack', number: rack.number }])}>
            Remove
          </Button>
        )}
      </Row>
    </>
  );
}

export const LinkButton = styled(Link)`
  border: 1px solid ${token('rule')};
  border-radius: 4px;
  padding: 5px 13px;
  font-weight: 600;
  font-size: 13px;
  text-decoration: none;
  color: ${token('ink')};
  &:hover {
    background: ${token('rule-soft')};
  }
`;
const Legend = styled.div`
  display: flex;
  gap: 14px;
  align-items: center;
  font-size: 12.5px;
  color: ${token('faded')};
  padding: 6px 0 9px;
  button {
    all: unset;
    cursor: pointer;
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
  .key {
    margin-left: auto;
    display: flex;
    gap: 5px;
    align-items: center;
  }
  i {
    width: 10px;
    height: 10px;
    border: 1.5px solid ${token('ink')};
    display: inline-block;
    margin-left: 8px;
  }
  i.spine {
    transform: rotate(45deg) scale(0.85);
  }
  i.leaf {
    border-radius: 50%;
    border-color: ${token('verdigris')};
  }
  i.dashed {
    border-style: dashed;
  }
  i.bad {
    border-color: ${token('madder')};
  }
`;
