import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { mustHold } from '../testing/invariants.ts';
import { POOLS, type Edit } from '@anthemion/core';
import { deletePool, putPool } from './pools.ts';
import { BO, INES, networkEdit, serialOf, SmallHouse, SPARES } from '../testing/smallHouse.ts';
import { sql } from 'kysely';
import { changeOf } from '../store/changes.ts';
import { waitingIn } from '../store/seats.ts';
import { Trouble } from '../trouble.ts';
import type { Compiler } from '../workers/compilePool.ts';
import { approve } from './approving.ts';
import { forgetSwitch } from './switches.ts';

/** A generator of numbers that a seed decides, so that an interleaving can be seen again. */
function dice(seed: number): (sides: number) => number {
  let state = seed;
  return (sides) => {
    state = (state * 1664525 + 1013904223) >>> 0;
    return Math.floor((state / 2 ** 32) * sides);
  };
}
let roll = dice(1);
const turns = async (n: number): Promise<void> => {
  for (let i = 0; i < n; i++) await new Promise((done) => setImmediate(done));
};
/** Computations take a random number of turns before and after, so that everything else gets in between. */
const unsteady = (compiler: Compiler): Compiler => ({
  run: async (task) => {
    await turns(roll(4));
    const done = await compiler.run(task);
    await turns(roll(4));
    return done;
  },
  close: () => compiler.close(),
});
const outcome = (work: Promise<unknown>): Promise<'done' | string> =>
  work.then(
    () => 'done',
    (error: unknown) => {
      if (!(error instanceof Trouble)) throw error;
      return error.kind;
    },
  );

const INTERLEAVINGS = Number(process.env['ANTHEMION_INTERLEAVINGS'] ?? 80);
let vlan = 100;

