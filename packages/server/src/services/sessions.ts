import type { User } from '@anthemion/contract';
import { createHash, randomBytes } from 'node:crypto';
import { nanoid } from 'nanoid';
import { accountOf, type StoredAccount } from '../store/accounts.ts';
import {
  addSession,
  dropOldSessions,
  endSessions,
  sessionOf,
  tokenOf,
  touchSession,
  touchToken,
  type StoredToken,
} from '../store/sessions.ts';
import { at, type House } from './house.ts';

/** How long people stay signed in, milliseconds. */
export interface SessionTimes {
  /** Without asking anything. */
  readonly idle: number;
  /** Whatever they do. */
  readonly whole: number;
}
const MINUTE = 60_000;
export const SESSION_TIMES: SessionTimes = { idle: 60 * MINUTE, whole: 12 * 60 * MINUTE };
/** That a session was seen is written at most so often. */
const SEEN_EVERY = MINUTE;
/** A session from the future: the clock was set back by more than this. */
const CLOCK_SLACK = 5 * MINUTE;
const SECRET_BYTES = 32;
const TOKEN_START = 'ant_';

const hashOf = (word: string): string => createHash('sha256').update(word).digest('hex');
const freshSecret = (): { readonly word: string; readonly hash: string } => {
  const word = randomBytes(SECRET_BYTES).toString('base64url');
  return { word, hash: hashOf(word) };
};
export const freshToken = (): { readonly word: string; readonly hash: string } => {
  const word = TOKEN_START + randomBytes(SECRET_BYTES).toString('base64url');
  return { word, hash: hashOf(word) };
};

/** Who calls, and by what. */
export interface Caller {
  readonly user: User;
  readonly mustChange: boolean;
  readonly session: string | null;
  readonly token: string | null;
  /** How the audit log names the way in. */
  readonly via: string;
}
/** Nobody, and why, where something was shown that does not count (any more). */
export interface NoCaller {
  readonly user: null;
  readonly why: string;
}

/** Sessions and tokens: who somebody is by what they hold. Told when one ends, so that what it listens to ends too. */
export class Sessions {
  private readonly house: House;
  private readonly times: SessionTimes;
  private stopped = false;
  private readonly listeners = new Map<string, Set<() => void>>();
  constructor(house: House, times: SessionTimes = SESSION_TIMES) {
    this.house = house;
    this.times = times;
  }

  /** Begins a session; answers what the cookie shall hold. */
  async begin(account: string, address: string, agent: string): Promise<string> {
    const { word, hash } = freshSecret();
    const now = at(this.house);
    await addSession(this.house.db, {
      id: nanoid(12),
      hash,
      account,
      began_at: now,
      seen_at: now,
      address,
      agent: agent.slice(0, 200),
    });
    return word;
  }

  /** Who holds this cookie; `touch` notes that they were here. */
  async bySession(word: string, address: string, touch = true): Promise<Caller | NoCaller> {
    const { db, now } = this.house;
    const row = await sessionOf(db, hashOf(word));
    if (!row) return { user: null, why: 'Your session has ended; sign in again.' };
    const time = now().getTime();
    const [began, seen] = [Date.parse(row.began_at), Date.parse(row.seen_at)];
    const over =
      time - began > this.times.whole
        ? 'Your session has lasted its longest time; sign in again.'
        : time - seen > this.times.idle
          ? 'Nothing was asked for too long; sign in again.'
          : began - time > CLOCK_SLACK
            ? 'The clock of the server was set back to before you signed in; sign in again.'
            : null;
    const account = over === null ? await accountOf(db, row.account) : null;
    if (over !== null || !account || account.disabled) {
      await this.end({ id: row.id });
      return { user: null, why: over ?? 'Your account is disabled.' };
    }
    if (touch && (time - seen > SEEN_EVERY || row.address !== address))
      await touchSession(db, row.id, at(this.house), address);
    return { user: plain(account), mustChange: account.mustChange, session: row.id, token: null, via: 'session' };
  }

