import type { SwitchFolder } from '@anthemion/core';
import type { Lab } from './lab.ts';

/** A line of a document that the daemons hold elsewhere than it was written, or not at all. */
export interface Stray {
  readonly host: string;
  readonly line: number;
  readonly text: string;
  /** Block it was written in. */
  readonly wrote: string;
  /** Block it is in now; null = nowhere. */
  readonly landed: string | null;
}

interface Placed {
  readonly line: number;
  readonly text: string;
  readonly block: string;
}

const OPENS =
  /^(router |vrf |interface |route-map |bfd$|profile |address-family |vni \d+$|segment-routing|key chain |line |nexthop-group )/;
const CLOSES = /^(exit|exit-vrf|exit-address-family|exit-vni|end)$/;
/** The one-line `vni N` of a VRF is no block. */
const opens = (text: string, block: readonly string[]): boolean =>
  OPENS.test(text) && !(text.startsWith('vni ') && block.at(-1)?.startsWith('vrf ') === true);

/** Each line of a FRR configuration with the block that it stands in. */
export function placed(text: string): Placed[] {
  const out: Placed[] = [];
  let block: string[] = [];
  for (const [i, raw] of text.split('\n').entries()) {
    const line = raw.trim();
    if (line === '' || line.startsWith('!') || line.startsWith('#')) continue;
    // What begins at the margin ends every block that was left open.
    if (!/^\s/.test(raw) && !CLOSES.test(line)) block = [];
    if (CLOSES.test(line)) {
      block.pop();
      continue;
    }
    out.push({ line: i + 1, text: line, block: block.join(' › ') });
    if (opens(line, block)) block.push(line);
  }
  return out;
}

/**
 * How FRR 8.4 writes a line that means the same; what it leaves out, being its default, is written as nothing.
 * Each is one that was seen in a running configuration, not one that is thought to be so.
 */
const SAID_OTHERWISE: readonly (readonly [RegExp, string | ((...words: string[]) => string)])[] = [
  [/^neighbor (\S+) interface remote-as (\S+)$/, 'neighbor $1 remote-as $2'],
  // A keepalive is a third of the hold time at most: a longer one is lowered without a word.
  [
    /^neighbor (\S+) timers (\d+) (\d+)$/,
    (_, name, keepalive, hold) =>
      `neighbor ${name} timers ${Math.min(Number(keepalive), Math.floor(Number(hold) / 3))} ${hold}`,
  ],
  [/^(detect-multiplier 3|transmit-interval 300|receive-interval 300)$/, ''],
];
/** Where VRFs are namespaces, an interface is held with the one it is in; a text that says no VRF means it all the same. */
const withoutVrf = (text: string): string => text.replace(/^interface (\S+) vrf \S+/gm, 'interface $1');
/** Lines of a prefix list may be written without the number that they get. */
const NUMBERED = /^(ip prefix-list \S+) seq \d+/;
/** The ways in which a line may be held: a neighbour without a group keeps its line as it is. */
const asHeld = (text: string): string[] => {
  for (const [wrote, held] of SAID_OTHERWISE)
    if (wrote.test(text))
      return [text, typeof held === 'string' ? text.replace(wrote, held) : text.replace(wrote, held)];
  return [text];
};

/** Compares what was loaded with `show running-config`, line by line. */
export async function readBack(
  folder: SwitchFolder,
  lab: Lab,
): Promise<{ readonly lines: number; readonly strays: Stray[] }> {
  const strays: Stray[] = [];
  let lines = 0;
  await Promise.all(
    folder.switches.map(async ({ host }) => {
      if (lab.isBird(host)) return;
      const running = placed(withoutVrf(await lab.ask(host, 'show running-config')));
      const there = new Map<string, string[]>();
      for (const p of running)
        for (const text of new Set([p.text, p.text.replace(NUMBERED, '$1')]))
          there.set(text, [...(there.get(text) ?? []), p.block]);
      for (const sent of placed(folder.files.get(host)!['frr.conf']!)) {
        lines++;
        const held = asHeld(sent.text);
        const blocks = held.flatMap((h) => there.get(h) ?? []);
        if (held.includes('') || blocks.includes(sent.block)) continue;
        strays.push({ host, line: sent.line, text: sent.text, wrote: sent.block, landed: blocks[0] ?? null });
      }
    }),
  );
  return { lines, strays };
}
