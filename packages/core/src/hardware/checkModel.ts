import { problem, type Finding } from '../finding.ts';
import { expandPorts } from '../numbers/ports.ts';
import { PORT_NAMING } from './dialects.ts';
import { everyPort } from './portNames.ts';
import { reservedWord } from './reservedNames.ts';
import { PARTS_FORM, type PortBlock, type SwitchModel } from './switchModel.ts';

/**
 * Blocks of ports as people write them, one a line: ports, speed, into how many one can be split and what its first part
 * is called after it, what the switch calls them. What `blocksText` writes, `blocksOf` reads.
 */
export const blocksText = (blocks: readonly PortBlock[]): string =>
  blocks
    .map(
      ({ ports, speed, splits = [], parts, names }) =>
        `${ports} ${speed}G${splits.length > 0 ? ` × ${splits.join(', ')}` : ''}${parts === undefined ? '' : ` as ${parts}`}${names === undefined ? '' : ` = ${names}`}`,
    )
    .join('\n');

const SPEED = /^(\d{1,4})G?$/i;
/** A block of a line; null = it is not written so. */
function blockOf(line: string): PortBlock | null {
  const [told = '', names, more] = line
    .replace(/\s+/g, ' ')
    .split('=')
    .map((part) => part.trim());
  const [head = '', parts, other] = told.split(' as ');
  // The cross may stand by itself, or at the speed: 100G×4.
  const [ports = '', ...rest] = head.split(' ');
  const [speed = '', ways, third] = rest.join(' ').split(/\s?[×x]\s?/);
  const splits = ways?.split(/[\s,]+/);
  const said = [more, other, third].every((m) => m === undefined) && SPEED.test(speed) && expandPorts(ports) !== null;
  if (!said || (names !== undefined && expandPorts(names) === null)) return null;
  if (splits && !splits.every((s) => /^[2-8]$/.test(s))) return null;
  if (parts !== undefined && (!splits || !PARTS_FORM.test(parts))) return null;
  return {
    ports,
    speed: Number(SPEED.exec(speed)![1]),
    ...(splits ? { splits: splits.map(Number) } : {}),
    ...(parts === undefined ? {} : { parts }),
    ...(names === undefined ? {} : { names }),
  };
}

/** `p1-p48 25G`, `e1/49-e1/56 100G × 2, 4 as /1 = swp49-swp56`; null = it is not written so. */
export function blocksOf(text: string): PortBlock[] | null {
  const out: PortBlock[] = [];
  for (const line of text.split('\n').map((l) => l.trim())) {
    if (line === '') continue;
    const block = blockOf(line);
    if (!block) return null;
    out.push(block);
  }
  return out;
}

/** What is wrong with what ports of a model are called, on it and on its switches. */
function namesWrong({ name, blocks, dialect }: SwitchModel): Finding[] {
  const { form, formWords, longest } = PORT_NAMING[dialect];
  const model = name || 'the model';
  const out: Finding[] = [];
  const wrong = (block: number, message: string, cure: string): void => {
    // One of a kind for each block: the others are alike.
    const field = blocks[block]!.names === undefined ? 'ports' : 'names';
    const path = `/blocks/${block}/${field}`;
    if (!out.some((f) => f.path === path)) out.push(problem('model-names', path, message, cure));
  };
  blocks.forEach(({ ports, names }, block) => {
    const [have, said] = [
      expandPorts(ports)?.length ?? 0,
      names === undefined ? null : (expandPorts(names)?.length ?? 0),
    ];
    if (said !== null && said !== have)
      wrong(block, `${ports} of ${model} are ${have} ports, ${names} are ${said} names.`, 'Give each port one name.');
  });
  if (out.length > 0) return out;
  const all = everyPort({ blocks, dialect });
  const labels = new Set(all.map((p) => p.label));
  const byName = new Map<string, string>();
  for (const { label, name: own, block } of all) {
    const cure = 'Say what the switch calls them after a =, as in e1/1-e1/48 25G = swp1-swp48.';
    if (!form.test(own))
      wrong(block, `No switch takes ${own} as the name of ${label}: a name holds ${formWords}.`, cure);
    else if (own.length > longest)
      wrong(block, `The switch would call ${label} ${own}, but a name has at most ${longest} characters there.`, cure);
    // Makers of switches have eth0 for the management, and may call front ports on from there.
    const reserved = /^eth[1-9]/.test(own) ? null : reservedWord(own);
    if (reserved !== null) wrong(block, `${own} is ${reserved}; a port cannot have the name.`, cure);
    const other = byName.get(own);
    if (other !== undefined && other !== label)
      wrong(block, `${other} and ${label} of ${model} would both be ${own} on the switch.`, cure);
    byName.set(own, label);
    const [, whole] = /^(.+)\.\d{1,4}$/.exec(label) ?? [];
    if (whole !== undefined && labels.has(whole))
      wrong(block, `${label} of ${model} is what a VLAN of port ${whole} is called.`, 'Call one of the two otherwise.');
  }
  return out;
}

/** What cannot be of a switch model: a port in two blocks, a split that is no way to split it, a name no switch takes. */
export function checkModel(model: SwitchModel): Finding[] {
  const { name, blocks } = model;
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
  return out.length > 0 ? out : namesWrong(model);
}
