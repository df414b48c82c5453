import { holdsMask, isMask, MASK_HINT } from '../../secrets/secretRef.ts';
import type { ConfigFiles } from '../documents.ts';
import { runsInShell } from './daemonWords.ts';
import { SECRET_HINT, secretWords } from './secretWords.ts';
import { kernelRuns } from './sysctl.ts';

/** A line that must not reach a switch as it is. */
export interface GuardedLine {
  readonly file: string;
  /** 1-based. */
  readonly line: number;
  readonly text: string;
  /** What is wrong with it, as the second half of a sentence. */
  readonly why: string;
  /**
   * `refused`: never. `runs elsewhere`: only with a permission of its own. `secret in plain`: as a secret only.
   * `secret misplaced`: only where the program takes a secret, since anything else is shown in the clear when it is read.
   */
  readonly kind: 'refused' | 'runs elsewhere' | 'secret in plain' | 'secret misplaced';
}

/** Every control character but tab and newline; a bare CR is one of them. */
const CONTROL = /[\u0000-\u0008\u000b-\u001f\u007f]/;
/** ifupdown2 runs `interfaces` through a template engine where that is installed: these begin code (docs/linux-dialect.md). */
const CODE = /%|\$\{|<%/;
/** Keywords that run programs, or read other files, by file. */
const ELSEWHERE: Readonly<Record<string, RegExp>> = {
  interfaces: /^\s*(up|down|pre-up|post-up|pre-down|post-down|source|source-directory|template)(\s|$)/,
  'frr.conf': /^\s*(no\s+)?(log\s+file|banner\s+motd\s+file|log\s+filter-file)(\s|$)/,
  'nftables.conf': /\binclude\b/,
};

/** Files of which whole lines are refused, and why. */
const REFUSED: Readonly<Record<string, readonly [line: (line: string) => boolean, why: string]>> = {
  daemons: [runsInShell, 'is no plain value, and the shell that starts FRR would run it'],
  'sysctl.conf': [kernelRuns, 'has the kernel run a program'],
};

const shown = (text: string): string => JSON.stringify(text.trim().slice(0, 60)).slice(1, -1);

/**
 * One look at a whole text, or at a part that begins with a line: where none of them is in it, no line of it is guarded.
 * Together they would be one expression that takes twice as long.
 */
const suspicionsOf = (file: string): readonly RegExp[] => [
  file === 'interfaces' ? new RegExp(`${CONTROL.source}|${CODE.source}`) : CONTROL,
  new RegExp(`${SECRET_HINT.source}|${MASK_HINT.source}`),
  new RegExp(ELSEWHERE[file]!.source.replace('^\\s*', '^[^\\S\\n]*'), 'm'),
];
const SUSPICIOUS: Readonly<Record<string, readonly RegExp[]>> = {
  interfaces: suspicionsOf('interfaces'),
  'frr.conf': suspicionsOf('frr.conf'),
};

/** Can a text of a file hold a line that is guarded? */
export const isSuspicious = (file: string, text: string): boolean =>
  SUSPICIOUS[file]?.some((suspicion) => suspicion.test(text)) ?? true;

/** The lines of one file that are refused, or that take a permission. */
export function guardText(file: string, text: string): GuardedLine[] {
  if (!isSuspicious(file, text)) return [];
  const elsewhere = ELSEWHERE[file];
  const plain = secretWords(file, text)
    .filter((s) => !isMask(s.word))
    .map((s): GuardedLine => ({
      file,
      line: s.line,
      text: `${s.before.trim()} …`,
      why: 'holds a secret in plain words',
      kind: 'secret in plain',
    }));
  const out: GuardedLine[] = [...plain, ...(holdsMask(text) ? masksElsewhere(file, text) : [])];
  text.split('\n').forEach((line, i) => {
    const say = (why: string, kind: GuardedLine['kind']): void =>
      void out.push({ file, line: i + 1, text: shown(line), why, kind });
    if (CONTROL.test(line)) say('holds a control character', 'refused');
    const code = file === 'interfaces' ? CODE.exec(line) : null;
    if (code) say(`holds “${code[0]}”, which ifupdown2 may run as code`, 'refused');
    const refused = REFUSED[file];
    if (refused?.[0](line)) say(refused[1], 'refused');
    if (elsewhere?.test(line)) say('runs a program or uses another file on the switch', 'runs elsewhere');
  });
  return out;
}

/** Lines on which a mask, or what looks like one, stands where no secret does. */
function masksElsewhere(file: string, text: string): GuardedLine[] {
  const inPlace = new Map(secretWords(file, text).map((s) => [s.line, s]));
  return text.split('\n').flatMap((line, i): GuardedLine[] => {
    const at = inPlace.get(i + 1);
    const rest = at && isMask(at.word) ? at.before : line;
    return holdsMask(rest)
      ? [
          {
            file,
            line: i + 1,
            text: shown(line),
            why: 'writes a secret where the switch would show it to anybody',
            kind: 'secret misplaced',
          },
        ]
      : [];
  });
}

/** As `guardText`, over all files of a switch. */
export const guardFiles = (files: ConfigFiles): GuardedLine[] =>
  Object.entries(files).flatMap(([file, text]) => guardText(file, text));
