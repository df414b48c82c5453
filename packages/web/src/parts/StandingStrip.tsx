import type { Standing } from '@anthemion/contract';
import { scaleLinear, scaleTime } from 'd3-scale';
import { styled } from 'styled-components';
import { token } from './theme.ts';

const WIDTH = 440;
const HEIGHT = 22;
const QUARTER_MS = 15 * 60_000;
const QUARTERS = 96;
/** A share of switches however small is to be seen, pixels. */
const LEAST = 4;

export interface StripBar {
  readonly x: number;
  readonly width: number;
  readonly known: boolean;
  /** From the foot: what is wrong, what is unread, then waiting; the rest is as meant. Pixels. */
  readonly wrong: number;
  readonly unread: number;
  readonly waiting: number;
}

/** Bars of a day, oldest first, ending with the quarter of an hour that holds `now`; quarters nobody noted are not known. */
export function stripBars(standings: readonly Standing[], now: number): StripBar[] {
  const last = Math.floor(now / QUARTER_MS);
  const at = new Map(standings.map((s) => [Math.floor(Date.parse(s.at) / QUARTER_MS), s]));
  const step = WIDTH / QUARTERS;
  return Array.from({ length: QUARTERS }, (_, i): StripBar => {
    const s = at.get(last - QUARTERS + 1 + i);
    const bar = { x: i * step, width: step - 1 };
    if (!s || s.switches === 0) return { ...bar, known: false, wrong: 0, unread: 0, waiting: 0 };
    const high = scaleLinear([0, s.switches], [0, HEIGHT]);
    const part = (n: number): number => (n === 0 ? 0 : Math.max(LEAST, high(n)));
    // A cable that is out makes no switch wrong, but the quarter is; that a switch is unread is a cause, and not yet wrong.
    const wrong = part(s.drifted || Math.min(1, Math.max(0, s.causes - s.unread)));
    const unread = Math.min(HEIGHT - wrong, part(s.unread));
    return { ...bar, known: true, wrong, unread, waiting: Math.min(HEIGHT - wrong - unread, part(s.waiting)) };
  });
}

/** A day of a fabric, a bar for each quarter of an hour: how much of it was as meant, at its worst. */
export function StandingStrip({
  standings,
  label,
}: {
  readonly standings: readonly Standing[];
  readonly label: string;
}) {
  const now = Date.now();
  const bars = stripBars(standings, now);
  const time = scaleTime([now - QUARTERS * QUARTER_MS, now], [0, WIDTH]);
  // None so late that it would stand in the way of “now”.
  const hours = time.ticks(4).filter((t) => time(t) < WIDTH * 0.88);
  const bad = standings.filter((s) => s.causes > 0).length;
  return (
    <Strip>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        preserveAspectRatio="none"
        role="img"
        aria-label={`${label}: ${standings.length} quarters of an hour known, something wrong in ${bad}`}
      >
        {bars.map((b) => (
          <g key={b.x}>
            <rect
              x={b.x}
              y={b.known ? 0 : HEIGHT - 1}
              width={b.width}
              height={b.known ? HEIGHT : 1}
              fill={token(b.known ? 'verdigris' : 'rule')}
              opacity={b.known ? 0.5 : 1}
            />
            {b.waiting > 0 && (
              <rect
                x={b.x}
                y={HEIGHT - b.wrong - b.unread - b.waiting}
                width={b.width}
                height={b.waiting}
                fill={token('ochre')}
              />
            )}
            {b.unread > 0 && (
              <rect x={b.x} y={HEIGHT - b.wrong - b.unread} width={b.width} height={b.unread} fill={token('rule')} />
            )}
            {b.wrong > 0 && (
              <rect x={b.x} y={HEIGHT - b.wrong} width={b.width} height={b.wrong} fill={token('madder')} />
            )}
          </g>
        ))}
      </svg>
      <div aria-hidden>
        {hours.map((t) => (
          <span key={t.getTime()} style={{ left: `${(time(t) / WIDTH) * 100}%` }}>
            {time.tickFormat(4, '%H:%M')(t)}
          </span>
        ))}
        <span style={{ left: '100%' }}>now</span>
      </div>
    </Strip>
  );
}
const Strip = styled.div`
  min-width: 0;
  padding-right: 14px;
  svg {
    display: block;
    width: 100%;
    height: ${HEIGHT}px;
  }
  div {
    position: relative;
    height: 15px;
    font-size: 11px;
    color: ${token('faded')};
  }
  div span {
    position: absolute;
    transform: translateX(-50%);
    white-space: nowrap;
  }
`;