describe('promise 1: what goes live is what was approved, at every interleaving', () => {
  let small: SmallHouse;
  beforeAll(async () => {
    small = await (await new SmallHouse(['tarn'], unsteady).open()).build();
  });
  afterAll(() => small.close());

  /** Away with what earlier rounds made, so that the fabric stays small. */
  async function cleared(): Promise<void> {
    const { networks } = (await small.live('tarn')).intent;
    if (networks.length > 0)
      await small.toLive(
        await small.propose(
          'tarn',
          'Clear',
          ...networks.map((n) => ({ kind: 'removeNetwork' as const, name: n.name })),
        ),
      );
  }

  test.each<[string, (change: string, version: number) => Promise<unknown>]>([
    ['an edit', (c) => small.changes.addEdits(c, [networkEdit(`late-${vlan}`, vlan++)], INES)],
    ['a withdrawal', (c, v) => small.changes.withdraw(c, v)],
    ['a new proof', (c) => small.changes.prove(c)],
    ['a new title', (c, v) => small.changes.retitle(c, { title: 'Another', reason: '', ticket: '' }, INES, v)],
    ['an undone edit', (c, v) => small.changes.undoEdit(c, 1, INES, v)],
  ])('%s beside the begin of a rollout', async (_what, other) => {
    const seen = new Set<string>();
    for (let i = 0; i < INTERLEAVINGS; i++) {
      roll = dice(i + 1);
      if (i % 10 === 9) await cleared();
      const name = `net-${vlan}`;
      const change = await small.propose('tarn', 'Race', networkEdit(name, vlan++));
      await small.approve(change);
      const version = await small.version(change);
      const approved = [...(await small.networks('tarn')), name].sort();
      const before = await small.live('tarn');
      const first = roll(2);
      const racing = [
        async () => (await turns(roll(12)), small.begin(change)),
        async () => (await turns(roll(12)), other(change, version)),
      ];
      const [begun, did] = await Promise.all(racing.map((r) => outcome(r())));
      seen.add(`${begun} ${did} ${first}`);
      const id = (await small.changes.answer(change)).rollout;
      if (id !== null) await small.rest(id);
      const after = await small.live('tarn');
      if (after.revision > before.revision) {
        // It went live: then exactly what was approved, and the switch runs it.
        expect((await small.networks('tarn')).sort()).toEqual(approved);
        expect(small.vlansOn(serialOf('tarn', 'leaf-1')).length).toBe(approved.length);
      } else {
        expect(await small.networks('tarn')).toEqual(before.intent.networks.map((n) => n.name));
        expect(['Withdrawn', 'Drafting', 'Proven', 'Stale', 'Approved']).toContain(await small.stateOf(change));
        if ((await small.stateOf(change)) !== 'Withdrawn')
          await small.changes.withdraw(change, await small.version(change));
      }
    }
    await mustHold(small.house.db);
    expect(seen.size).toBeGreaterThan(1);
  });

  test('promise 2: a yes for a change that touches no text, beside another’s rollout: neither loses the other', async () => {
    const seen = new Set<string>();
    for (let i = 0; i < INTERLEAVINGS; i++) {
      roll = dice(5000 + i);
      if (i % 10 === 9) await cleared();
      const [name, place] = [`net-${vlan}`, `row ${i}`];
      const sent = await small.propose('tarn', 'Sent', networkEdit(name, vlan++));
      await small.approve(sent);
      const quiet = await small.propose('tarn', 'Quiet', { kind: 'placeRack', number: 1, place });
      const version = await small.version(quiet);
      await Promise.all([
        turns(roll(16)).then(() => outcome(small.begin(sent))),
        turns(roll(16)).then(() => outcome(approve(small.house, quiet, BO, '', version))),
      ]);
      const id = (await small.changes.answer(sent)).rollout;
      if (id !== null) await small.rest(id);
      const { intent } = await small.live('tarn');
      const states = [await small.stateOf(sent), await small.stateOf(quiet)];
      seen.add(states.join());
      // What says it is live is in what is live, and nothing else is.
      expect([i, intent.networks.some((n) => n.name === name), intent.racks[0]!.place === place]).toEqual([
        i,
        states[0] === 'Live',
        states[1] === 'Live',
      ]);
      for (const c of [sent, quiet])
        if (!['Live', 'Withdrawn'].includes(await small.stateOf(c)))
          await small.changes.withdraw(c, await small.version(c));
    }
    expect(seen.size).toBeGreaterThan(1);
    await mustHold(small.house.db);
  });

  test('a change whose text would come out otherwise than approved is not sent: it is proved and approved again', async () => {
    const change = await small.propose('tarn', 'Pools move', networkEdit('moved', vlan++));
    await small.approve(change);
    // The pool of loopbacks stands in every switch's prefix list.
    await sql`update pools set json = json_set(json, '$.ranges', json_array('10.255.0.0/23')) where name = 'loopbacks'`.execute(
      small.house.db,
    );
    expect(await outcome(small.begin(change))).toBe('not now');
    expect(await small.stateOf(change)).toBe('Stale');
    await sql`update pools set json = json_set(json, '$.ranges', json_array('10.255.0.0/24')) where name = 'loopbacks'`.execute(
      small.house.db,
    );
    await small.changes.prove(change);
    await small.toLive(change);
  });

  test('an approval is of a version, by somebody who had no hand in it', async () => {
    const change = await small.propose('tarn', 'Hands', networkEdit('hands', vlan++));
    const old = await small.version(change);
    await small.changes.addEdits(change, [networkEdit('unseen', vlan++)], { name: BO, mayScript: false });
    expect(await outcome(approve(small.house, change, 'tamar', '', old))).toBe('overtaken');
    expect(await outcome(approve(small.house, change, BO, '', await small.version(change)))).toBe('not allowed');
    expect(await outcome(approve(small.house, change, 'ines', '', await small.version(change)))).toBe('not allowed');
    await approve(small.house, change, 'tamar', '', await small.version(change));
    // Another title is another version: it asks for a yes again, and keeps the proof.
    await small.changes.retitle(
      change,
      { title: 'Other hands', reason: 'r', ticket: '' },
      INES,
      await small.version(change),
    );
    expect(await small.changes.answer(change)).toMatchObject({
      state: 'Proven',
      approvals: [],
      proof: { clean: true },
    });
    await small.changes.withdraw(change, await small.version(change));
  });
});

