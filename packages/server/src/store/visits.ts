import type { Reads, Writes } from './database.ts';

/** Somebody who has not been here for so long comes anew: what is news to them begins at the last time they were here. */
const AWAY_MS = 30 * 60_000;

/** Somebody is here; answers when they were here before this visit, null = never. */
export async function noteVisit(db: Writes, account: string, now: string): Promise<string | null> {
  const row = await db.selectFrom('visits').selectAll().where('account', '=', account).executeTakeFirst();
  const anew = !row || Date.parse(now) - Date.parse(row.seen_at) > AWAY_MS;
  const before = row ? (anew ? row.seen_at : row.before_at) : null;
  const set = { seen_at: now, before_at: before };
  await db
    .insertInto('visits')
    .values({ account, ...set })
    .onConflict((c) => c.column('account').doUpdateSet(set))
    .execute();
  return before;
}

export interface Happening {
  readonly at: string;
  readonly fabric: string;
  readonly what: 'approved' | 'live' | 'rollout' | 'began' | 'ended' | 'asked';
  readonly by: string;
  readonly title: string;
  /** Change or rollout. */
  readonly id: string;
  readonly more: string;
}

/** What happened after a time, newest first. */
export async function happenings(db: Reads, after: string, limit: number): Promise<Happening[]> {
  const live = await db
    .selectFrom('revisions')
    .select(['at', 'fabric', 'author', 'title', 'change_id', 'number'])
    .where('at', '>', after)
    .orderBy('at', 'desc')
    .limit(limit)
    .execute();
  const approved = await db
    .selectFrom('approvals as a')
    .innerJoin('changes as c', 'c.id', 'a.change_id')
    .select(['a.at', 'c.fabric', 'a.by', 'c.title', 'c.id'])
    .where('a.at', '>', after)
    .orderBy('a.at', 'desc')
    .limit(limit)
    .execute();
  const rollouts = await db
    .selectFrom('rollouts as r')
    .innerJoin('jobs as j', 'j.id', 'r.id')
    .innerJoin('changes as c', 'c.id', 'r.change_id')
    .select(['j.ended_at', 'j.started_at', 'j.state', 'j.author', 'j.reason', 'r.fabric', 'r.kind', 'c.title', 'r.id'])
    .where((e) => e.or([e('j.ended_at', '>', after), e('j.started_at', '>', after)]))
    .orderBy('j.started_at', 'desc')
    .limit(limit)
    .execute();
  const causes = await db
    .selectFrom('causes')
    .selectAll()
    .where((e) => e.or([e('began_at', '>', after), e('ended_at', '>', after)]))
    .orderBy('n', 'desc')
    .limit(limit)
    .execute();
  return [
    ...live.map((r): Happening => ({
      at: r.at,
      fabric: r.fabric,
      what: 'live',
      by: r.author,
      title: r.title,
      id: r.change_id,
      more: String(r.number),
    })),
    ...approved.map((r): Happening => ({
      at: r.at,
      fabric: r.fabric,
      what: 'approved',
      by: r.by,
      title: r.title,
      id: r.id,
      more: '',
    })),
    ...rollouts.map((r): Happening => ({
      at: r.ended_at ?? r.started_at,
      fabric: r.fabric,
      what: 'rollout',
      by: r.author,
      title: r.title,
      id: r.id,
      more: `${r.kind} ${r.state}`,
    })),
    ...causes.map((r): Happening => ({
      at: r.ended_at ?? r.began_at,
      fabric: r.fabric,
      what: r.ended_at === null ? 'began' : 'ended',
      by: '',
      title: r.title,
      id: '',
      more: '',
    })),
  ]
    .sort((a, b) => (a.at < b.at ? 1 : -1))
    .slice(0, limit);
}
