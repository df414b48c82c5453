import type { SVGProps } from 'react';
import type { Point } from './palmetteGeometry.ts';

/** A switch with servers: a disc; where it meets what is outside, a gate with a round head. */
export function LeafMark({
  at,
  size: r,
  gate,
  ...look
}: { readonly at: Point; readonly size: number; readonly gate: boolean } & SVGProps<SVGPathElement>) {
  if (!gate) return <circle cx={at.x} cy={at.y} r={r} {...(look as SVGProps<SVGCircleElement>)} />;
  return <path d={`M${at.x - r} ${at.y + r}v${-r}a${r} ${r} 0 0 1 ${2 * r} 0v${r}Z`} {...look} />;
}