describe('promise 2: no revision is ever lost', () => {
  let small: SmallHouse;
  beforeEach(async () => {
    small = await (await new SmallHouse(['tarn']).open()).build();
  });
  afterEach(async () => {
    await mustHold(small.house.db);
    await small.close();
  });
  const leaf = (n: number) => small.fleet.at(serialOf('tarn', `leaf-${n}`));
  /** A rollout of a network on racks 1, 2 and 3 that the second refuses. */
  async function stopped(): Promise<{ change: string; rollout: string }> {
    const change = await small.propose('tarn', 'Half', networkEdit('half', 300, [1, 2, 3]));
    await small.approve(change);
    leaf(2).faults.add('refuses');
    const rollout = await small.begin(change);
    expect((await small.rest(rollout)).state).toBe('stopped');
    expect([leaf(1), leaf(2)].map((s) => small.vlansOn(s.serial))).toEqual([[300], []]);
    leaf(2).faults.clear();
    return { change, rollout };
  }

  test('a change that touches no text is not live while another rolls out; after that it is proved again', async () => {
    const quiet = await small.propose('tarn', 'Place', { kind: 'placeRack', number: 1, place: 'Lamp hall' });
    const { change, rollout } = await stopped();
    await small.approve(quiet);
    expect(await small.stateOf(quiet)).toBe('Approved');
    expect(await outcome(small.begin(quiet))).toBe('not now');
    await small.rollouts.retry(rollout, 'tamar');
    expect((await small.rest(rollout)).state).toBe('done');
    expect([await small.stateOf(change), await small.stateOf(quiet)]).toEqual(['Live', 'Stale']);
    await small.changes.prove(quiet);
    await small.toLive(quiet);
    const { intent, revision } = await small.live('tarn');
    expect([revision, intent.racks[0]!.place, intent.networks.map((n) => n.name)]).toEqual([3, 'Lamp hall', ['half']]);
  });
  test('a change that touches no switch goes live on approval', async () => {
    const quiet = await small.propose('tarn', 'Place', { kind: 'placeRack', number: 1, place: 'Lamp hall' });
    await small.approve(quiet);
    expect(await small.stateOf(quiet)).toBe('Live');
  });
  test('ended at any moment of going live, the other change is never approved on a revision that is not live', async () => {
    for (let after = 0; after < 60; after++) {
      const name = `gone-${after}`;
      const other = await small.propose('tarn', 'Other', networkEdit('other', 900));
      const change = await small.propose('tarn', 'Goes live', networkEdit(name, 400 + after));
      await small.approve(other);
      await small.approve(change);
      const before = (await small.live('tarn')).revision;
      await small.begin(change);
      await turns(after % 30);
      await small.crash();
      await small.open();
      const row = await changeOf(small.house.db, other);
      const { revision } = await small.live('tarn');
      expect([row.base_revision, row.state]).toEqual([revision, revision === before ? 'Approved' : 'Stale']);
      const id = (await small.changes.answer(change)).rollout!;
      expect((await small.rest(id)).state).toBe('done');
      expect(await small.networks('tarn')).toContain(name);
      await small.changes.withdraw(other, await small.version(other));
    }
  });

  test('undo takes back what a rollout touched, and leaves the change approved as it was', async () => {
    const { change, rollout } = await stopped();
    const undo = await small.rest(await small.rollouts.undo(rollout, 'tamar'));
    expect([undo.state, await small.stateOf(change), small.vlansOn(leaf(1).serial)]).toEqual(['done', 'Approved', []]);
    await small.rest(await small.begin(change));
    expect(await small.stateOf(change)).toBe('Live');
  });

  test('closed as it stands, the change is live, what was not reached waits, and what it uses rests until it has caught up', async () => {
    const removed = await small.propose('tarn', 'Old', networkEdit('old', 310, [2]));
    await small.toLive(removed);
    const change = await small.propose(
      'tarn',
      'Without old',
      { kind: 'removeNetwork', name: 'old' },
      networkEdit('new', 311, [1]),
    );
    await small.approve(change);
    leaf(2).faults.add('refuses');
    const rollout = await small.begin(change, { stopLine: 2 });
    expect((await small.rest(rollout)).state).toBe('stopped');
    await small.rollouts.close(rollout, 'the rack has no power', 'tamar');
    expect(await small.stateOf(change)).toBe('Live');
    expect((await small.rollouts.answer(rollout)).state).toBe('closed');
    const held = () =>
      sql<{ value: string }>`select value from ledger where key like 'network:old/%'`.execute(small.house.db);
    // Its VNI, and a subnet of each family.
    expect((await held()).rows).toHaveLength(3);
    // Nobody draws them meanwhile; then the switch catches up, and they are free.
    leaf(2).faults.clear();
    const caught = await small.rest(
      await small.rollouts.catchUp('tarn', { stopLine: 1, undoSeconds: 10, together: false }, 'tamar'),
    );
    expect([caught.kind, caught.state, caught.switches.map((s) => s.host)]).toEqual(['catch up', 'done', ['a-lf-02']]);
    expect([small.vlansOn(leaf(2).serial), (await held()).rows]).toEqual([[], []]);
    expect(
      await outcome(small.rollouts.catchUp('tarn', { stopLine: 1, undoSeconds: 10, together: false }, 'tamar')),
    ).toBe('not now');
  });

  test('a switch that left and is dead waits for nobody once it is forgotten, and what rested for it is free', async () => {
    const change = await small.propose('tarn', 'Smaller', { kind: 'removeRack', number: 3 });
    await small.approve(change);
    leaf(3).faults.add('unreachable');
    const rollout = await small.begin(change);
    expect((await small.rest(rollout)).state).toBe('stopped');
    const dead = leaf(3).serial;
    expect(await outcome(forgetSwitch(small.house, dead, 'it burnt', 'tamar'))).toBe('not now');
    await small.rollouts.close(rollout, 'it is dead', 'tamar');
    const rests = async () =>
      (await sql<{ n: number }>`select count(*) as n from ledger where key like 'leaf-3/%'`.execute(small.house.db))
        .rows[0]!.n;
    expect([await waitingIn(small.house.db, 'tarn'), await rests()]).toEqual([[{ serial: dead, host: 'a-lf-03' }], 3]);
    await forgetSwitch(small.house, dead, 'it burnt', 'tamar');
    expect([await waitingIn(small.house.db, 'tarn'), await rests()]).toEqual([[], 0]);
    expect(await outcome(forgetSwitch(small.house, leaf(1).serial, 'a slip', 'tamar'))).toBe('not now');
  });

  test('an urgent change breaks in: switches that have the unfinished one keep it; that one is proved again, and goes on', async () => {
    const { change, rollout } = await stopped();
    const urgent = await small.propose('tarn', 'Urgent', networkEdit('urgent', 320, [1, 2]));
    await small.approve(urgent);
    expect(await outcome(small.begin(urgent))).toBe('not now');
    expect(await outcome(small.begin(urgent, { breakIn: true }))).toBe('refused');
    const broken = await small.rest(await small.begin(urgent, { breakIn: true, reason: 'the gauges are blind' }));
    expect([broken.state, broken.brokeInto]).toEqual(['done', rollout]);
    expect([1, 2, 3].map((n) => small.vlansOn(leaf(n).serial))).toEqual([[300, 320], [320], [300]]);
    expect(await small.networks('tarn')).toEqual(['urgent']);
    expect([await small.stateOf(urgent), await small.stateOf(change)]).toEqual(['Live', 'Stale']);
    // The unfinished one cannot simply go on, nor be forgotten.
    expect(await outcome(small.rollouts.resume(rollout, 'tamar'))).toBe('not now');
    expect(await outcome(small.changes.withdraw(change, await small.version(change)))).toBe('not now');
    await small.changes.prove(change);
    await small.approve(change);
    const rest = await small.rest(await small.begin(change));
    expect([rest.state, rest.switches.map((s) => s.host)]).toEqual(['done', ['a-lf-02']]);
    expect([1, 2, 3].map((n) => small.vlansOn(leaf(n).serial))).toEqual([[300, 320], [300, 320], [300]]);
    expect(await small.networks('tarn')).toEqual(['half', 'urgent']);
  });
  test('an overtaken rollout can be undone too: its switches get what is live', async () => {
    const { change, rollout } = await stopped();
    const urgent = await small.propose('tarn', 'Urgent', networkEdit('urgent', 320, [1]));
    await small.approve(urgent);
    await small.rest(await small.begin(urgent, { breakIn: true, reason: 'the gauges are blind' }));
    expect((await small.rest(await small.rollouts.undo(rollout, 'tamar'))).state).toBe('done');
    expect(small.vlansOn(leaf(1).serial)).toEqual([320]);
    await small.changes.withdraw(change, await small.version(change));
  });
  test('nothing of it is a dead end: the one that broke in can be taken back, and a way back that stops can be retried', async () => {
    const { change, rollout } = await stopped();
    const urgent = await small.propose('tarn', 'Urgent', networkEdit('urgent', 320, [1, 2]));
    await small.approve(urgent);
    leaf(2).faults.add('refuses');
    const broken = await small.begin(urgent, { breakIn: true, reason: 'the gauges are blind' });
    expect((await small.rest(broken)).state).toBe('stopped');
    leaf(2).faults.clear();
    expect((await small.rest(await small.rollouts.undo(broken, 'tamar'))).state).toBe('done');
    expect([await small.stateOf(urgent), small.vlansOn(leaf(1).serial)]).toEqual(['Approved', [300]]);
    // Now the first one goes back as well, at the second try.
    leaf(1).faults.add('refuses');
    const undo = await small.rollouts.undo(rollout, 'tamar');
    expect((await small.rest(undo)).state).toBe('stopped');
    leaf(1).faults.clear();
    await small.rollouts.retry(undo, 'tamar');
    expect((await small.rest(undo)).state).toBe('done');
    expect([1, 2, 3].map((n) => small.vlansOn(leaf(n).serial))).toEqual([[], [], []]);
    await small.changes.withdraw(change, await small.version(change));
    await small.rest(await small.begin(urgent));
    expect(await small.stateOf(urgent)).toBe('Live');
  });
});

