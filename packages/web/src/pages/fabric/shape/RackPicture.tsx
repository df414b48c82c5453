import { rowsAbove } from './rowsAbove.ts';
import type { SeatState } from '@anthemion/contract';
import type { SeatStand } from '../stands.ts';
import type { Layout, Link, LinkStand } from '@anthemion/core';
import { useMemo, useRef } from 'react';
import { token, type Token } from '../../../parts/theme.ts';
import { HEALTH_COLOURS, isWrong, linkLook } from './palmetteColours.ts';
import { layPalmette, type PetalInput, type Placed } from './palmetteGeometry.ts';
import { LeafMark } from './LeafMark.tsx';
import { RackPetal, type RackFacts } from './RackPetal.tsx';
import { Scrolls, SpineMark } from './PalmetteFoot.tsx';
import { PictureFrame } from './PictureFrame.tsx';
import { usePalmetteKeys } from './usePalmetteKeys.ts';
import { useSize, useZoom } from './usePicture.ts';

export type Show = 'change' | 'state';
interface Props {
  readonly layout: Layout;
  /** The racks that are drawn: all of them, or those of the group that is open. */
  readonly racks: readonly RackFacts[];
  readonly seats: ReadonlyMap<string, SeatState>;
  readonly stands: ReadonlyMap<string, SeatStand>;
  /** Links that are not up, by name. */
  readonly links: ReadonlyMap<string, LinkStand>;
  /** Hosts the open change touches. */
  readonly touched: ReadonlySet<string>;
  readonly show: Show;
  readonly selected: string | null;
  readonly onSelect: (at: string) => void;
  readonly findings: ReadonlySet<string>;
}

/** Names appear when there is room for them. */
const NAME_SCALE = 0.55;

