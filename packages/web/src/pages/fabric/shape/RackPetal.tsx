import { useMemo } from 'react';
import { token } from '../../../parts/theme.ts';
import { petalOutline, type Petal } from './palmetteGeometry.ts';

export interface RackFacts {
  readonly rack: number;
  readonly name: string;
  readonly serverPorts: number;
  readonly used: number;
  readonly touched: number;
}
/** Dots appear when there is room for them. */
const DOTS_SCALE = 0.5;

const dot = (x: number, y: number): string => `M${x + 2} ${y}a2 2 0 1 1-4 0a2 2 0 1 1 4 0Z`;

/** A rack: its outline, and a dot for every few server ports, filled where they are used. */
export function RackPetal({
  petal: p,
  facts,
  on,
  k,
}: {
  readonly petal: Petal;
  readonly facts: RackFacts | undefined;
  readonly on: boolean;
  readonly k: number;
}) {
  const pair = p.leaves.length === 2;
  const dots = Math.min(pair ? 24 : 12, facts?.serverPorts ?? 0);
  const cols = pair ? 6 : 4;
  const used = facts && facts.serverPorts > 0 ? Math.ceil((facts.used / facts.serverPorts) * dots) : 0;
  const fresh = facts ? Math.min(used, facts.touched) : 0;
  const [free, taken, now] = useMemo(() => {
    const paths: [string, string, string] = ['', '', ''];
    for (let i = 0; i < dots; i++) {
      const row = Math.floor(i / cols);
      const at = dot(((i % cols) - (cols - 1) / 2) * 6.2 * (1 - row * 0.07), -22 - row * 8.2);
      paths[i < fresh ? 2 : i < used ? 1 : 0] += at;
    }
    return paths;
  }, [dots, cols, used, fresh]);
  return (
    <g transform={`translate(${p.x} ${p.y}) rotate(${p.turn}) scale(${p.scale})`}>
      <path
        d={petalOutline(pair ? 36 : 26)}
        fill={token(on ? 'verdigris-wash' : 'sheet')}
        stroke={token(on ? 'verdigris' : 'rule')}
        strokeWidth={(on ? 2 : 1.2) / p.scale / Math.sqrt(k)}
      />
      {p.scale * k > DOTS_SCALE && (
        <g strokeWidth={0.8} className="dots">
          <path d={free} fill="none" stroke={token('link')} />
          <path d={taken} fill={token('link')} stroke={token('link')} />
          <path d={now} fill={token('lapis')} stroke={token('lapis')} />
        </g>
      )}
    </g>
  );
}
