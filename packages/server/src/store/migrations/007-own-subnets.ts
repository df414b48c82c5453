import { sql, type Kysely } from 'kysely';

/** Masks that widen a block to each prefix around it; numbers are blocks of one, so only the first can meet. */
const AROUND = Array.from({ length: 33 }, (_, i) => `new.lo & -${2 ** i}`).join(', ');
/** A key without what comes after its last stroke: the object that a value is held for. */
const owner = (key: string): string => `rtrim(${key}, replace(${key}, '/', ''))`;
const SAME = `fabric = new.fabric and (key = new.key or (key like 'network:%' and ${owner('key')} = ${owner('new.key')}))`;

/**
 * A network may hold a subnet as a further one that it held as its first, or the other way round: until the change is live
 * it has it by both names. To others it is held as before.
 */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql.raw('drop trigger ledger_one_holder').execute(db);
  await sql.raw('drop index ledger_value').execute(db);
  await sql
    .raw(
      `create unique index ledger_value on ledger (pool, value, case when key like 'network:%' then key else '' end)
         where pool <> ''`,
    )
    .execute(db);
  await sql
    .raw(
      `create trigger ledger_one_holder before insert on ledger when new.pool <> '' and (
         exists (select 1 from ledger where pool = new.pool and lo in (${AROUND}) and hi >= new.hi and not (${SAME}))
         or exists (select 1 from ledger where pool = new.pool and lo between new.lo and new.hi and not (${SAME})))
       begin select raise(abort, 'UNIQUE: the value is held'); end`,
    )
    .execute(db);
}
