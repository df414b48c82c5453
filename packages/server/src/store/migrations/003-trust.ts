import { sql, type Kysely } from 'kysely';
import { isIPv4, isIPv6 } from 'node:net';

/** Rows as this step meets and makes them. */
interface Before {
  switches: { serial: string; address: string; host_key: string | null };
  secrets: { name: string; sealed: string };
  switch_accounts: {
    name: string;
    sealed: string;
    ranges: string;
    note: string;
    changed_at: string;
    changed_by: string;
  };
}

const STATEMENTS = [
  // Accounts: roles may be bound to fabrics; sessions and tokens are kept here, by the hash of what the person holds.
  `alter table users add column bound text not null default '{}'`,
  `alter table users add column disabled integer not null default 0`,
  `alter table users add column must_change integer not null default 0`,
  `alter table users add column password_at text not null default ''`,
  `update users set password_at = created_at`,
  `create table sessions (id text primary key, hash text not null unique, account text not null references users(name) on delete cascade,
     began_at text not null, seen_at text not null, address text not null, agent text not null) strict`,
  `create index sessions_by_account on sessions (account)`,
  `create index sessions_by_time on sessions (began_at, id)`,
  `create table tokens (id text primary key, hash text not null unique, account text not null references users(name) on delete cascade, name text not null,
     roles text not null, fabrics text not null, made_at text not null, ends_at text not null, used_at text, unique (account, name)) strict`,
  `create index tokens_by_time on tokens (made_at, id)`,

  // The audit log: rows are added and never touched again; each carries the hash of the one before.
  `create table audit (n integer primary key, at text not null, kind text not null, of integer references audit(n), account text not null, via text not null,
     address text not null, action text not null, fabric text not null, subject text not null, detail text not null, outcome text not null, hash text not null) strict`,
  `create index audit_by_account on audit (account, n)`,
  `create index audit_by_action on audit (action, n)`,
  `create index audit_by_fabric on audit (fabric, n)`,
  `create index audit_by_of on audit (of) where of is not null`,
  `create trigger audit_no_update before update on audit begin select raise(abort, 'the audit log is only ever added to'); end`,
  `create trigger audit_no_delete before delete on audit begin select raise(abort, 'the audit log is only ever added to'); end`,
  `create trigger audit_no_gap before insert on audit when new.n <> coalesce((select max(n) from audit), 0) + 1
     begin select raise(abort, 'the audit log is only ever added to'); end`,

  // Accounts on switches, and the keys switches show.
  `create table switch_accounts (name text primary key, sealed text not null, ranges text not null, note text not null, changed_at text not null, changed_by text not null) strict`,
  `alter table switches add column account text references switch_accounts(name)`,
  `alter table switches add column seen_key text`,
  `create index switches_by_account on switches (account)`,
  `update switches set host_key = rtrim(host_key, '=')`,

  // Secrets of configurations: values sealed under their keyed digest, names that stand for one of them.
  `create table sealed_values (digest text primary key, sealed text not null, kept_at text not null) strict`,
  `create table named_secrets (name text primary key, digest text not null references sealed_values(digest), note text not null, changed_at text not null, changed_by text not null) strict`,

  `create table named_digests (name text not null, digest text not null references sealed_values(digest), primary key (name, digest)) strict`,

  // A revision keeps the texts it meant, whatever a later release would write.
  `create table revision_texts (fabric text not null references fabrics(name), number integer not null, seat text not null, host text not null,
     hash text not null references texts(hash), primary key (fabric, number, seat)) strict`,
  `create index revision_texts_by_hash on revision_texts (hash)`,
  `insert into revision_texts select m.fabric, (select max(number) from revisions r where r.fabric = m.fabric), m.seat, m.host, m.hash from meant m
     where exists (select 1 from revisions r where r.fabric = m.fabric)`,
  `alter table fabrics add column written_by text not null default ''`,
  `alter table fabrics add column release_writes integer not null default 0`,
];

/** Networks of the size people manage switches in, around the addresses that are known. */
function networksAround(addresses: readonly string[]): string[] {
  const out = new Set<string>();
  for (const a of addresses) {
    if (isIPv4(a)) out.add(`${a.split('.').slice(0, 3).join('.')}.0/24`);
    else if (isIPv6(a)) out.add(`${a}/128`);
  }
  return [...out].sort();
}

/** Who may do what, who did what, and what may be shown to whom. */
export async function up(db: Kysely<Before>): Promise<void> {
  for (const statement of STATEMENTS) await sql.raw(statement).execute(db);
  // The one account of older releases goes on for the networks its switches are in; it was never bound to any before.
  const old = await db.selectFrom('secrets').selectAll().where('name', '=', 'switch-account').executeTakeFirst();
  if (!old) return;
  const addresses = (await db.selectFrom('switches').select('address').execute()).map((r) => r.address);
  await db
    .insertInto('switch_accounts')
    .values({
      name: 'switches',
      sealed: old.sealed,
      ranges: JSON.stringify(networksAround(addresses)),
      note: 'The account of an older release, for the networks its switches are in',
      changed_at: '',
      changed_by: '',
    })
    .execute();
  await db.deleteFrom('secrets').where('name', '=', 'switch-account').execute();
}
