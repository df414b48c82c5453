import {
  asnKey,
  endAt,
  expandPorts,
  DUTY_WORDS,
  isRouted,
  hasUnderlay6,
  loopback6Key,
  loopbackKey,
  portsOfSeats,
  rackPatternOf,
  shapeOf,
  sizePattern,
  upperTiersOf,
  vtepKey,
} from '@anthemion/core';
import type { SeatStand } from '../stands.ts';
import { useState } from 'react';
import { Link } from 'react-router';
import { useMay } from '../../../app/session.ts';
import { useEdits } from '../../../app/useEdits.ts';
import { AsideFoot, Button, Cap, Faded, Facts, H3, Mono, New, Note, Row, Rule } from '../../../parts/basics.tsx';
import { AskDialog } from '../../../parts/AskDialog.tsx';
import { LinkButton } from '../../../parts/LinkButton.tsx';
import { healthMood } from '../../../parts/moods.ts';
import { StateMark } from '../../../parts/StateMark.tsx';
import { ago } from '../../../parts/times.ts';
import { useDrain } from '../DrainNotes.tsx';
import { useFabricView } from '../FabricFrame.tsx';
import { isWrong } from './palmetteColours.ts';
import { RackPlace } from './RackPlace.tsx';
import { layoutOf } from '../../../app/layoutOf.ts';

