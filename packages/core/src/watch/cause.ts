import type { LinkState, Move } from './links.ts';
import type { SessionState } from './sessions.ts';
import { plural } from '../plural.ts';

export const CAUSE_KINDS = ['unread', 'edited', 'cable', 'miscabled', 'session'] as const;
export type CauseKind = (typeof CAUSE_KINDS)[number];

/** One thing that is wrong now, with everything that is wrong because of it. */
export interface Cause {
  /** Stays the same while it lasts. */
  readonly key: string;
  readonly kind: CauseKind;
  /** Switches where one acts. */
  readonly hosts: readonly string[];
  readonly title: string;
  /** What is known about it, one sentence each. */
  readonly details: readonly string[];
  /** Links and sessions that are down because of it, in words. */
  readonly links: readonly string[];
  readonly sessions: readonly string[];
  /** Servers that lose a leg by it: those that have none left, together with all else that is wrong, and those that do. */
  readonly serversCut: readonly string[];
  readonly serversHalf: readonly string[];
  /** Underlay routes that have fewer paths or none, as the network model computes them; null = not computed. */
  readonly routes: { readonly fewer: number; readonly gone: number } | null;
  /** Plugs to move, where that mends it. */
  readonly moves: readonly Move[];
  /** Both texts would bring it up and there is signal: it may be only too early, and is to be read again first. */
  readonly maybeSettling: boolean;
}

/** A switch is not read, and nobody says that it is gone: of what hangs on it nothing is known. */
export const isOnlyUnread = (c: Pick<Cause, 'kind' | 'links'>): boolean => c.kind === 'unread' && c.links.length === 0;

/** A cause while what hangs on it is gathered. */
export interface Draft {
  readonly key: string;
  readonly kind: CauseKind;
  readonly hosts: readonly string[];
  readonly title: string;
  readonly details: string[];
  readonly links: LinkState[];
  readonly sessions: SessionState[];
  /** Ports that carry nothing because of it, and switches that are gone. */
  readonly deadPorts: ReadonlySet<string>;
  readonly deadHosts: readonly string[];
  readonly moves: readonly Move[];
  readonly maybeSettling: boolean;
}
export const draft = (d: Pick<Draft, 'key' | 'kind' | 'hosts' | 'title'> & Partial<Draft>): Draft => ({
  details: [],
  links: [],
  sessions: [],
  deadPorts: new Set(),
  deadHosts: [],
  moves: [],
  maybeSettling: false,
  ...d,
});

/** The causes counted, in words: “2 causes, 31 things hang on them”. */
export function countCauses(causes: readonly Cause[]): string {
  if (causes.length === 0) return 'nothing is wrong';
  const hang = causes.reduce(
    (n, c) =>
      n +
      c.sessions.length +
      c.serversCut.length +
      c.serversHalf.length +
      (c.routes?.fewer ?? 0) +
      (c.routes?.gone ?? 0),
    0,
  );
  return `${plural(causes.length, 'cause')}${hang === 0 ? '' : `, ${plural(hang, 'thing')} ${hang === 1 ? 'hangs' : 'hang'} on ${causes.length === 1 ? 'it' : 'them'}`}`;
}
