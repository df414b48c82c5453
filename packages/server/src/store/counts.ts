import { sql } from 'kysely';
import type { Db } from './database.ts';

/** How much there is of what, for whoever watches the server. */
export interface Counts {
  readonly fabrics: number;
  readonly switches: number;
  readonly switchesInTrouble: number;
  readonly switchesWaiting: number;
  readonly hostKeysWaiting: number;
  readonly rolloutsUnfinished: number;
  readonly rolloutsStopped: number;
  readonly sessions: number;
  readonly auditEntries: number;
}

export async function countsOf(db: Db): Promise<Counts> {
  const { rows } = await sql<Record<keyof Counts, number>>`select
    (select count(*) from fabrics) as fabrics,
    (select count(*) from switches) as switches,
    (select count(*) from switches where trouble is not null) as "switchesInTrouble",
    (select count(*) from meant m join seat_claims c on c.fabric = m.fabric and c.seat = m.seat and c.change_id is null
      left join switch_live l on l.serial = c.serial where l.hash is not m.hash) as "switchesWaiting",
    (select count(*) from switches where seen_key is not null) as "hostKeysWaiting",
    (select count(*) from jobs where state in ('running', 'paused', 'stopped')) as "rolloutsUnfinished",
    (select count(*) from jobs where state = 'stopped') as "rolloutsStopped",
    (select count(*) from sessions) as sessions,
    (select coalesce(max(n), 0) from audit) as "auditEntries"`.execute(db);
  return rows[0]!;
}
