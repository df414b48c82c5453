import { token, type Token } from '../../../parts/theme.ts';

/** The two scrolls that carry a palmette. */
export const Scrolls = ({ centre }: { readonly centre: { readonly x: number; readonly y: number } }) => (
  <path
    d={`M${centre.x - 150} ${centre.y + 68}c30-26 92-26 150 0c58-26 120-26 150 0`}
    fill="none"
    stroke={token('ochre')}
    strokeWidth={1.4}
    opacity={0.55}
  />
);

/** From so many spines on they are drawn small, and named only close by. */
const MANY_SPINES = 12;

/** A spine: a rhombus with its name under it. */
export function SpineMark({
  at,
  among,
  k,
  on,
  colours: [fill, stroke],
  isEmpty = false,
}: {
  readonly at: { readonly seat: string; readonly x: number; readonly y: number };
  /** How many spines there are. */
  readonly among: number;
  /** The scale of the picture. */
  readonly k: number;
  readonly on: boolean;
  readonly colours: readonly [Token, Token];
  readonly isEmpty?: boolean;
}) {
  const small = among > MANY_SPINES;
  return (
    <>
      <path
        transform={`translate(${at.x} ${at.y}) scale(${small ? 0.62 : 1})`}
        d="M0-11 11 0 0 11-11 0Z"
        fill={token(on ? 'verdigris-wash' : fill)}
        stroke={token(on ? 'verdigris' : stroke)}
        strokeWidth={1.7}
        strokeDasharray={isEmpty ? '3 2.4' : undefined}
      />
      {(!small || k > 2 || on) && (
        <text
          x={at.x}
          y={at.y + (small ? 18 : 27)}
          fontSize={12 / k ** 0.7}
          textAnchor="middle"
          fill={token('ink')}
          fontWeight={on ? 700 : 400}
        >
          {at.seat}
        </text>
      )}
    </>
  );
}