describe('promise 3: one holder for everything scarce', () => {
  let small: SmallHouse;
  beforeAll(async () => {
    small = await (await new SmallHouse(['tarn', 'mere'], unsteady).open()).build();
  });
  afterAll(async () => {
    await mustHold(small.house.db);
    await small.close();
  });
  const seat = (serial: string) => ({ kind: 'takeSeat' as const, seat: 'leaf-3', serial });

  test('two open changes of two fabrics cannot seat the same switch; the second is told who holds it', async () => {
    const first = await small.propose('tarn', 'First', seat(SPARES[0]!));
    await expect(small.propose('mere', 'Second', seat(SPARES[0]!))).rejects.toMatchObject({
      findings: [{ path: '/edits/0/serial', message: 'SPARE-1 is a-lf-03 of tarn in the open change “First”.' }],
    });
    await expect(small.propose('mere', 'Live elsewhere', seat(serialOf('tarn', 'leaf-1')))).rejects.toMatchObject({
      findings: [{ message: 'TARN-leaf-1 is a-lf-01 of tarn.' }],
    });
    await small.changes.withdraw(first, await small.version(first));
    await small.changes.withdraw(await small.propose('mere', 'Free again', seat(SPARES[0]!)), 2);
  });

  test('at every interleaving two fabrics that draw and seat at once hold different things', async () => {
    for (let i = 0; i < INTERLEAVINGS; i++) {
      roll = dice(1000 + i);
      const made = await Promise.allSettled(
        ['tarn', 'mere'].map(async (fabric) => {
          await turns(roll(8));
          return small.propose(fabric, 'At once', networkEdit(`at-once`, 700), seat(SPARES[i % 2]!));
        }),
      );
      const ids = made.flatMap((m) => (m.status === 'fulfilled' ? [m.value] : []));
      expect(ids).toHaveLength(1);
      const both = await Promise.all(['tarn', 'mere'].map((f) => small.propose(f, 'Draw', networkEdit('draws', 701))));
      const drawn = await Promise.all(
        both.map(async (id) => (await small.changes.answer(id)).drawn.map((e) => e.value)),
      );
      expect(drawn[0]!.filter((v) => drawn[1]!.includes(v))).toEqual([]);
      for (const id of [...ids, ...both]) await small.changes.withdraw(id, await small.version(id));
    }
  });

  test('subnets of IPv6 have one holder too, and their pool stays around what is held', async () => {
    const six = (name: string, at: number): Edit => ({
      kind: 'addNetwork',
      network: { name, vrf: 'tides', vlan: at, subnetLength: 24, racks: [1], families: 'both' },
    });
    const first = await small.propose('tarn', 'Six', six('six-t', 3000));
    const second = await small.propose('mere', 'Six', six('six-m', 3000));
    const held = await small.house.db
      .selectFrom('ledger')
      .select(['value', 'fabric', 'lo', 'hi'])
      .where('pool', '=', 'skerry-tenants-6')
      .where('key', 'like', 'network:six-%')
      .orderBy('lo')
      .execute();
    expect(held.map((h) => h.fabric)).toEqual(['tarn', 'mere']);
    expect(new Set(held.map((h) => h.value)).size).toBe(2);
    for (const h of held) expect([h.lo, h.hi]).toEqual([h.lo, h.lo]);
    const pool = POOLS.find((p) => p.name === 'skerry-tenants-6')!;
    const put = (range: string) => putPool(small.house, { ...pool, ranges: [range] });
    // Another pool of the same last bits holds none of them.
    for (const range of ['2401:db8:32::/48', '2001:db8:33::/48'])
      await expect(put(range)).rejects.toThrow(/2001:db8:32:.* would be left outside; network:/);
    await put('2001:db8:32::/47');
    await put('2001:db8:32::/48');
    await expect(deletePool(small.house, pool.name)).rejects.toThrow(/Values of skerry-tenants-6 are held/);
    for (const change of [first, second]) await small.changes.withdraw(change, await small.version(change));
  });

  test('the database itself refuses a part of a pool that is held, larger or smaller, and a second seat', async () => {
    const { db } = small.house;
    const insert = (value: string, lo: number, hi: number, key = 'x/subnet', fabric = 'mere') =>
      sql`insert into ledger (kind, pool, value, fabric, key, lo, hi) values ('ipv4', 'p', ${value}, ${fabric}, ${key}, ${lo}, ${hi})`.execute(
        db,
      );
    await insert('10.0.1.0/24', 256, 511);
    for (const [lo, hi] of [
      [256, 511],
      [0, 1023],
      [256, 287],
      [384, 511],
      [511, 511],
    ] as const)
      await expect(insert('other', lo, hi, 'y/subnet')).rejects.toThrow(/UNIQUE/);
    await insert('10.0.0.0/24', 0, 255, 'y/subnet');
    await insert('10.0.2.0/23', 512, 1023, 'z/subnet');
    await sql`delete from ledger where pool = 'p'`.execute(db);
    const claim = (fabric: string, change: string | null) =>
      sql`insert into seat_claims (serial, fabric, seat, host, change_id) values ('TARN-leaf-1', ${fabric}, 's', 'h', ${change})`.execute(
        db,
      );
    await expect(claim('mere', null)).rejects.toThrow(/UNIQUE/);
    await expect(claim('tarn', null)).rejects.toThrow(/UNIQUE/);
  });
});

