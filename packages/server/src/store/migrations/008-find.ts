import { sql, type Kysely } from 'kysely';

/** Rows of a table that can be found by themselves, kept by SQLite as the table changes. */
const ownRows = (table: string, watched: string, of: (row: string) => OwnRow): string[] => {
  const [now, row] = [of('new'), of(table)];
  const values = ({ fabric, subject, word, name, says }: OwnRow): string =>
    [fabric, subject, `'${word}'`, name, says].join(', ');
  return [
    `insert into findables (fabric, subject, word, name, says) select ${values(row)} from ${table}`,
    `create trigger ${table}_findable_new after insert on ${table} begin
       insert into findables (fabric, subject, word, name, says) values (${values(now)}); end`,
    `create trigger ${table}_findable_moved after update of ${watched} on ${table} begin
       update findables set name = ${now.name}, says = ${now.says} where fabric = ${now.fabric} and subject = ${now.subject}; end`,
    `create trigger ${table}_findable_gone after delete on ${table} begin
       delete from findables where fabric = ${now.fabric.replaceAll('new.', 'old.')} and subject = ${now.subject.replaceAll('new.', 'old.')}; end`,
  ];
};
interface OwnRow {
  readonly fabric: string;
  readonly subject: string;
  readonly word: string;
  readonly name: string;
  readonly says: string;
}
/** What it says of itself, each ended by a line feed. */
const lines = (...says: string[]): string => says.map((s) => `${s} || char(10)`).join(' || ');

/**
 * Everything that can be found by its name or by what it says of itself. Objects of a fabric are written when it has gone
 * live; switches, pools and changes as they come and go. Words are found wherever they stand in one (trigrams).
 */
const STEPS: readonly string[] = [
  `create table findables (id integer primary key, fabric text not null, subject text not null, word text not null,
     name text not null, says text not null) strict`,
  `create unique index findables_of on findables (fabric, subject)`,
  `create index findables_by_name on findables (name collate nocase)`,
  `create virtual table findable_words using fts5(fabric, name, says, content='findables', content_rowid='id', tokenize='trigram')`,
  `create trigger findables_new after insert on findables begin
     insert into findable_words (rowid, fabric, name, says) values (new.id, new.fabric, new.name, new.says); end`,
  `create trigger findables_gone after delete on findables begin
     insert into findable_words (findable_words, rowid, fabric, name, says) values ('delete', old.id, old.fabric, old.name, old.says); end`,
  `create trigger findables_moved after update on findables begin
     insert into findable_words (findable_words, rowid, fabric, name, says) values ('delete', old.id, old.fabric, old.name, old.says);
     insert into findable_words (rowid, fabric, name, says) values (new.id, new.fabric, new.name, new.says); end`,
  // Which revision of a fabric can be found, and by what release's words: empty = none yet.
  `alter table fabrics add column found text not null default ''`,
  `create index ledger_by_value on ledger (value)`,
  ...ownRows('switches', 'model, address, location', (t) => ({
    fabric: `''`,
    subject: `'switch:' || ${t}.serial`,
    word: 'switch',
    name: `${t}.serial`,
    says: lines(`'model ' || ${t}.model`, `'address ' || ${t}.address`, `'place ' || ${t}.location`),
  })),
  ...ownRows('pools', 'json', (t) => ({
    fabric: `''`,
    subject: `'pool:' || ${t}.name`,
    word: 'pool',
    name: `${t}.name`,
    says: lines(
      `'of ' || coalesce(json_extract(${t}.json, '$.kind'), '')`,
      `'ranges ' || coalesce((select group_concat(r.value, ', ') from json_each(${t}.json, '$.ranges') as r), '')`,
    ),
  })),
  ...ownRows('changes', 'title, ticket', (t) => ({
    fabric: `${t}.fabric`,
    subject: `'change:' || ${t}.id`,
    word: 'change',
    name: `${t}.title`,
    says: lines(`'by ' || ${t}.author`, `'ticket ' || ${t}.ticket`),
  })),
];

export async function up(db: Kysely<unknown>): Promise<void> {
  for (const step of STEPS) await sql.raw(step).execute(db);
}
