import type { Place, SwitchConfig } from '../../config/switchConfig.ts';
import type { LineRecorder, UnreadLine } from '../dialect.ts';
import type { ConfigFiles } from '../documents.ts';
import { assignedIn, isOff, runsInShell, type Assigned, type SWITCHED } from './daemonWords.ts';
import type { ConfigDraft } from './draft.ts';

export const FILE = 'daemons';

/** What of a switch a daemon does. */
interface Daemon {
  readonly name: (typeof SWITCHED)[number];
  readonly place: Place;
  /** Does the switch speak what it speaks? */
  readonly wanted: (config: SwitchConfig) => boolean;
  /** The first line of `frr.conf` that means nothing without it. */
  readonly asks: RegExp;
  /** Was something read that it would do? */
  readonly asked: (draft: ConfigDraft) => boolean;
  /** What is not there when it does not run. */
  readonly without: (draft: ConfigDraft) => void;
}
/** zebra and staticd always run. Without bfdd, sessions come up and fail as if nobody had asked for BFD. */
const DAEMONS: readonly Daemon[] = [
  {
    name: 'bgpd',
    place: ['bgp'],
    wanted: (c) => c.bgp !== undefined,
    asks: /^router bgp\b/m,
    asked: (draft) => draft.bgp !== null,
    without: (draft) => void (draft.bgp = null),
  },
  {
    name: 'ospfd',
    place: ['ospf'],
    wanted: (c) => c.ospf !== undefined || (c.ospfPorts ?? []).length > 0,
    asks: /^(router ospf *$| +ip ospf\b)/m,
    asked: (draft) => draft.ospf !== null || draft.ospfPorts.size > 0,
    without: (draft) => {
      draft.ospf = null;
      draft.ospfPorts.clear();
    },
  },
  {
    name: 'ospf6d',
    place: ['ospf6'],
    wanted: (c) => c.ospf6 !== undefined || (c.ospf6Ports ?? []).length > 0,
    asks: /^(router ospf6 *$| +ipv6 ospf6\b)/m,
    asked: (draft) => draft.ospf6 !== null || draft.ospf6Ports.size > 0,
    without: (draft) => {
      draft.ospf6 = null;
      draft.ospf6Ports.clear();
    },
  },
  {
    name: 'bfdd',
    place: ['bfdProfiles'],
    wanted: (c) => c.bfdProfiles.length > 0,
    asks: /^bfd *$/m,
    asked: (draft) => draft.bfdProfiles.length > 0,
    without: () => undefined,
  },
];

/** The text of what is on, for a switch that speaks these protocols. */
export const daemonLines = (config: SwitchConfig): string =>
  DAEMONS.map((d) => `${d.name}=${d.wanted(config) ? 'yes' : 'no'}\n`).join('');

/** Where its console listens, which of FRR’s modules it loads, how large its buffers are. */
const USUAL_OPTIONS = /^(\s*-(A \S+|M \w+|s \d+))*\s*$/;

interface Said {
  readonly on: boolean;
  readonly line: number;
}

/** Why a line that switches no known daemon on or off matters, or does not. */
function aside({ name, value }: Assigned): Pick<UnreadLine, 'why' | 'doubts' | 'harmless'> {
  if (name.endsWith('_instances'))
    return { why: 'a daemon that is started more than once is not modelled', doubts: [] };
  if (name.endsWith('_options') && !USUAL_OPTIONS.test(value)) {
    const of = DAEMONS.find((d) => name === `${d.name}_options`);
    return { why: 'what it makes of the daemon is not modelled', doubts: of?.place ?? [] };
  }
  return { why: 'it says how FRR is started, not what it does', harmless: true };
}

/** Reads what is on: the last word on each counts, as the shell has it. */
function saidIn(text: string, unread: UnreadLine[]): Map<string, Said> {
  const said = new Map<string, Said>();
  for (const [i, raw] of text.split('\n').entries()) {
    const assigned = assignedIn(raw);
    const tell = (more: Pick<UnreadLine, 'why' | 'doubts' | 'harmless'>): void =>
      void unread.push({ file: FILE, line: i + 1, text: raw.trim(), ...more });
    if (assigned === null) {
      if (runsInShell(raw)) tell({ why: 'the shell that starts FRR runs it', doubts: [] });
    } else if (DAEMONS.some((d) => d.name === assigned.name))
      said.set(assigned.name, { on: !isOff(assigned.value), line: i + 1 });
    else tell(aside(assigned));
  }
  return said;
}

/**
 * Reads which daemons run, after all else was read: what none of them runs is taken out of the draft, and its first line
 * in `frr.conf` said to lack it.
 */
export function readDaemons(
  text: string,
  frrConf: string,
  draft: ConfigDraft,
  unread: UnreadLine[],
  record?: LineRecorder,
): void {
  const said = saidIn(text, unread);
  for (const { name, place, asks, asked, without } of DAEMONS) {
    const word = said.get(name);
    // What is not wanted is off everywhere: that line is of no part.
    if (word) record?.(word.on ? place : [], FILE, word.line);
    if (word?.on || !asked(draft)) continue;
    const before = frrConf.slice(0, Math.max(0, frrConf.search(asks))).split('\n');
    const line = frrConf.split('\n', before.length).at(-1)!;
    unread.push({
      file: 'frr.conf',
      line: before.length,
      text: line.trim(),
      why: `${name} is not started`,
      needs: FILE,
    });
    without(draft);
  }
}

const wordsOf = (text: string): Map<string, string> =>
  new Map(
    text.split('\n').flatMap((line) => {
      const assigned = assignedIn(line);
      return assigned ? [[assigned.name, assigned.value]] : [];
    }),
  );

/**
 * The words that a daemon which runs before and after is started with otherwise. FRR starts what is switched on, and ends
 * what is switched off, while the rest runs; but with other words a daemon is started anew, and all stops meanwhile.
 */
export function restartedFor(before: ConfigFiles, after: ConfigFiles): string[] {
  const [was, is] = [before, after].map((files) => wordsOf(files[FILE] ?? '')) as [
    Map<string, string>,
    Map<string, string>,
  ];
  const runs = (of: Map<string, string>, daemon: string): boolean =>
    /^(zebra|staticd)$/.test(daemon) || !isOff(of.get(daemon));
  return [...new Set([...was.keys(), ...is.keys()])].filter((name) => {
    if ((was.get(name) ?? '') === (is.get(name) ?? '')) return false;
    const [, daemon] = /^(.*)_(?:options|instances)$/.exec(name) ?? [];
    if (daemon !== undefined) return runs(was, daemon) && runs(is, daemon);
    return /^(MAX_FDS|frr_profile)$/.test(name);
  });
}
