import type { SeatState } from '@anthemion/contract';
import type { Layout } from '@anthemion/core';
import { select } from 'd3-selection';
import { zoom, zoomIdentity } from 'd3-zoom';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { styled } from 'styled-components';
import { token, type Token } from '../../../app/theme.ts';
import { layPalmette, petalOutline, type PetalInput } from './palmetteGeometry.ts';

export type Show = 'change' | 'state';
interface Props {
  readonly layout: Layout;
  readonly racks: readonly {
    readonly rack: number;
    readonly name: string;
    readonly serverPorts: number;
    readonly used: number;
    readonly touched: number;
  }[];
  readonly seats: ReadonlyMap<string, SeatState>;
  /** Hosts the open change touches. */
  readonly touched: ReadonlySet<string>;
  readonly show: Show;
  readonly selected: string | null;
  readonly onSelect: (at: string) => void;
  readonly findings: ReadonlySet<string>;
}

/** Names appear when there is room for them. */
const NAME_SCALE = 0.55;
const DOTS_SCALE = 0.5;
const HEALTH: Readonly<Record<SeatState['health'], readonly [Token, Token]>> = {
  'as meant': ['verdigris-wash', 'verdigris'],
  waiting: ['ochre-wash', 'ochre'],
  drifted: ['madder-wash', 'madder'],
  unread: ['sheet', 'faded'],
  'out of service': ['sheet', 'plum'],
};