describe('promise 5: ended at any moment, it goes on or undoes', () => {
  let small: SmallHouse;
  beforeEach(async () => {
    small = await (await new SmallHouse(['tarn']).open()).build();
  });
  afterEach(async () => {
    await mustHold(small.house.db);
    await small.close();
  });
  const leaf = (n: number) => small.fleet.at(serialOf('tarn', `leaf-${n}`));
  const approved = async () => {
    const change = await small.propose('tarn', 'Kill', networkEdit('kill', 330, [1, 2, 3]));
    await small.approve(change);
    return change;
  };

  test('a computation that fails stores nothing of the edit', async () => {
    const { compiler } = small.house;
    const broken = {
      ...small.house,
      compiler: { run: () => Promise.reject(new Error('out of memory')), close: () => compiler.close() },
    };
    const change = await small.propose('tarn', 'Throws');
    const { Changes } = await import('./changes.ts');
    await expect(new Changes(broken as never).addEdits(change, [networkEdit('lost', 340)], INES)).rejects.toThrow(
      'out of memory',
    );
    expect(await small.changes.answer(change)).toMatchObject({ version: 1, steps: [], drawn: [] });
  });
  test('the answer to a confirmation is lost: the switch is asked, and says it is confirmed', async () => {
    const change = await approved();
    leaf(1).faults.add('loses the confirm answer');
    const done = await small.rest(await small.begin(change));
    expect([done.state, done.switches.map((s) => s.outcome)]).toEqual(['done', ['as meant', 'as meant', 'as meant']]);
    expect(done.switches.find((s) => s.host === 'a-lf-01')!.message).toContain('answer to the confirmation was lost');
  });
  test('the answer to an apply is lost: it is never applied twice', async () => {
    const change = await approved();
    leaf(1).faults.add('loses the apply answer');
    const rollout = await small.begin(change);
    const stopped = await small.rest(rollout);
    expect([stopped.state, small.vlansOn(leaf(1).serial)]).toEqual(['stopped', []]);
    leaf(1).faults.clear();
    await small.rollouts.retry(rollout, 'tamar');
    expect((await small.rest(rollout)).state).toBe('done');
    expect(leaf(1).applied.filter((id) => id.startsWith(rollout))).toEqual([`${rollout}-1`, `${rollout}-2`]);
  });
  test('paused, then killed with switches under way: they are brought to an end, the others wait; it can be undone', async () => {
    for (let after = 1; after < 16; after++) {
      const change = await approved();
      const rollout = await small.begin(change, { stopLine: 3 });
      await turns(after);
      await outcome(small.rollouts.pause(rollout, 'tamar'));
      await small.crash();
      await small.open();
      const rest = await small.rest(rollout);
      expect(rest.switches.map((s) => s.outcome)).not.toContain('under way');
      for (const s of rest.switches) {
        const has = small.vlansOn(s.serial).includes(330);
        expect([s.host, s.outcome, has]).toEqual([s.host, s.outcome, s.outcome === 'as meant']);
      }
      if (rest.state === 'done') {
        await small.toLive(await small.propose('tarn', 'Away', { kind: 'removeNetwork', name: 'kill' }));
        continue;
      }
      expect(rest.state).toBe('paused');
      await small.rest(await small.rollouts.undo(rollout, 'tamar'));
      for (const n of [1, 2, 3]) expect(small.vlansOn(leaf(n).serial)).toEqual([]);
      await small.changes.withdraw(change, await small.version(change));
    }
  });
});
