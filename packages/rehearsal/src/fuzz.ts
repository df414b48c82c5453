import { linux, type SwitchFolder } from '@anthemion/core';
import { compare, type Compared, type Difference } from './compare.ts';
import { generated } from './generate.ts';
import { Lab } from './lab.ts';
import { MISTAKE_KINDS, mistakeIn, randomOf, type MistakeKind } from './mistakes.ts';
import type { Programs } from './programs.ts';
import { rehearse } from './rehearse.ts';

/** One mistake on running daemons, and what the model said of it. */
export interface Tried {
  readonly fabric: number;
  readonly host: string;
  readonly line: number;
  readonly what: string;
  readonly compared: Compared;
  readonly differences: readonly Difference[];
  readonly unsureBecause: readonly string[];
}

const PER_FABRIC = 6;
const MOST_SECONDS = 20;
/** Larger ones take long to settle. */
const MOST_SWITCHES = 8;

/**
 * Makes random mistakes in the routing of random fabrics that run, one at a time: the daemons of that switch alone are
 * started again, every answer of the model is compared, and the switch gets its own text back. What differs is held once
 * more in a fabric of its own.
 * @param tell is told of each mistake as it is done
 * @param kinds what is done to a line
 */
export async function fuzz(
  mistakes: number,
  seed: number,
  programs: Programs,
  tell: (tried: Tried) => void,
  kinds: readonly MistakeKind[] = MISTAKE_KINDS,
): Promise<void> {
  const random = randomOf(seed);
  const fabrics = generated(Math.ceil(mistakes / PER_FABRIC) * 2, seed).filter(
    (f) => f.switches.length <= MOST_SWITCHES && f.switches.some((s) => s.config.bgp),
  );
  let left = mistakes;
  for (const [fabric, folder] of fabrics.entries()) {
    if (left <= 0) return;
    const lab = new Lab(folder, programs);
    try {
      await lab.up();
      for (let n = 0; n < PER_FABRIC && left > 0; n++, left--) {
        const { host } = folder.switches[Math.floor(random() * folder.switches.length)]!;
        const own = folder.files.get(host)!['frr.conf']!;
        const other = folder.switches.filter((s) => s.host !== host && s.config.loopbacks.length > 0);
        const loopback = other[Math.floor(random() * other.length)]?.config.loopbacks[0]?.split('/')[0] ?? '192.0.2.1';
        const { text, line, what } = mistakeIn(own, loopback, random, kinds);
        await lab.restart(host, text);
        const wrong = saying(folder, host, text);
        const here = await compare(wrong, lab, MOST_SECONDS);
        // What differs is held again by itself, so that nothing of what ran before counts.
        const seen = here.differences.length === 0 ? here : await rehearse(wrong, programs, MOST_SECONDS);
        const { compared, differences, unsureBecause } = seen;
        tell({ fabric: fabric + 1, host, line, what, compared, differences, unsureBecause });
        await lab.restart(host, own);
      }
    } finally {
      lab.down();
    }
  }
}

/** The folder with another text on one switch. */
function saying(folder: SwitchFolder, host: string, frrConf: string): SwitchFolder {
  const files = { ...folder.files.get(host)!, 'frr.conf': frrConf };
  return {
    ...folder,
    files: new Map([...folder.files, [host, files]]),
    switches: folder.switches.map((s) => (s.host === host ? { host, ...linux.parse(files) } : s)),
  };
}