/** What is selected is a rack or a spine: what it is, how its switches are, what the change does to it. */
export function SelectionNotes({ at, onLattice }: { readonly at: string; readonly onLattice: () => void }) {
  const { fabric, proof, change, stands, live } = useFabricView();
  const { intent, values } = fabric;
  const makeEdits = useEdits(fabric.name);
  const may = useMay('designer');
  const [removing, setRemoving] = useState(false);
  const layout = layoutOf(intent);
  const rack = at.startsWith('rack:') ? intent.racks.find((r) => r.number === Number(at.slice(5))) : undefined;
  const seats = rack
    ? layout.seats.filter((s) => s.rack === rack.number)
    : layout.seats.filter((s) => `seat:${s.id}` === at);
  if (seats.length === 0) return <p>Nothing is selected.</p>;
  const pattern = rack && rackPatternOf(intent, rack);
  const first = seats[0]!;
  const isDrained = intent.drained.some((d) => d.seat === first.id);
  const short = (key: (id: string) => string): string =>
    seats.map((s) => (values[key(s.id)] ?? 'waits').replace('/32', '')).join(', ');
  const links = seats.flatMap((s) => layout.linksOf.get(s.id) ?? []).filter((l) => l.kind === 'fabric');
  const speed = links[0] && portsOfSeats(intent)(first).ports.get(endAt(links[0], first.id).port);
  const size =
    rack && pattern
      ? sizePattern(
          {
            name: 'x',
            description: '',
            ...upperTiersOf(intent),
            racks: [{ pattern: pattern.name, count: shapeOf(intent) === 'collapsed' ? intent.racks.length : 1 }],
            settings: {},
          },
          { models: intent.models, rackPatterns: intent.rackPatterns },
        ).rackSizings[0]
      : undefined;
  const used = rack ? intent.ports.filter((p) => p.rack === rack.number).length : 0;
  const slots = pattern ? (expandPorts(pattern.serverPorts)?.length ?? 0) : 0;
  const states = seats.map((s) => fabric.seats.find((x) => x.seat === s.id)!);
  const wrong = new Set((live?.links.others ?? []).filter((l) => isWrong(l.stand)).map((l) => l.id));
  const down = links.filter((l) => wrong.has(l.id));
  const changes = (proof?.switches ?? []).filter((s) => seats.some((x) => x.host === s.host) && s.fate !== 'same');
  const findings = (proof?.findings ?? []).filter((f) => seats.some((s) => s.host === f.host));
  const ratio = (n: number | null | undefined): string => (n == null ? '' : `${Number(n.toFixed(2))} : 1`);
  return (
    <>
      <Cap>{rack ? `Rack · ${pattern?.kind === 'esi-pair' ? 'pair, ESI' : 'single leaf'}` : first.tier}</Cap>
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
        {isRouted(intent) && (
          <>
            <dt>{new Set(seats.map((s) => values[asnKey(intent, s)])).size > 1 ? 'AS numbers' : 'AS number'}</dt>
            <dd>
              <Mono>{[...new Set(seats.map((s) => values[asnKey(intent, s)] ?? 'waits'))].join(', ')}</Mono>
            </dd>
            <dt>Loopback</dt>
            <dd>
              <Mono>{short(loopbackKey)}</Mono>
            </dd>
            {hasUnderlay6(intent) && (
              <>
                <dt>IPv6 loopback</dt>
                <dd>
                  <Mono>{short(loopback6Key)}</Mono>
                </dd>
              </>
            )}
            {rack && (
              <>
                <dt>VTEP</dt>
                <dd>
                  <Mono>{short(vtepKey)}</Mono>
                </dd>
              </>
            )}
          </>
        )}
        {first.duties && (
          <>
            <dt>Duties</dt>
            <dd>{first.duties.map((d) => DUTY_WORDS[d]).join(', ')}</dd>
          </>
        )}
        <dt>{rack ? 'Uplinks' : 'Links'}</dt>
        <dd>
          {links.length} × {speed ?? '?'}G
          {live?.readAt ? `, ${down.length === 0 ? 'all up' : `${down.length} not up`}` : ''}
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
      {rack && may && <RackPlace key={rack.number} rack={rack} />}
      <Rule />
      <Cap>State</Cap>
      {states.map((s) => (
        <Row key={s.seat} $gap={7}>
          <StateMark
            mood={s.serial === null ? 'bud' : healthMood[stands.get(s.seat)?.standing ?? 'unread']}
            size={16}
          />
          <span>
            <Link to={`/fabrics/${fabric.name}/seats?at=seat:${s.seat}`}>
              <Mono>{s.host}</Mono>
            </Link>{' '}
            {s.serial === null ? 'seat is empty' : <Stand s={stands.get(s.seat)} />}
            <DrainWords seat={s.seat} />
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
      <AsideFoot>
        <LinkButton to={`/fabrics/${fabric.name}/text/${first.id}`}>Text</LinkButton>
        {rack && <LinkButton to={`/fabrics/${fabric.name}/ports?rack=${rack.number}`}>Ports</LinkButton>}
        <Button onPress={onLattice}>Lattice</Button>
        {may && isRouted(intent) && seats.length === 1 && (
          <Button onPress={() => void makeEdits([{ kind: isDrained ? 'bringBack' : 'drainSeat', seat: first.id }])}>
            {isDrained ? 'Bring back' : 'Drain'}
          </Button>
        )}
        {rack && may && (
          <Button $kind="danger" onPress={() => setRemoving(true)}>
            Remove
          </Button>
        )}
      </AsideFoot>
      {rack && (
        <AskDialog
          title={`Remove rack-${rack.number}`}
          yes="Remove it"
          isOpen={removing}
          onClose={() => setRemoving(false)}
          onYes={() => {
            setRemoving(false);
            void makeEdits([{ kind: 'removeRack', number: rack.number }]);
          }}
        >
          With it {seats.length === 1 ? 'goes its leaf' : `go its ${seats.length} leaves`} (
          {seats.map((s) => s.host).join(', ')})
          {used === 0
            ? '; no server is connected there.'
            : ` and ${used} ${used === 1 ? 'server' : 'servers'}: ${intent.ports
                .filter((p) => p.rack === rack.number)
                .slice(0, 6)
                .map((p) => p.server)
                .join(', ')}${used > 6 ? ' and more' : ''}.`}{' '}
          The edit can be undone in the change.
        </AskDialog>
      )}
    </>
  );
}

/** What of draining is not said by how it is. */
function DrainWords({ seat }: { readonly seat: string }) {
  const { words } = useDrain(seat);
  return words === null || words === 'drained' ? null : (
    <Faded style={{ display: 'block', fontSize: 12 }}>{words}</Faded>
  );
}

/** How one switch is, why, and when that was read. */
function Stand({ s }: { readonly s: SeatStand | undefined }) {
  if (!s) return <>unread</>;
  return (
    <>
      {s.standing}
      {s.byHand.length > 0 && `: ${s.byHand.slice(0, 2).join('; ')}`}
      {s.why !== null && `: ${s.why}`}
      <Faded style={{ display: 'block', fontSize: 12 }}>
        {s.readAt === null ? 'never read' : `read ${ago(s.readAt)}`}
      </Faded>
    </>
  );
}
