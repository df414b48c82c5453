import { rowsAbove } from './rowsAbove.ts';
import type { SwitchStanding } from '../../../parts/moods.ts';
import type { SeatStand } from '../stands.ts';
import { countTiers, type Layout, type LinkStand } from '@anthemion/core';
import { useEffect, useMemo, useRef } from 'react';
import { useAppSelector } from '../../../app/store.ts';
import { tierText } from '../../../parts/tierText.ts';
import { worstOf } from '../../../parts/moods.ts';
import { token, type Token } from '../../../parts/theme.ts';
import { coloursNow, drawGroups, drawSeeds, seedTone, type BundleEnd } from './drawGroups.ts';
import { groupOutline, layGroups, type RackGroup } from './groups.ts';
import { HEALTH_COLOURS, isWrong } from './palmetteColours.ts';
import { Scrolls, SpineMark } from './PalmetteFoot.tsx';
import { PictureFrame } from './PictureFrame.tsx';
import { usePalmetteKeys } from './usePalmetteKeys.ts';
import { useSize, useZoom } from './usePicture.ts';

interface Props {
  readonly layout: Layout;
  readonly groups: readonly RackGroup[];
  readonly stands: ReadonlyMap<string, SeatStand>;
  /** Links that are not up, by name. */
  readonly links: ReadonlyMap<string, LinkStand>;
  /** Seats the open change touches; null = state is shown. */
  readonly touched: ReadonlySet<string> | null;
  readonly selected: string | null;
  readonly onSelect: (at: string) => void;
  readonly onOpen: (group: RackGroup) => void;
}

/** From this scale on, names stand beside every petal though they are small. */
const NAMES_FROM = 0.4;

/** A large fabric: a petal is a group of racks, a seed in it a switch, a curve a bundle of links. */
export function GroupedPicture({ layout, groups, stands, links, touched, selected, onSelect, onOpen }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const layer = useRef<HTMLDivElement>(null);
  const below = useRef<HTMLCanvasElement>(null);
  const above = useRef<HTMLCanvasElement>(null);
  const svg = useRef<SVGSVGElement>(null);
  const sheet = useAppSelector((s) => s.preferences.sheet);
  const size = useSize(frame);
  const settled = useZoom(frame, layer);
  const rows = useMemo(() => rowsAbove(layout), [layout]);
  const spines = useMemo(() => rows.flat(), [rows]);
  const laid = useMemo(() => layGroups(groups, rows, size.width, size.height), [groups, rows, size]);
  const bundles = useMemo(() => {
    const ends = new Map<string, BundleEnd>([
      ...laid.petals.flatMap((p) => {
        const end = { at: `group:${p.group.id}`, place: p.foot };
        return p.group.seats.map((s) => [s, end] as const);
      }),
      ...laid.spines.map((s) => [s.seat, { at: `seat:${s.seat}`, place: s }] as const),
    ]);
    const made = new Map<string, { lower: BundleEnd; upper: BundleEnd; links: number; wrong: number }>();
    for (const l of layout.links) {
      const [lower, upper] = [ends.get(l.a.seat), ends.get(l.b.seat)];
      // What stays within a group is in its petal.
      if (!lower || !upper || lower === upper) continue;
      const key = `${lower.at} ${upper.at}`;
      const bundle = made.get(key) ?? { lower, upper, links: 0, wrong: 0 };
      made.set(key, bundle);
      bundle.links++;
      if (isWrong(links.get(l.id) ?? 'up')) bundle.wrong++;
    }
    return [...made.values()];
  }, [laid, layout, links]);
  const health = (seat: string): SwitchStanding => stands.get(seat)?.standing ?? 'unread';
  const tone = (seat: string): Token =>
    touched === null ? seedTone[health(seat)] : touched.has(seat) ? 'ochre' : 'link';

  useEffect(() => {
    const draw = (canvas: HTMLCanvasElement | null, paint: (ctx: CanvasRenderingContext2D) => void): void => {
      const ctx = canvas?.getContext('2d');
      if (!canvas || !ctx) return;
      const ratio = window.devicePixelRatio || 1;
      canvas.width = size.width * ratio;
      canvas.height = size.height * ratio;
      ctx.setTransform(ratio * settled.k, 0, 0, ratio * settled.k, ratio * settled.x, ratio * settled.y);
      paint(ctx);
    };
    const colour = coloursNow();
    draw(below.current, (ctx) => drawGroups(ctx, { laid, bundles, selected }, colour));
    draw(above.current, (ctx) => drawSeeds(ctx, { laid, tone, hollow: (s) => health(s) === 'unread' }, colour));
    // `tone` follows from these.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [laid, bundles, selected, stands, touched, size, settled, sheet]);

  const open = (at: string): void => {
    const group = groups.find((g) => at === `group:${g.id}`);
    if (group) onOpen(group);
  };
  const node = usePalmetteKeys({
    svg,
    spines: spines.map((s) => `seat:${s}`),
    petals: groups.map((g) => `group:${g.id}`),
    selected,
    onSelect,
    onOpen: open,
  });
  const transform = settled.toString();

  return (
    <PictureFrame ref={frame}>
      <div ref={layer} className="layer">
        <canvas ref={below} aria-hidden style={size} />
        <svg
          ref={svg}
          {...size}
          viewBox={`0 0 ${size.width} ${size.height}`}
          role="group"
          aria-label={`Palmette: ${tierText(countTiers(layout.seats))} in ${groups.length} groups of racks`}
        >
          <g transform={transform}>
            <Scrolls centre={laid.base} />
            {laid.petals.map((p) => {
              const at = `group:${p.group.id}`;
              const on = selected === at;
              const worst = worstOf(p.group.seats.map(health));
              return (
                <g
                  key={p.group.id}
                  {...node(
                    at,
                    `${p.group.name}, ${p.group.seats.length} leaves, ${worst === 'as meant' ? 'all as meant' : `worst: ${worst}`}`,
                  )}
                  onDoubleClick={() => onOpen(p.group)}
                >
                  <path
                    transform={`translate(${p.x} ${p.y}) rotate(${p.turn}) scale(${p.scale})`}
                    d={groupOutline}
                    fill={token(on ? 'verdigris-wash' : 'sheet')}
                    stroke={token(on ? 'verdigris' : 'rule')}
                    strokeWidth={(on ? 2 : 1.2) / p.scale / Math.sqrt(settled.k)}
                  />
                  {(p.scale * settled.k > NAMES_FROM || on) && (
                    <text
                      x={p.label.x}
                      y={p.label.y + 4}
                      fontSize={11.5 / settled.k ** 0.7}
                      textAnchor="middle"
                      fill={token(on ? 'ink' : 'faded')}
                      fontWeight={on ? 700 : 400}
                    >
                      {p.group.name.replace('racks ', '')}
                    </text>
                  )}
                </g>
              );
            })}
            {laid.spines.map((s) => (
              <g key={s.seat} {...node(`seat:${s.seat}`, `${s.seat}, ${layout.seatById.get(s.seat)?.host ?? ''}`)}>
                <SpineMark
                  at={s}
                  among={spines.length}
                  k={settled.k}
                  on={selected === `seat:${s.seat}`}
                  colours={touched === null ? HEALTH_COLOURS[health(s.seat)] : ['sheet', 'ink']}
                />
              </g>
            ))}
          </g>
        </svg>
        <canvas ref={above} aria-hidden style={size} />
      </div>
    </PictureFrame>
  );
}
