import type { SessionRow as SessionView, TokenAnswer } from '@anthemion/contract';
import type { Reads, Tables, Writes } from './database.ts';
import { markOf, pageOf, readMark, type Page, type PageAsked } from './pages.ts';

export type StoredSession = Tables['sessions'];
export type StoredToken = Tables['tokens'];

/** The session of what a cookie holds, by its hash. */
export const sessionOf = async (db: Reads, hash: string): Promise<StoredSession | null> =>
  (await db.selectFrom('sessions').selectAll().where('hash', '=', hash).executeTakeFirst()) ?? null;

export async function addSession(db: Writes, session: StoredSession): Promise<void> {
  await db.insertInto('sessions').values(session).execute();
}
export async function touchSession(db: Writes, id: string, at: string, address: string): Promise<void> {
  await db.updateTable('sessions').set({ seen_at: at, address }).where('id', '=', id).execute();
}

/** Ends sessions: one, or all of an account (but one); answers which. */
export async function endSessions(
  db: Writes,
  which: { readonly id?: string; readonly account?: string; readonly but?: string },
): Promise<string[]> {
  let query = db.deleteFrom('sessions').returning('id');
  if (which.id !== undefined) query = query.where('id', '=', which.id);
  if (which.account !== undefined) query = query.where('account', '=', which.account);
  if (which.but !== undefined) query = query.where('id', '<>', which.but);
  return (await query.execute()).map((r) => r.id);
}

/** Drops what has run out: not seen since, or begun before. */
export async function dropOldSessions(db: Writes, seenBefore: string, begunBefore: string): Promise<void> {
  await db
    .deleteFrom('sessions')
    .where((e) => e.or([e('seen_at', '<', seenBefore), e('began_at', '<', begunBefore)]))
    .execute();
}

/** Sessions, newest first; of one account where it is named. */
export async function sessionPage(
  db: Reads,
  asked: PageAsked,
  account: string | null,
): Promise<Page<Omit<SessionView, 'own'>>> {
  const after = readMark(asked.after);
  let query = db
    .selectFrom('sessions')
    .select(['id', 'account', 'began_at', 'seen_at', 'address', 'agent'])
    .orderBy('began_at', 'desc')
    .orderBy('id', 'desc')
    .limit(asked.limit + 1);
  if (account !== null) query = query.where('account', '=', account);
  if (after) query = query.where((e) => e(e.refTuple('began_at', 'id'), '<', e.tuple(after[0], after[1])));
  return pageOf(
    await query.execute(),
    asked,
    (r) => markOf(r.began_at, r.id),
    (r) => ({
      id: r.id,
      account: r.account,
      beganAt: r.began_at,
      seenAt: r.seen_at,
      address: r.address,
      agent: r.agent,
    }),
  );
}

export const tokenOf = async (db: Reads, hash: string): Promise<StoredToken | null> =>
  (await db.selectFrom('tokens').selectAll().where('hash', '=', hash).executeTakeFirst()) ?? null;
export async function addToken(db: Writes, token: StoredToken): Promise<void> {
  await db.insertInto('tokens').values(token).execute();
}
export async function touchToken(db: Writes, id: string, at: string): Promise<void> {
  await db.updateTable('tokens').set({ used_at: at }).where('id', '=', id).execute();
}
/** Ends one token, of one account where it is named; answers whether there was one. */
export async function endToken(db: Writes, id: string, account: string | null): Promise<boolean> {
  let query = db.deleteFrom('tokens').where('id', '=', id);
  if (account !== null) query = query.where('account', '=', account);
  return (await query.executeTakeFirst()).numDeletedRows === 1n;
}
export async function endTokensOf(db: Writes, account: string): Promise<void> {
  await db.deleteFrom('tokens').where('account', '=', account).execute();
}

export async function tokenPage(db: Reads, asked: PageAsked, account: string | null): Promise<Page<TokenAnswer>> {
  const after = readMark(asked.after);
  let query = db
    .selectFrom('tokens')
    .selectAll()
    .orderBy('made_at', 'desc')
    .orderBy('id', 'desc')
    .limit(asked.limit + 1);
  if (account !== null) query = query.where('account', '=', account);
  if (after) query = query.where((e) => e(e.refTuple('made_at', 'id'), '<', e.tuple(after[0], after[1])));
  return pageOf(
    await query.execute(),
    asked,
    (r) => markOf(r.made_at, r.id),
    (r) => ({
      id: r.id,
      account: r.account,
      name: r.name,
      roles: JSON.parse(r.roles) as TokenAnswer['roles'],
      fabrics: JSON.parse(r.fabrics) as string[],
      madeAt: r.made_at,
      endsAt: r.ends_at,
      usedAt: r.used_at,
    }),
  );
}
