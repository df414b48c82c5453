import { linux, type SwitchFolder } from '@anthemion/core';
import { compare } from './compare.ts';
import type { Compared, Difference } from './tally.ts';
import { FABRIC_KINDS, ofKind, type FabricKind } from './generate.ts';
import { Lab } from './lab.ts';
import { MISTAKE_KINDS, mistakeIn, randomOf, type MistakeKind, type Random } from './mistakes.ts';
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
  /** What ran. */
  readonly folder: SwitchFolder;
}

const PER_FABRIC = 6;
const MOST_SECONDS = 20;
/** Larger ones take long to settle. */
const MOST_SWITCHES = 8;

export interface FuzzOptions {
  /** What is done to a line. */
  readonly kinds?: readonly MistakeKind[];
  /** Only fabrics of this kind; absent = of each in turn. */
  readonly only?: FabricKind | undefined;
  /** Where mistakes are made; in `interfaces` every fabric is brought up anew, as devices are made once. */
  readonly document?: FuzzDocument;
}
export const FUZZ_DOCUMENTS = ['frr.conf', 'interfaces', 'nftables.conf'] as const;
export type FuzzDocument = (typeof FUZZ_DOCUMENTS)[number];

/** Random fabrics for so many mistakes, each kind in turn. */
function fabricsFor(mistakes: number, seed: number, only: FuzzOptions['only']): SwitchFolder[] {
  const many = Math.ceil(mistakes / PER_FABRIC);
  const some = (kind: FabricKind, count: number): SwitchFolder[] =>
    kind === 'plain'
      ? ofKind(kind, 2 * count, seed)
          .filter((f) => f.switches.length <= MOST_SWITCHES && f.switches.some((s) => s.config.bgp))
          .slice(0, count)
      : ofKind(kind, count, seed);
  if (only) return some(only, many);
  const kinds = FABRIC_KINDS.map((k) => some(k, Math.ceil(many / FABRIC_KINDS.length)));
  return Array.from({ length: many }, (_, i) => kinds[i % kinds.length]![Math.floor(i / kinds.length)]!);
}

/**
 * Makes random mistakes in the texts of random fabrics that run, one at a time: the daemons of that switch alone are
 * started again, every answer of the model is compared, and the switch gets its own text back. What differs is held once
 * more in a fabric of its own.
 * @param tell is told of each mistake as it is done
 */
export async function fuzz(
  mistakes: number,
  seed: number,
  programs: Programs,
  tell: (tried: Tried) => void | Promise<void>,
  { kinds = MISTAKE_KINDS, only, document = 'frr.conf' }: FuzzOptions = {},
): Promise<void> {
  const random = randomOf(seed);
  let left = mistakes;
  const of = document === 'nftables.conf' ? 'filters' : only;
  for (const [fabric, folder] of fabricsFor(mistakes, seed, of).entries()) {
    if (left <= 0) return;
    const lab = document === 'interfaces' ? null : new Lab(folder, programs);
    const able = folder.switches.filter((s) => folder.files.get(s.host)![document] !== undefined);
    /** Sessions that stood before would outlive a filter that lets no new ones come up. */
    const say = async (host: string, text: string): Promise<string | null> => {
      const refused = document === 'nftables.conf' ? await lab!.filter(host, text) : null;
      await lab?.restart(host, document === 'frr.conf' ? text : folder.files.get(host)!['frr.conf']!);
      return refused;
    };
    try {
      await lab?.up();
      for (let n = 0; n < PER_FABRIC && left > 0; n++, left--) {
        const { host } = able[Math.floor(random() * able.length)]!;
        const own = folder.files.get(host)![document]!;
        const loopback = loopbackBeside(folder, host, random);
        const { text, line, what } = mistakeIn(own, loopback, random, kinds);
        const wrong = saying(folder, host, document, text);
        const refused = await say(host, text);
        // What is said of routing changes no MTU.
        const here = lab && (await compare(wrong, lab, MOST_SECONDS, false));
        // What differs is held again by itself, so that nothing of what ran before counts.
        const seen =
          here?.differences.length === 0 ? here : await rehearse(wrong, programs, { mostSeconds: MOST_SECONDS });
        const { compared, differences, unsureBecause } = seen;
        const taken = filtersTaken(wrong, host, refused);
        await tell({
          fabric: fabric + 1,
          host,
          line,
          what,
          compared,
          differences: [...taken, ...differences],
          unsureBecause,
          folder: wrong,
        });
        await say(host, own);
      }
    } finally {
      lab?.down();
    }
  }
}

