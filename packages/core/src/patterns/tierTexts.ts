import { expandPorts } from '../numbers/ports.ts';
import type { Breakout, TierSwitches } from './patterns.ts';

/** Break-outs and unlike models as people write them; what `…Text` writes, `…Of` reads. */

export const breakoutsText = (breakouts: readonly Breakout[] = []): string =>
  breakouts.map((b) => `${b.ports} × ${b.into}`).join('; ');

/** `p49-p52 × 4; p53 x 2`; null = it is not written so. */
export function breakoutsOf(text: string): Breakout[] | null {
  const out: Breakout[] = [];
  for (const part of text.split(';').map((p) => p.trim())) {
    if (part === '') continue;
    const [, ports = '', into = ''] = /^(\S.{0,190}?)\s?[×x]\s?(\d)$/.exec(part) ?? [];
    if (into === '' || expandPorts(ports.trim()) === null) return null;
    out.push({ ports: ports.trim(), into: Number(into) });
  }
  return out;
}

type Others = NonNullable<TierSwitches['others']>;
export const othersText = (others: Others = []): string => others.map((o) => `${o.number} ${o.model}`).join(', ');

/** `2 BW-L32D, 3 BW-L32D`; null = it is not written so. */
export function othersOf(text: string): Others | null {
  const out: { number: number; model: string }[] = [];
  for (const part of text.split(',').map((p) => p.trim())) {
    if (part === '') continue;
    const [, number, model] = /^(\d{1,2}) +([A-Za-z0-9][\w.-]*)$/.exec(part) ?? [];
    if (number === undefined || model === undefined) return null;
    out.push({ number: Number(number), model });
  }
  return out;
}
