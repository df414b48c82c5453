import type { SqliteDatabase, SqliteStatement } from 'kysely';

/** So many statements are kept: more than the server has, were it not for insertions of any number of rows. */
const KEPT = 400;

/**
 * The database with its statements kept: SQLite reads the text of each once instead of every time it is run, which took
 * as long as running it. Those that were not used for longest go first. SQLite itself sees to it that a kept statement
 * fits tables that were changed since; still, begin this after the steps that change them.
 */
export function keepStatements(sqlite: SqliteDatabase): SqliteDatabase {
  const kept = new Map<string, SqliteStatement>();
  return {
    close: () => sqlite.close(),
    prepare: (text) => {
      const statement = kept.get(text) ?? sqlite.prepare(text);
      kept.delete(text);
      kept.set(text, statement);
      if (kept.size > KEPT) kept.delete(kept.keys().next().value!);
      return statement;
    },
  };
}