/** Every rack a petal, its leaves in it, every link a curve; zoom, selection and arrow keys. */
export function RackPicture(props: Props) {
  const { layout, racks, seats, stands, links, touched, show, selected, onSelect, findings } = props;
  const frame = useRef<HTMLDivElement>(null);
  const layer = useRef<HTMLDivElement>(null);
  const svg = useRef<SVGSVGElement>(null);
  const size = useSize(frame);
  const view = useZoom(frame, layer);

  const inputs = useMemo<PetalInput[]>(() => {
    const byRack = new Map<number, string[]>(racks.map((r) => [r.rack, []]));
    for (const s of layout.seats) if (s.rack !== undefined) byRack.get(s.rack)?.push(s.id);
    return [...byRack].map(([rack, ids]) => ({ rack, seats: ids }));
  }, [layout, racks]);
  const rows = useMemo(() => rowsAbove(layout), [layout]);
  const spines = useMemo(() => rows.flat(), [rows]);
  const fan = useMemo(() => layPalmette(inputs, rows, size.width, size.height), [inputs, rows, size]);
  const rackFacts = useMemo(() => new Map(racks.map((r) => [r.rack, r])), [racks]);
  const points = useMemo(
    () =>
      new Map<string, Placed>([
        ...fan.petals.flatMap((p) => p.leaves.map((l) => [l.seat, l] as const)),
        ...fan.spines.map((s) => [s.seat, s] as const),
      ]),
    [fan],
  );
  const hostOf = (seat: string): string => layout.seatById.get(seat)?.host ?? seat;
  const selectedRack = selected?.startsWith('rack:') ? Number(selected.slice(5)) : null;
  const selectedSpine = selected?.startsWith('seat:') ? selected.slice(5) : null;
  const isEmpty = (seat: string): boolean => seats.get(seat)?.serial == null;
  const colours = (seat: string): readonly [Token, Token] => {
    const health = stands.get(seat)?.standing ?? 'unread';
    if (show === 'state') return HEALTH_COLOURS[health];
    if (touched.has(hostOf(seat))) return ['ochre-wash', 'ochre'];
    return health === 'drifted' ? HEALTH_COLOURS.drifted : ['verdigris-wash', 'verdigris'];
  };

  /** Curves that look the same are one path: a picture of few nodes, however many links there are. */
  const curves = useMemo(() => {
    const curve = (l: Link): string => {
      const [from, to] = [points.get(l.a.seat), points.get(l.b.seat)];
      return from && to ? fan.link(from, to) : '';
    };
    const isSelected = (l: Link): boolean =>
      [l.a.seat, l.b.seat].some(
        (s) => s === selectedSpine || (selectedRack !== null && layout.seatById.get(s)!.rack === selectedRack),
      );
    const out = { plain: '', unread: '', warm: '', on: '', wrong: [] as { id: string; d: string; stand: LinkStand }[] };
    for (const l of layout.links) {
      const d = curve(l);
      if (d === '') continue;
      const seat = layout.seatById.get(l.a.seat)!;
      const stand = links.get(l.id) ?? 'up';
      if (isWrong(stand)) out.wrong.push({ id: l.id, d, stand });
      else if (isSelected(l)) out.on += d;
      else if (show === 'change' && touched.has(seat.host)) out.warm += d;
      else if (stand === 'up') out.plain += d;
      else out.unread += d;
    }
    return out;
  }, [layout, links, points, fan, selectedRack, selectedSpine, show, touched]);

  const node = usePalmetteKeys({
    svg,
    spines: spines.map((s) => `seat:${s}`),
    petals: fan.petals.map((p) => `rack:${p.rack}`),
    selected,
    onSelect,
  });
  const thin = Math.sqrt(view.k);

  return (
    <PictureFrame ref={frame}>
      <div ref={layer} className="layer">
        <svg
          ref={svg}
          width={size.width}
          height={size.height}
          viewBox={`0 0 ${size.width} ${size.height}`}
          role="group"
          aria-label={`Palmette: ${spines.length} ${rows.length > 1 ? 'spines and super-spines' : 'spines'}, ${inputs.length} racks`}
        >
          <g transform={view.toString()}>
            {fan.petals.map((p) => {
              const on = selectedRack === p.rack;
              const name = rackFacts.get(p.rack)?.name ?? `rack-${p.rack}`;
              return (
                <g
                  key={p.rack}
                  {...node(`rack:${p.rack}`, `${name}, ${p.leaves.map((l) => hostOf(l.seat)).join(' and ')}`)}
                  className="petal"
                >
                  <RackPetal petal={p} facts={rackFacts.get(p.rack)} on={on} k={view.k} />
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
              <path d={curves.plain} stroke={token('link')} strokeWidth={1 / thin} opacity={0.6} />
              <path
                d={curves.unread}
                stroke={token('link')}
                strokeWidth={1 / thin}
                strokeDasharray="1 4"
                opacity={0.9}
              />
              <path d={curves.warm} stroke={token('verdigris')} strokeWidth={1 / thin} opacity={0.75} />
              <path d={curves.on} stroke={token('verdigris')} strokeWidth={1.5 / thin} />
              {curves.wrong.map((l) => (
                <path
                  key={l.id}
                  data-link={l.id}
                  d={l.d}
                  stroke={token(linkLook(l.stand).tone)}
                  strokeWidth={1.8 / thin}
                  strokeDasharray={linkLook(l.stand).dash}
                />
              ))}
            </g>
            {fan.petals.flatMap((p) =>
              p.leaves.map((l) => {
                const [fill, stroke] = colours(l.seat);
                const found = findings.has(hostOf(l.seat));
                return (
                  <LeafMark
                    key={l.seat}
                    at={l}
                    size={Math.max(1.6, 8 * p.scale)}
                    gate={(layout.seatById.get(l.seat)?.duties ?? []).length > 0}
                    fill={token(fill)}
                    stroke={token(found ? 'madder' : stroke)}
                    strokeWidth={(found ? 2.4 : 1.6) * Math.max(0.4, p.scale)}
                    strokeDasharray={isEmpty(l.seat) ? '3 2.4' : undefined}
                    pointerEvents="none"
                  />
                );
              }),
            )}
            {spines.length > 0 && <Scrolls centre={fan.base} />}
            {fan.spines.map((s) => (
              <g key={s.seat} {...node(`seat:${s.seat}`, `${s.seat}, ${hostOf(s.seat)}`)}>
                <SpineMark
                  at={s}
                  among={spines.length}
                  k={view.k}
                  on={selectedSpine === s.seat}
                  colours={show === 'state' || touched.has(hostOf(s.seat)) ? colours(s.seat) : ['sheet', 'ink']}
                  isEmpty={isEmpty(s.seat)}
                />
              </g>
            ))}
          </g>
        </svg>
      </div>
    </PictureFrame>
  );
}
