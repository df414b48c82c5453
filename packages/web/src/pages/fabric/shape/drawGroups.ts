import type { SwitchStanding } from '../../../parts/moods.ts';
import type { Token } from '../../../parts/theme.ts';
import type { GroupedPalmette } from './groups.ts';
import type { Placed } from './palmetteGeometry.ts';

/** One end of a bundle: a group of racks, or a seat above them. */
export interface BundleEnd {
  /** What is selected when it is: `group:hall A`, `seat:spine-1`. */
  readonly at: string;
  readonly place: Placed;
}
/** All links between two ends. */
export interface Bundle {
  readonly lower: BundleEnd;
  readonly upper: BundleEnd;
  /** Links in it, and those of them that are wrong. */
  readonly links: number;
  readonly wrong: number;
}

export interface GroupDrawing {
  readonly laid: GroupedPalmette;
  readonly bundles: readonly Bundle[];
  /** How each seat is, or null: by what the change touches. */
  readonly tone: (seat: string) => Token;
  readonly hollow: (seat: string) => boolean;
  readonly selected: string | null;
}

/** How thick a bundle is drawn. */
const thickness = (links: number): number => Math.min(3.2, 0.7 + links / 24);

/** Colours as the sheet has them now. */
export function coloursNow(): (token: Token) => string {
  const style = getComputedStyle(document.documentElement);
  const known = new Map<Token, string>();
  return (token) => {
    const found = known.get(token);
    if (found !== undefined) return found;
    const value = style.getPropertyValue(`--${token}`).trim();
    known.set(token, value);
    return value;
  };
}

/** Draws what is many: bundles of links, and a seed for every switch. What is few is drawn as SVG above it. */
export function drawGroups(
  ctx: CanvasRenderingContext2D,
  { laid, bundles, selected }: Pick<GroupDrawing, 'laid' | 'bundles' | 'selected'>,
  colour: (token: Token) => string,
): void {
  ctx.lineCap = 'round';
  const order = (b: Bundle): number => (b.wrong > 0 ? 2 : isOn(b, selected) ? 1 : 0);
  for (const b of [...bundles].sort((x, y) => order(x) - order(y))) {
    const on = isOn(b, selected);
    const path = new Path2D(laid.link(b.lower.place, b.upper.place));
    ctx.globalAlpha = b.wrong > 0 ? 1 : on ? 0.95 : selected === null ? 0.42 : 0.22;
    ctx.strokeStyle = colour(b.wrong > 0 ? 'madder' : on ? 'verdigris' : 'link');
    ctx.setLineDash(b.wrong > 0 ? [5, 4] : []);
    ctx.lineWidth = b.wrong > 0 ? 1.8 : thickness(b.links);
    ctx.stroke(path);
  }
  ctx.setLineDash([]);
  ctx.globalAlpha = 1;
}

/** The seeds, above the petals. */
export function drawSeeds(
  ctx: CanvasRenderingContext2D,
  { laid, tone, hollow }: Pick<GroupDrawing, 'laid' | 'tone' | 'hollow'>,
  colour: (token: Token) => string,
): void {
  // One path for each look: a thousand fills one by one cost more than all the rest.
  const looks = new Map<string, { readonly token: Token; readonly empty: boolean; readonly path: Path2D }>();
  for (const petal of laid.petals)
    for (const s of petal.seeds) {
      const token = tone(s.seat);
      const empty = hollow(s.seat);
      const key = `${token} ${empty}`;
      const look = looks.get(key) ?? { token, empty, path: new Path2D() };
      looks.set(key, look);
      const r = token === 'madder' ? petal.seed * 1.35 : petal.seed;
      look.path.moveTo(s.x + r, s.y);
      look.path.arc(s.x, s.y, r, 0, 2 * Math.PI);
    }
  for (const { token, empty, path } of looks.values()) {
    if (empty) {
      ctx.strokeStyle = colour(token);
      ctx.lineWidth = 0.8;
      ctx.stroke(path);
    } else {
      ctx.fillStyle = colour(token);
      ctx.fill(path);
    }
  }
}

const isOn = (b: Bundle, selected: string | null): boolean => selected === b.lower.at || selected === b.upper.at;

/** A seed's colour by how its switch is. */
export const seedTone: Readonly<Record<SwitchStanding, Token>> = {
  'as meant': 'verdigris',
  waiting: 'ochre',
  drifted: 'madder',
  unread: 'faded',
  'out of service': 'plum',
  drained: 'plum',
};
