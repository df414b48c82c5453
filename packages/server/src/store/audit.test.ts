import type { AuditCheck, AuditEntry } from '@anthemion/contract';
import Database from 'better-sqlite3';
import fc from 'fast-check';
import { sql } from 'kysely';
import { createHash } from 'node:crypto';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { Bare } from '../testing/bare.ts';
import type { Caller } from '../testing/world.ts';

const bare = new Bare();
let keeper: Caller;
beforeAll(async () => {
  await bare.open();
  await bare.furnish();
  keeper = await bare.account('keeper', ['designer'], { admin: true });
});
afterAll(() => bare.close());

interface Row {
  readonly n: number;
  readonly at: string;
  readonly kind: string;
  readonly of: number | null;
  readonly account: string;
  readonly via: string;
  readonly address: string;
  readonly action: string;
  readonly fabric: string;
  readonly subject: string;
  readonly detail: string;
  readonly outcome: string;
  readonly hash: string;
}
/** The chain as docs/security.md describes it, worked out from an export alone. */
function walk(rows: readonly Row[]): number | null {
  let before = '0'.repeat(64);
  for (const [i, r] of rows.entries()) {
    const text = JSON.stringify([
      before,
      r.n,
      r.at,
      r.kind,
      r.of,
      r.account,
      r.via,
      r.address,
      r.action,
      r.fabric,
      r.subject,
      r.detail,
      r.outcome,
    ]);
    if (r.n !== i + 1 || createHash('sha256').update(text).digest('hex') !== r.hash) return i + 1;
    before = r.hash;
  }
  return null;
}
const exported = async (): Promise<Row[]> =>
  (await keeper.call<string>('GET', '/api/audit/export')).body
    .trim()
    .split('\n')
    .map((l) => JSON.parse(l) as Row);

describe('promise 9: the audit log', () => {
  test('says who asked what, about what, from where, and how it ended; also what was refused', async () => {
    const pool = { name: 'logged', kind: 'vni', ranges: ['80000-80010'] };
    await keeper.ask('POST', '/api/pools', pool);
    expect((await keeper.call('POST', '/api/pools', pool)).status).toBe(422);
    const onlooker = await bare.account('looks', ['onlooker']);
    expect((await onlooker.call('DELETE', '/api/pools/logged')).status).toBe(403);
    await keeper.ask('DELETE', '/api/pools/logged');
    const log = (await onlooker.ask<AuditEntry[]>('GET', '/api/audit?limit=6')).filter(
      (e) => !e.action.endsWith('/session'),
    );
    expect(
      log.slice(0, 4).map((e) => [e.account, e.action, e.subject, e.detail, e.outcome.replace(/:.*/, '')]),
    ).toEqual([
      ['keeper', 'DELETE /api/pools/:name', 'logged', '', 'done'],
      ['looks', 'DELETE /api/pools/:name', 'logged', '', 'refused'],
      ['keeper', 'POST /api/pools', '', JSON.stringify(pool), 'refused'],
      ['keeper', 'POST /api/pools', '', JSON.stringify(pool), 'done'],
    ]);
    for (const e of log.slice(0, 4))
      expect([e.via, e.address, e.endedAt === null]).toEqual(['session', '127.0.0.1', false]);
  });

  test('is narrowed by who, what, words and time, and read in pages', async () => {
    const of = async (query: string) =>
      (await keeper.ask<AuditEntry[]>('GET', `/api/audit?${query}`)).map((e) => e.action);
    expect(await of('account=looks')).toEqual(['DELETE /api/pools/:name']);
    expect(await of('text=80010')).toEqual(['POST /api/pools', 'POST /api/pools']);
    // A sign in the words is a sign, not a pattern.
    expect(await of('text=%25')).toEqual([]);
    expect(await of('from=2999-01-01')).toEqual([]);
    const one = await keeper.call<AuditEntry[]>('GET', '/api/audit?limit=1');
    const next = /^<([^>]+)>/.exec(one.headers.get('link')!)![1]!;
    expect((await keeper.ask<AuditEntry[]>('GET', next))[0]!.n).toBeLessThan(one.body[0]!.n);
  });

  test('cannot be altered: the database refuses, and an entry that was worked on is found by the chain', async () => {
    for (const statement of [
      "update audit set outcome = 'done' where n = 1",
      'delete from audit where n = 1',
      'insert into audit select max(n) + 2, at, kind, of, account, via, address, action, fabric, subject, detail, outcome, hash from audit',
    ]) {
      const raw = new Database(join(bare.data, 'anthemion.sqlite'));
      expect(() => raw.exec(statement)).toThrow('the audit log is only ever added to');
      raw.close();
    }
    expect(await keeper.ask<AuditCheck>('GET', '/api/audit/check')).toMatchObject({ brokenAt: null });
    const rows = await exported();
    expect(walk(rows)).toBeNull();
    fc.assert(
      fc.property(
        fc.nat(rows.length - 1),
        fc.constantFrom('at', 'account', 'address', 'action', 'subject', 'detail', 'outcome', 'hash') as fc.Arbitrary<
          keyof Row
        >,
        fc.string({ minLength: 1 }),
        (i, field, word) => {
          fc.pre(rows[i]![field] !== word);
          const worked = rows.map((r, j) => (i === j ? { ...r, [field]: word } : r));
          expect(walk(worked)).toBe(i + 1);
          expect(walk(rows.filter((_, j) => j !== i))).toBe(i === rows.length - 1 ? null : i + 1);
        },
      ),
    );
    // Whoever owns the file can drop the triggers; the chain still tells.
    await bare.server.close();
    const raw = new Database(join(bare.data, 'anthemion.sqlite'));
    raw.exec("drop trigger audit_no_update; update audit set address = '192.0.2.9' where n = 3");
    raw.close();
    await bare.open();
    keeper = await bare.as('keeper');
    expect(await keeper.ask<AuditCheck>('GET', '/api/audit/check')).toMatchObject({ brokenAt: 3 });
  });

  test('what cannot be written down is not done', async () => {
    const { db } = bare;
    await sql`create trigger no_more before insert on audit begin select raise(abort, 'no more'); end`.execute(db);
    expect(
      (await keeper.call('POST', '/api/pools', { name: 'unlogged', kind: 'vni', ranges: ['90000-90010'] })).status,
    ).toBe(500);
    expect(await db.selectFrom('pools').select('name').where('name', '=', 'unlogged').execute()).toEqual([]);
    await sql`drop trigger no_more`.execute(db);
  });
});
