import type { Place } from '../../config/switchConfig.ts';
import type { LineRecorder, UnreadLine } from '../dialect.ts';

export const FILE = 'sysctl.conf';

/** A setting of the kernel without which a switch does not do what is modelled. */
interface Setting {
  readonly key: string;
  readonly value: string;
  /** What another value does. */
  readonly otherwise: string;
  /** With another value all still works, only worse. */
  readonly harmless?: true;
}
/** Neighbours that are kept before old ones are looked for, are cleared, are refused; the kernel’s 128, 512, 1024 are a rack or two. */
const NEIGHBOURS = [
  ['gc_thresh1', '8192'],
  ['gc_thresh2', '16384'],
  ['gc_thresh3', '32768'],
] as const;

/** In the order in which they are written (docs/linux-dialect.md says why each). */
const SETTINGS: readonly Setting[] = [
  { key: 'net.ipv4.ip_forward', value: '1', otherwise: 'it passes no IPv4 on' },
  { key: 'net.ipv6.conf.all.forwarding', value: '1', otherwise: 'it passes no IPv6 on' },
  // What comes in over one of several equal paths need not go out over it.
  { key: 'net.ipv4.conf.all.rp_filter', value: '0', otherwise: 'it may drop what comes in over another path' },
  { key: 'net.ipv4.conf.default.rp_filter', value: '0', otherwise: 'it may drop what comes in over another path' },
  ...[4, 6].map((family): Setting => ({
    key: `net.ipv${family}.fib_multipath_hash_policy`,
    value: '1',
    otherwise: 'it shares load by addresses, not by ports',
    harmless: true,
  })),
  ...[4, 6].flatMap((family) =>
    NEIGHBOURS.map(([name, value]): Setting => ({
      key: `net.ipv${family}.neigh.default.${name}`,
      value,
      otherwise: 'it keeps another number of neighbours',
      harmless: true,
    })),
  ),
];
const BY_KEY = new Map(SETTINGS.map((s) => [s.key, s]));

/** The same for every switch. */
export const SYSCTL_TEXT = SETTINGS.map(({ key, value }) => `${key} = ${value}\n`).join('');

/** Settings by which the kernel runs programs, or gives away what is in it: never. */
const RUNS = /^kernel\.(core_pattern|modprobe|poweroff_cmd|hotplug|usermodehelper\..*|sysrq)$/;
const SET = /^-?\s*([A-Za-z0-9_./*-]+)\s*=(.*)$/;
/** Both ways of writing a key: `net/ipv4/ip_forward` is `net.ipv4.ip_forward`. */
const keyOf = (word: string): string => {
  const [dot, slash] = [word.indexOf('.'), word.indexOf('/')];
  return slash >= 0 && (dot < 0 || slash < dot) ? word.replaceAll(/[./]/g, (c) => (c === '/' ? '.' : '/')) : word;
};

/** Does a line have the kernel run a program? */
export function kernelRuns(line: string): boolean {
  const key = SET.exec(line.trim())?.[1];
  return key !== undefined && RUNS.test(keyOf(key));
}

const EVERYWHERE: Place = [];

/** Reads what is said to the kernel: the last word on each counts. */
export function readSysctl(text: string, unread: UnreadLine[], record?: LineRecorder): void {
  // As it mostly is: then there is nothing to say.
  if (text === SYSCTL_TEXT && !record) return;
  const lines = text.split('\n');
  const last = new Map<string, number>();
  lines.forEach((line, i) => {
    const key = SET.exec(line.trim())?.[1];
    if (key !== undefined) last.set(keyOf(key), i);
  });
  const unsaid = SETTINGS.filter((s) => !s.harmless && !last.has(s.key));
  if (unsaid.length > 0)
    unread.push({
      file: FILE,
      line: 1,
      text: lines[0]!.trim(),
      why: `nothing here sets ${unsaid.map((s) => s.key).join(', ')}: ${unsaid[0]!.otherwise}`,
      doubts: EVERYWHERE,
    });
  lines.forEach((raw, i) => {
    const trimmed = raw.trim();
    if (trimmed === '' || /^[#;]/.test(trimmed)) return;
    const line = i + 1;
    const tell = (why: string, more: Pick<UnreadLine, 'doubts' | 'harmless'>): void =>
      void unread.push({ file: FILE, line, text: trimmed, why, ...more });
    const [, word, value] = SET.exec(trimmed) ?? [];
    if (word === undefined) return tell('a setting is written KEY = VALUE', { doubts: EVERYWHERE });
    const key = keyOf(word);
    const setting = BY_KEY.get(key);
    if (last.get(key) !== i) tell('it is said again further down', { harmless: true });
    else if (setting && setting.value === value!.trim()) record?.(EVERYWHERE, FILE, line);
    else if (setting) tell(setting.otherwise, setting.harmless ? { harmless: true } : { doubts: EVERYWHERE });
    else if (/^net\.(?!core\.)/.test(key)) tell('what it makes of the network is not modelled', { doubts: EVERYWHERE });
    else tell('it says how the kernel works, not what the network does', { harmless: true });
  });
}