/** The palmette: geometry is computed apart, here it is drawn; zoom, selection and arrow keys. */
export function PalmettePicture({ layout, racks, seats, touched, show, selected, onSelect, findings }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const svg = useRef<SVGSVGElement>(null);
  const [size, setSize] = useState({ width: 740, height: 560 });
  const [view, setView] = useState(zoomIdentity);
  useEffect(() => {
    const watch = new ResizeObserver(
      ([entry]) =>
        entry &&
        setSize({ width: Math.max(360, entry.contentRect.width), height: Math.max(330, entry.contentRect.height) }),
    );
    if (frame.current) watch.observe(frame.current);
    return () => watch.disconnect();
  }, []);
  useEffect(() => {
    if (!svg.current) return;
    const behaviour = zoom<SVGSVGElement, unknown>()
      .scaleExtent([1, 14])
      .on('zoom', (e: { transform: typeof zoomIdentity }) => setView(e.transform));
    select(svg.current).call(behaviour).on('dblclick.zoom', null);
  }, []);

  const inputs = useMemo<PetalInput[]>(() => {
    const byRack = new Map<number, string[]>();
    for (const s of layout.seats) if (s.rack !== undefined) byRack.set(s.rack, [...(byRack.get(s.rack) ?? []), s.id]);
    return [...byRack].map(([rack, ids]) => ({ rack, seats: ids }));
  }, [layout]);
  const spines = useMemo(() => layout.seats.filter((s) => s.role === 'spine').map((s) => s.id), [layout]);
  const fan = useMemo(() => layPalmette(inputs, spines, size.width, size.height), [inputs, spines, size]);
  const rackFacts = useMemo(() => new Map(racks.map((r) => [r.rack, r])), [racks]);
  const leafPoint = useMemo(() => new Map(fan.petals.flatMap((p) => p.leaves.map((l) => [l.seat, l] as const))), [fan]);
  const spinePoint = useMemo(() => new Map(fan.spines.map((s) => [s.seat, s])), [fan]);
  const hostOf = (seat: string): string => layout.seatById.get(seat)?.host ?? seat;
  const selectedRack = selected?.startsWith('rack:') ? Number(selected.slice(5)) : null;
  const selectedSpine = selected?.startsWith('seat:') ? selected.slice(5) : null;
  const many = layout.links.length > 1200;

  const colours = (seat: string): readonly [Token, Token] => {
    const state = seats.get(seat);
    if (show === 'state') return HEALTH[state?.health ?? 'unread'];
    return touched.has(hostOf(seat))
      ? ['ochre-wash', 'ochre']
      : state?.health === 'drifted'
        ? HEALTH.drifted
        : ['verdigris-wash', 'verdigris'];
  };
  const order = [...spines.map((s) => `seat:${s}`), ...fan.petals.map((p) => `rack:${p.rack}`)];
  const walk = (e: KeyboardEvent, at: string): void => {
    const index = order.indexOf(at);
    const step = { ArrowRight: 1, ArrowLeft: -1 }[e.key];
    const jump =
      e.key === 'ArrowUp' && at.startsWith('seat:')
        ? spines.length
        : e.key === 'ArrowDown' && at.startsWith('rack:')
          ? 0
          : undefined;
    if (e.key === 'Enter' || e.key === ' ') {
      e.preventDefault();
      onSelect(at);
      return;
    }
    const to = jump ?? (step === undefined ? undefined : index + step);
    const next = to === undefined ? undefined : order[to];
    if (next === undefined) return;
    e.preventDefault();
    onSelect(next);
    requestAnimationFrame(() => svg.current?.querySelector<SVGElement>(`[data-at="${next}"]`)?.focus());
  };
  const reachable = selected !== null && order.includes(selected) ? selected : order[0];
  const node = (at: string, label: string) => ({
    'data-at': at,
    role: 'button',
    'aria-label': label,
    'aria-pressed': selected === at,
    tabIndex: at === reachable ? 0 : -1,
    onClick: () => onSelect(at),
    onKeyDown: (e: KeyboardEvent) => walk(e, at),
    style: { cursor: 'pointer' },
  });

  return (
    <Frame ref={frame}>
      <svg
        ref={svg}
        width={size.width}
        height={size.height}
        viewBox={`0 0 ${size.width} ${size.height}`}
        role="group"
        aria-label={`Palmette: ${spines.length} spines, ${inputs.length} racks`}
      >
        <g transform={view.toString()}>
          {fan.petals.map((p) => {
            const facts = rackFacts.get(p.rack);
            const on = selectedRack === p.rack;
            const pair = p.leaves.length === 2;
            const dots = Math.min(pair ? 24 : 12, facts?.serverPorts ?? 0);
            const cols = pair ? 6 : 4;
            const used = facts && facts.serverPorts > 0 ? Math.ceil((facts.used / facts.serverPorts) * dots) : 0;
            const fresh = facts ? Math.min(used, facts.touched) : 0;
            const name = facts?.name ?? `rack-${p.rack}`;
            return (
              <g
                key={p.rack}
                {...node(`rack:${p.rack}`, `${name}, ${p.leaves.map((l) => hostOf(l.seat)).join(' and ')}`)}
                className="petal"
              >
                <g transform={`translate(${p.x} ${p.y}) rotate(${p.turn}) scale(${p.scale})`}>
                  <path
                    d={petalOutline(pair ? 36 : 26)}
                    fill={token(on ? 'verdigris-wash' : 'sheet')}
                    stroke={token(on ? 'verdigris' : 'rule')}
                    strokeWidth={(on ? 2 : 1.2) / p.scale / Math.sqrt(view.k)}
                  />
                  {p.scale * view.k > DOTS_SCALE &&
                    Array.from({ length: dots }, (_, k) => {
                      const row = Math.floor(k / cols);
                      const x = ((k % cols) - (cols - 1) / 2) * 6.2 * (1 - row * 0.07);
                      const tone: Token = k < fresh ? 'lapis' : 'link';
                      return (
                        <circle
                          key={k}
                          cx={x}
                          cy={-22 - row * 8.2}
                          r={2}
                          fill={k < used ? token(tone) : 'none'}
                          stroke={token(tone)}
                          strokeWidth={0.8}
                        />
                      );
                    })}
                </g>
                {p.scale * view.k > NAME_SCALE && (
                  <text
                    x={p.label.x}
                    y={p.label.y + 4}
                    fontSize={12 / view.k ** 0.7}
                    textAnchor="middle"
                    fill={token(on ? 'ink' : 'faded')}
                    fontWeight={on ? 700 : 400}
                  >
                    {name}
                  </text>
                )}
              </g>
            );
          })}
          <g fill="none" pointerEvents="none">
            {layout.links.map((l) => {
              const leaf = leafPoint.get(l.leaf);
              const spine = spinePoint.get(l.spine);
              if (!leaf || !spine) return null;
              const seat = layout.seatById.get(l.leaf)!;
              const on = seat.rack === selectedRack || l.spine === selectedSpine;
              const warm = show === 'change' && touched.has(seat.host) && !on;
              if (many && !on && !warm && !l.id.endsWith(':1')) return null;
              return (
                <path
                  key={l.id}
                  d={fan.link(leaf, spine)}
                  stroke={token(on || warm ? 'verdigris' : 'link')}
                  strokeWidth={(on ? 1.5 : many ? 0.35 : 1) / Math.sqrt(view.k)}
                  opacity={on ? 1 : warm ? 0.75 : many ? 0.3 : 0.6}
                />
              );
            })}
          </g>
          {fan.petals.flatMap((p) =>
            p.leaves.map((l) => {
              const [fill, stroke] = colours(l.seat);
              const empty = seats.get(l.seat)?.serial == null;
              return (
                <circle
                  key={l.seat}
                  cx={l.x}
                  cy={l.y}
                  r={Math.max(1.6, 8 * p.scale)}
                  fill={token(fill)}
                  stroke={token(findings.has(hostOf(l.seat)) ? 'madder' : stroke)}
                  strokeWidth={(findings.has(hostOf(l.seat)) ? 2.4 : 1.6) * Math.max(0.4, p.scale)}
                  strokeDasharray={empty ? '3 2.4' : undefined}
                  pointerEvents="none"
                />
              );
            }),
          )}
          {spines.length > 0 && (
            <path
              d={`M${fan.centre.x - 150} ${fan.centre.y + 68}c30-26 92-26 150 0c58-26 120-26 150 0`}
              fill="none"
              stroke={token('ochre')}
              strokeWidth={1.4}
              opacity={0.55}
            />
          )}
          {fan.spines.map((s) => {
            const on = selectedSpine === s.seat;
            const [fill, stroke] = colours(s.seat);
            const empty = seats.get(s.seat)?.serial == null;
            const small = fan.spines.length > 12;
            return (
              <g key={s.seat} {...node(`seat:${s.seat}`, `${s.seat}, ${hostOf(s.seat)}`)}>
                <path
                  transform={`translate(${s.x} ${s.y}) scale(${small ? 0.6 : 1})`}
                  d="M0-11 11 0 0 11-11 0Z"
                  fill={token(on ? 'verdigris-wash' : show === 'state' || touched.has(hostOf(s.seat)) ? fill : 'sheet')}
                  stroke={token(on ? 'verdigris' : show === 'state' || touched.has(hostOf(s.seat)) ? stroke : 'ink')}
                  strokeWidth={1.7}
                  strokeDasharray={empty ? '3 2.4' : undefined}
                />
                {(!small || view.k > 2) && (
                  <text
                    x={s.x}
                    y={s.y + 27}
                    fontSize={12 / view.k ** 0.7}
                    textAnchor="middle"
                    fill={token('ink')}
                    fontWeight={on ? 700 : 400}
                  >
                    {s.seat}
                  </text>
                )}
              </g>
            );
          })}
        </g>
      </svg>
    </Frame>
  );
}
const Frame = styled.div`
  flex: 1;
  min-height: 0;
  overflow: hidden;
  margin: 0 -10px;
  svg {
    display: block;
    touch-action: none;
  }
  .petal:hover path {
    fill: ${token('verdigris-wash')};
  }
  [role='button']:focus {
    outline: none;
  }
  [role='button']:focus-visible path {
    stroke: ${token('lapis')};
    stroke-width: 3;
  }
`;
