import type { SwitchFolder } from '@anthemion/core';
import { runByBird } from './bird.ts';
import { compare } from './compare.ts';
import type { Compared, Difference } from './tally.ts';
import type { NotShown } from './kernel.ts';
import { Lab, type Refused } from './lab.ts';
import type { Programs } from './programs.ts';
import { readBack, type Stray } from './readBack.ts';

/** What came of running a folder of switches on real daemons. */
export interface Rehearsed {
  readonly switches: number;
  /** Texts, or lines of them, that a daemon refused. */
  readonly refused: readonly Refused[];
  /** Lines that were read back, and those that landed elsewhere. */
  readonly lines: number;
  readonly strays: readonly Stray[];
  readonly compared: Compared;
  readonly differences: readonly Difference[];
  /** Why the model is not sure of answers, each reason once. */
  readonly unsureBecause: readonly string[];
  /** What this kernel cannot show: it was not compared. */
  readonly notShown: readonly NotShown[];
  /** Seconds until the sessions stood. */
  readonly settledAfter: number;
}

const MOST_SECONDS = 45;

/** Does the model agree with the daemons in everything that was compared, and did every line land where it was written? */
export const agrees = (r: Rehearsed): boolean =>
  r.refused.length === 0 && r.strays.length === 0 && r.differences.length === 0;

/** How a rehearsal is held. */
export interface HeldHow {
  /** So long the sessions that the model expects are waited for. */
  readonly mostSeconds?: number;
  /** Is told what is done now. */
  readonly tell?: (step: string) => void;
  /** Does BIRD run what can be told to it, the routers outside? Else all is FRR’s. */
  readonly bird?: boolean;
  /** Do servers send large packets too? Absent = yes. */
  readonly sizes?: boolean;
}
/**
 * Runs a folder of switches on real daemons, compares every answer of the network model with theirs, and takes everything
 * down again, also where something fails.
 * @throws where the kernel refuses a command: then nothing was compared
 */
export async function rehearse(folder: SwitchFolder, programs: Programs, how: HeldHow = {}): Promise<Rehearsed> {
  const { mostSeconds = MOST_SECONDS, tell = () => undefined, bird = false, sizes = true } = how;
  const lab = new Lab(folder, programs, bird ? runByBird(folder) : undefined);
  try {
    tell('starting their daemons and loading their texts');
    await lab.up();
    tell('reading back where every line landed');
    const { lines, strays } = await readBack(folder, lab);
    tell('waiting for sessions, then comparing every answer');
    const { compared, differences, settledAfter, unsureBecause } = await compare(folder, lab, mostSeconds, sizes);
    await lab.checked();
    return {
      switches: folder.switches.length,
      refused: lab.refused,
      lines,
      strays,
      compared,
      differences,
      unsureBecause,
      notShown: lab.notShown,
      settledAfter,
    };
  } finally {
    lab.down();
  }
}

/** The same folder with some of its switches only, and what lies between them. */
export function onlySwitches(folder: SwitchFolder, hosts: ReadonlySet<string>): SwitchFolder {
  return {
    files: new Map([...folder.files].filter(([h]) => hosts.has(h))),
    switches: folder.switches.filter((s) => hosts.has(s.host)),
    cables: folder.cables.filter((c) => hosts.has(c.a.host) && hosts.has(c.b.host)),
    hosts: folder.hosts.filter((h) => hosts.has(h.switch)),
  };
}