/** Does nft take the filters of a switch as the reader says it does? What the reader does not understand is left out. */
function filtersTaken({ switches }: SwitchFolder, host: string, refused: string | null): Difference[] {
  const said = switches.find((s) => s.host === host)!.unread.filter((u) => u.file === 'nftables.conf');
  if (said.some((u) => u.doubts)) return [];
  const [model, daemon] = [said[0]?.why, refused].map((why) => (why == null ? 'taken' : `refused: ${why}`));
  const agree = (said.length === 0) === (refused === null);
  return agree ? [] : [{ host, about: 'nftables.conf', model: model!, daemon: daemon! }];
}

/** What the model said of several mistakes at once. */
export interface TriedTogether {
  readonly mistakes: readonly { readonly host: string; readonly line: number; readonly what: string }[];
  readonly compared: Compared;
  readonly differences: readonly Difference[];
  /** What differed until the daemons were started anew with the same texts. */
  readonly differedOnce: readonly Difference[];
}

/** On a busy machine a race may be lost twice in a row. */
const MOST_STARTS = 2;

/**
 * Makes mistakes in the routing of one running fabric, one on each of so many switches at once, and compares every answer.
 * Where something differs the daemons are started once more, and at most twice: on a busy machine bgpd may hear of a VNI before it hears of its
 * tunnel end, and then keeps what it told of it under its router id beside what it tells since (seen on FRR 8.4.4).
 * @param most so many switches at once
 */
export async function fuzzTogether(
  folder: SwitchFolder,
  rounds: number,
  most: number,
  seed: number,
  programs: Programs,
): Promise<TriedTogether[]> {
  const random = randomOf(seed);
  const lab = new Lab(folder, programs);
  const out: TriedTogether[] = [];
  try {
    await lab.up();
    let were: readonly string[] = [];
    for (let round = 0; round < rounds; round++) {
      const hosts = folder.switches.map((s) => s.host);
      while (hosts.length > most) hosts.splice(Math.floor(random() * hosts.length), 1);
      let wrong = folder;
      const mistakes = [];
      for (const host of hosts) {
        const { text, line, what } = mistakeIn(
          folder.files.get(host)!['frr.conf']!,
          loopbackBeside(folder, host, random),
          random,
        );
        mistakes.push({ host, line, what });
        wrong = saying(wrong, host, 'frr.conf', text);
      }
      const back = were.filter((h) => !hosts.includes(h));
      await Promise.all([...hosts, ...back].map((h) => lab.restart(h, wrong.files.get(h)!['frr.conf']!)));
      were = hosts;
      let seen = await compare(wrong, lab, MOST_SECONDS, false);
      const differedOnce: Difference[] = [];
      for (let again = 0; again < MOST_STARTS && seen.differences.length > 0; again++) {
        differedOnce.push(...seen.differences);
        await Promise.all(hosts.map((h) => lab.restart(h, wrong.files.get(h)!['frr.conf']!)));
        seen = await compare(wrong, lab, MOST_SECONDS, false);
      }
      const { compared, differences } = seen;
      out.push({ mistakes, compared, differences, differedOnce });
    }
    return out;
  } finally {
    lab.down();
  }
}

/** A loopback of another switch. */
function loopbackBeside({ switches }: SwitchFolder, host: string, random: Random): string {
  const others = switches.flatMap((s) => (s.host === host ? [] : s.config.loopbacks.slice(0, 1)));
  return others[Math.floor(random() * others.length)]?.split('/')[0] ?? '192.0.2.1';
}

/** The folder with another text on one switch. */
function saying(folder: SwitchFolder, host: string, document: FuzzDocument, text: string): SwitchFolder {
  const files = { ...folder.files.get(host)!, [document]: text };
  return {
    ...folder,
    files: new Map([...folder.files, [host, files]]),
    switches: folder.switches.map((s) => (s.host === host ? { host, ...linux.parse(files) } : s)),
  };
}
