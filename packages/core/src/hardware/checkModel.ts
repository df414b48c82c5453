import { problem, type Finding } from '../finding.ts';
import { expandPorts } from '../numbers/order.ts';
import type { PortBlock, SwitchModel } from './switchModel.ts';

/** Blocks of ports as people write them, one a line: `p49-p56 100G, split into 2 or 4`; what `blocksText` writes, `blocksOf` reads. */
export const blocksText = (blocks: readonly PortBlock[]): string =>
  blocks
    .map(({ ports, speed, splits = [] }) => `${ports} ${speed}G${splits.length > 0 ? ` × ${splits.join(', ')}` : ''}`)
    .join('\n');

/** `p1-p48 25G`, `p49-p56 100G × 2, 4`; null = it is not written so. */
export function blocksOf(text: string): PortBlock[] | null {
  const out: PortBlock[] = [];
  for (const line of text.split('\n').map((l) => l.trim())) {
    if (line === '') continue;
    const [head = '', ways, more] = line.split(/[×x]/);
    const [ports = '', said = '', other] = head.trim().split(/\s+/);
    const [, speed] = /^(\d{1,4})G?$/i.exec(said) ?? [];
    const splits = ways?.split(/[\s,]+/).filter((w) => w !== '');
    if (speed === undefined || other !== undefined || more !== undefined || expandPorts(ports) === null) return null;
    if (splits && (splits.length === 0 || !splits.every((s) => /^[2-8]$/.test(s)))) return null;
    out.push({ ports, speed: Number(speed), ...(splits ? { splits: splits.map(Number) } : {}) });
  }
  return out;
}

/** What cannot be of a switch model: a port that stands in two blocks, a split that is no way to split it. */
export function checkModel({ name, blocks }: SwitchModel): Finding[] {
  const out: Finding[] = [];
  const blockOf = new Map<string, number>();
  blocks.forEach(({ ports, speed, splits = [] }, i) => {
    const twice = (expandPorts(ports) ?? []).find((p) => blockOf.has(p));
    if (twice !== undefined)
      out.push(
        problem(
          'model-ports',
          `/blocks/${i}/ports`,
          `Port ${twice} of ${name || 'the model'} stands in ${blocks[blockOf.get(twice)!]!.ports} already.`,
          'Name each port once.',
        ),
      );
    for (const p of expandPorts(ports) ?? []) if (!blockOf.has(p)) blockOf.set(p, i);
    const uneven = splits.find((s) => speed % s !== 0);
    if (uneven !== undefined)
      out.push(
        problem(
          'model-splits',
          `/blocks/${i}/splits`,
          `A port of ${speed}G cannot become ${uneven} ports of one speed.`,
          'Name ways to split that leave whole numbers of Gb/s.',
        ),
      );
  });
  return out;
}