  /** Who holds this token: its owner, with the roles both have. */
  async byToken(word: string, touch = true): Promise<Caller | NoCaller> {
    const { db, now } = this.house;
    const row = word.startsWith(TOKEN_START) ? await tokenOf(db, hashOf(word)) : null;
    if (!row) return { user: null, why: 'There is no such token.' };
    const time = now().getTime();
    if (Date.parse(row.ends_at) <= time || Date.parse(row.made_at) - time > CLOCK_SLACK)
      return { user: null, why: `Token ${row.name} has run out.` };
    const account = await accountOf(db, row.account);
    if (!account || account.disabled) return { user: null, why: `The account of token ${row.name} is disabled.` };
    if (touch && (row.used_at === null || time - Date.parse(row.used_at) > SEEN_EVERY))
      await touchToken(db, row.id, at(this.house));
    return {
      user: narrowed(account, row),
      mustChange: false,
      session: null,
      token: row.id,
      via: `token ${row.name}`,
    };
  }

  /** Ends sessions, and everything that listens in their name. */
  async end(which: Parameters<typeof endSessions>[1]): Promise<string[]> {
    const ids = await endSessions(this.house.db, which);
    for (const id of ids) this.tell(id);
    return ids;
  }

  /** What listens in the name of a session or token checks at these moments whether it still may. */
  onEnd(caller: Caller, check: () => void): () => void {
    const id = caller.session ?? caller.token ?? '';
    const set = this.listeners.get(id) ?? new Set();
    this.listeners.set(id, set.add(check));
    return () => {
      set.delete(check);
      if (set.size === 0) this.listeners.delete(id);
    };
  }
  tell(id: string): void {
    for (const check of this.listeners.get(id) ?? []) check();
  }
  /** Roles changed: everybody who listens is asked anew. */
  tellAll(): void {
    for (const set of [...this.listeners.values()]) for (const check of [...set]) check();
  }

  /** The server ends: whoever listens is let go. */
  stop(): void {
    this.stopped = true;
    this.tellAll();
  }
  get ending(): boolean {
    return this.stopped;
  }

  /** Drops sessions that have run out. */
  async dropOld(): Promise<void> {
    const time = this.house.now().getTime();
    const before = (ms: number): string => new Date(time - ms).toISOString();
    await dropOldSessions(this.house.db, before(this.times.idle), before(this.times.whole));
  }
}

const plain = ({ name, fullName, roles, bound, admin }: StoredAccount): User => ({
  name,
  fullName,
  roles,
  bound,
  admin,
});

/** What somebody is through a token: never more than they are, never a keeper of accounts. */
export function narrowed(account: User, token: Pick<StoredToken, 'roles' | 'fabrics'>): User {
  const roles = JSON.parse(token.roles) as User['roles'];
  const fabrics = JSON.parse(token.fabrics) as string[];
  // A token without roles looks: that is being an onlooker where its owner has any role.
  const kept = (has: User['roles']): User['roles'] =>
    has.length === 0 ? [] : roles.length === 0 ? ['onlooker'] : has.filter((r) => roles.includes(r));
  const everywhere = kept(account.roles);
  const bound = Object.fromEntries(
    Object.entries(account.bound).flatMap(([f, has]) => {
      const both = kept(has);
      return both.length > 0 && (fabrics.length === 0 || fabrics.includes(f)) ? [[f, both]] : [];
    }),
  );
  const base = { name: account.name, fullName: account.fullName, admin: false };
  if (fabrics.length === 0) return { ...base, roles: everywhere, bound };
  return {
    ...base,
    roles: [],
    bound: Object.fromEntries(
      fabrics.flatMap((f) => {
        const all = [...new Set([...everywhere, ...(bound[f] ?? [])])];
        return all.length > 0 ? [[f, all]] : [];
      }),
    ),
  };
}
