import type {
  AdoptAnswer,
  ChangeAnswer,
  DayAnswer,
  FabricStateAnswer,
  HeardAnswer,
  InventoryAnswer,
  LiveAnswer,
  PastCause,
  PresentPerson,
  TouchAnswer,
  Problem,
  RolloutAnswer,
  TrafficAnswer,
} from '@anthemion/contract';
import { busyPorts } from '@anthemion/core';
import { afterAll, afterEach, beforeAll, describe, expect, test } from 'vitest';
import { join } from 'node:path';
import { startServer } from '../server.ts';
import { Live } from './live.ts';
import { openWorld, restOf, type Caller, type World } from '../testing/world.ts';

let world: World;
let ines: Caller;
let bo: Caller;
let tamar: Caller;
let skerry: FabricStateAnswer;
/** How far the server's clock is set forward, milliseconds. */
let ahead = 0;
beforeAll(async () => {
  world = await openWorld({ readStateSeconds: 1, readTextSeconds: 3600, now: () => new Date(Date.now() + ahead) });
  [ines, bo, tamar] = [await world.as('ines'), await world.as('bo'), await world.as('tamar')];
  skerry = await ines.ask<FabricStateAnswer>('GET', '/api/fabrics/skerry');
});
// What one test broke and did not mend is not left to the next.
afterEach(async () => {
  for (const s of world.bench.fleet.switches)
    for (const fault of s.faults) await tamar.ask('POST', '/api/bench/faults', { serial: s.serial, fault, on: false });
});
afterAll(() => world.close());

const live = (): Promise<LiveAnswer> => ines.ask('GET', '/api/fabrics/skerry/live');
/** Waits until what is read is as it should be; nobody asks for a reading. */
async function until(good: (l: LiveAnswer) => boolean, what: string): Promise<LiveAnswer> {
  for (let i = 0; i < 400; i++) {
    const l = await live();
    if (good(l)) return l;
    await new Promise((go) => setTimeout(go, 50));
  }
  throw new Error(`${what}: ${JSON.stringify((await live()).causes)}`);
}
const healthy = (l: LiveAnswer): boolean => l.causes.length === 0 && l.seats.every((s) => s.health === 'as meant');
const seatOf = (host: string) => skerry.seats.find((s) => s.host === host)!;
const byHand = (host: string, file: string, find: string, replace: string): Promise<unknown> =>
  tamar.ask('POST', '/api/bench/hand-edit', { serial: seatOf(host).serial, file, find, replace });
const shut = (port: string) => [`iface ${port}\n`, `iface ${port}\n    link-down yes\n`] as const;
/** Reads a switch whose account was mended; a machine that is busy may not shake hands in time, and then it is asked once more. */
async function readAgain(serial: string): Promise<void> {
  const read = (): Promise<unknown> => tamar.ask('POST', `/api/switches/${serial}/read`);
  await read().catch(read).catch(read);
}
const fault = (host: string, which: string, on: boolean): Promise<unknown> =>
  tamar.ask('POST', '/api/bench/faults', { serial: seatOf(host).serial, fault: which, on });

/** A server port of a single leaf, and its leaf. */
const single = () => {
  const p = skerry.intent.ports.find(
    (x) => x.side !== 'both' && skerry.seats.some((s) => s.seat === `leaf-${x.rack}`),
  )!;
  return { port: p, host: skerry.seats.find((s) => s.seat === `leaf-${p.rack}`)!.host };
};

describe('promise 6: what is shown as live was read, and says when', () => {
  test('the whole fabric is read by itself, and every figure carries its time', async () => {
    const l = await until(healthy, 'healthy');
    expect(l.every).toEqual({ state: 1, text: 3600 });
    expect(l.seats.every((s) => s.readAt !== null && s.textAt !== null)).toBe(true);
    expect(l.sessions).toEqual({ meant: 40, up: 40, down: [], unread: 0, settling: 0 });
    expect(l.links).toEqual({ planned: 40, up: 40, others: [] });
    const later = await until((n) => n.seats.every((s, i) => s.readAt! > l.seats[i]!.readAt!), 'read again');
    expect(healthy(later)).toBe(true);
  });

  test('a pulled cable is one line with its session on it, until it is plugged', async () => {
    const { aHost, aPort } = { aHost: 'sk-lf-03', aPort: 'p49' };
    await tamar.ask('POST', '/api/bench/pull', { serial: seatOf(aHost).serial, port: aPort, pulled: true });
    const l = await until(
      (n) => n.causes.some((c) => c.sessions.length > 0 && c.details.includes('both ends say no signal')),
      'cable out',
    );
    expect(l.causes).toHaveLength(1);
    expect(l.causes[0]).toMatchObject({ kind: 'cable', fabric: 'skerry', sessions: [expect.stringContaining(aHost)] });
    expect(l.causes[0]!.title).toContain(`${aHost} ${aPort}`);
    expect(l.links.others.map((x) => x.stand)).toEqual(['no signal']);
    expect(l.sessions).toMatchObject({ meant: 40, up: 39 });
    expect(l.seats.every((s) => s.health === 'as meant')).toBe(true);
    const day = await ines.ask<DayAnswer>('GET', '/api/day');
    expect(day.causes.map((c) => c.title)).toEqual(l.causes.map((c) => c.title));
    await tamar.ask('POST', '/api/bench/pull', { serial: seatOf(aHost).serial, port: aPort, pulled: false });
    await until(healthy, 'mended');
    const [past] = await ines.ask<PastCause[]>('GET', '/api/fabrics/skerry/causes');
    expect(past).toMatchObject({
      title: l.causes[0]!.title,
      began: l.causes[0]!.since,
      ended: expect.any(String) as string,
    });
  });

  test('two swapped cables are one tangle, with the two plugs that mend it; what cannot be swapped is refused', async () => {
    const end = (host: string, port: string) => ({ serial: seatOf(host).serial, port });
    const swap = (a: unknown, b: unknown) => tamar.ask('POST', '/api/bench/swap', { a, b });
    const [one, two] = [end('sk-lf-03', 'p49'), end('sk-lf-04', 'p49')];
    await expect(swap(one, one)).rejects.toThrow('two are swapped');
    await expect(swap(one, end('sk-lf-03', 'p1'))).rejects.toThrow('no cable on');
    await swap(one, two);
    // The switches are read one after another: only then are both plugs known.
    const l = await until((n) => n.causes.some((c) => c.kind === 'miscabled' && c.moves.length === 2), 'swapped');
    expect(l.causes).toHaveLength(1);
    await swap(one, two);
    await until(healthy, 'as it was');
  });

  test('what does not answer is unread with its own words, and its neighbours say whether it runs', async () => {
    await fault('sk-lf-01', 'unreachable', true);
    const l = await until((n) => n.causes.length > 0, 'unread');
    expect(l.causes.map((c) => c.title)).toEqual(['sk-lf-01 cannot be read']);
    expect(l.causes[0]!.details.join(' ')).toContain('its neighbours still see it');
    expect(l.seats.find((s) => s.host === 'sk-lf-01')).toMatchObject({
      health: 'unread',
      why: expect.stringMatching(/closed the connection|no answer|connection was lost/) as string,
    });
    await fault('sk-lf-01', 'unreachable', false);
    await until(healthy, 'answers again');
  });

  test('a server that slept takes its switches for unread no longer than until they are read again', async () => {
    // It sleeps again and again: on a slow machine all could be read anew before it was judged once.
    await until((n) => {
      if (n.seats.some((s) => s.why?.startsWith('not read since') ?? false)) return true;
      ahead += 60_000;
      world.server.house.events.tell('fabrics', 'skerry');
      return false;
    }, 'slept');
    await until(healthy, 'read again');
  });

  test('three log-ins refused running: it is left alone until somebody mends it', async () => {
    await fault('sk-lf-02', 'wrong password', true);
    // A line that is open would go on: a switch that changed its accounts has closed it.
    await fault('sk-lf-02', 'unreachable', true);
    await fault('sk-lf-02', 'unreachable', false);
    const l = await until((n) => n.seats.some((s) => s.why?.includes('three times running') ?? false), 'left alone');
    expect(l.seats.find((s) => s.host === 'sk-lf-02')!.health).toBe('unread');
    const refused = async (): Promise<number> =>
      (
        await world.server.house.db
          .selectFrom('switches')
          .select('refused')
          .where('serial', '=', seatOf('sk-lf-02').serial!)
          .executeTakeFirstOrThrow()
      ).refused;
    expect(await refused()).toBe(3);
    await new Promise((go) => setTimeout(go, 2500));
    expect(await refused()).toBe(3);
    await fault('sk-lf-02', 'wrong password', false);
    await readAgain(seatOf('sk-lf-02').serial!);
    await until(healthy, 'asked again');
  });

  test('out of service: not read, not judged, and said by whom and why', async () => {
    const { serial, host } = seatOf('sk-lf-04');
    await tamar.ask('POST', `/api/switches/${serial}/out-of-service`, { reason: 'fan tray is swapped' });
    await fault(host, 'unreachable', true);
    await until((n) => n.seats.some((s) => s.health === 'out of service'), 'out');
    await new Promise((go) => setTimeout(go, 1500));
    const l = await live();
    expect(l.causes).toEqual([]);
    expect(l.seats.find((s) => s.host === host)!.why).toContain('fan tray is swapped (tamar');
    const list = await ines.ask<InventoryAnswer[]>('GET', '/api/switches');
    expect(list.find((s) => s.serial === serial)!.out).toMatchObject({ by: 'tamar', reason: 'fan tray is swapped' });
    await fault(host, 'unreachable', false);
    await tamar.ask('POST', `/api/switches/${serial}/in-service`);
    await until(healthy, 'back in service');
  });
});

test('what goes over a switch is what its ports count: others go round one that asks for it, and come back', async () => {
  const traffic = (seat: string) => ines.call<TrafficAnswer & Problem>('POST', '/api/fabrics/skerry/traffic', { seat });
  const usual = (await traffic('spine-1')).body;
  expect(usual).toMatchObject({ host: 'sk-sp-01', anew: [] });
  expect(usual.ports.map((p) => p.to)).toContain('sk-lf-07a p49');
  expect(busyPorts(usual).length).toBeGreaterThan(8);
  const served = (await traffic('leaf-2')).body;
  expect(busyPorts(served).map((p) => p.to)).toContain('soundings-201');
  // Loaded by hand, as an operator in a hurry would.
  const router = 'router bgp 65100\n';
  const asks = `${router} bgp graceful-shutdown\n`;
  await byHand('sk-sp-01', 'frr.conf', router, asks);
  const round = (await traffic('spine-1')).body;
  expect([round.ports.length, busyPorts(round)]).toEqual([usual.ports.length, []]);
  await byHand('sk-sp-01', 'frr.conf', asks, router);
  expect(busyPorts((await traffic('spine-1')).body).length).toBe(busyPorts(usual).length);
  expect((await traffic('leaf-99')).status).toBe(404);
  // One that cannot be asked says why; nothing is made up.
  await fault('sk-sp-01', 'unreachable', true);
  const silent = await traffic('spine-1');
  expect([silent.status, silent.body.ports]).toEqual([502, undefined]);
  expect(silent.body.detail).toMatch(/^sk-sp-01 was not asked: /);
  await fault('sk-sp-01', 'unreachable', false);
  await until(healthy, 'as before');
});

test('where a host is heard: by server, MAC and address, on both halves of a pair; who does not answer is said', async () => {
  const heard = (what: string) => ines.call<HeardAnswer & Problem>('POST', '/api/fabrics/skerry/heard', { what });
  const paired = skerry.intent.ports.find((p) => p.side === 'both')!;
  const both = skerry.seats.filter((s) => s.seat.startsWith(`leaf-${paired.rack}`)).map((s) => s.host);
  const by = (await heard(paired.server.toUpperCase())).body;
  expect(by).toMatchObject({ asked: 2, silent: [] });
  expect([...new Set(by.heard.map((h) => h.host))]).toEqual(both);
  const [one] = by.heard.filter((h) => h.addresses.length > 0);
  expect(one).toMatchObject({ server: paired.server, port: `bond${paired.port.slice(1)}` });
  const vlan = skerry.intent.networks.find((n) => n.name === one!.network)!.vlan;
  expect(one!.vlan).toBe(vlan);
  // All switches with servers are asked for a MAC, those of the racks that carry its subnet for an address.
  const byMac = (await heard(one!.mac.replaceAll(':', '-'))).body;
  expect(byMac.asked).toBe(10);
  expect(byMac.heard).toEqual(by.heard);
  const carrying = skerry.intent.networks.find((n) => n.name === one!.network)!.racks;
  const byAddress = (await heard(one!.addresses[0]!)).body;
  expect(byAddress.asked).toBe(
    skerry.seats.filter((s) => carrying.some((r) => new RegExp(`^leaf-${r}[ab]?$`).test(s.seat))).length,
  );
  expect(byAddress.heard.filter((h) => h.network === one!.network).map((h) => h.host)).toEqual(both);
  await fault(both[0]!, 'unreachable', true);
  const half = (await heard(paired.server)).body;
  expect([half.asked, half.silent.map((x) => x.host)]).toEqual([1, [both[0]]]);
  expect(half.heard.every((h) => h.host === both[1])).toBe(true);
  await fault(both[0]!, 'unreachable', false);
  // Who is left alone is left alone by this too: out of service, and after log-ins that were refused, none of which is forgotten.
  const { serial } = seatOf(both[0]!);
  await tamar.ask('POST', `/api/switches/${serial}/out-of-service`, { reason: 'Fan tray' });
  expect((await heard(paired.server)).body.silent).toEqual([{ host: both[0], why: 'it is out of service' }]);
  await tamar.ask('POST', `/api/switches/${serial}/in-service`);
  await fault(both[0]!, 'wrong password', true);
  await fault(both[0]!, 'unreachable', true);
  await fault(both[0]!, 'unreachable', false);
  for (let i = 0; i < 4; i++) await heard(paired.server);
  await until(
    (n) => n.seats.some((s) => s.host === both[0] && (s.why?.includes('three times running') ?? false)),
    'left alone',
  );
  expect((await heard(paired.server)).body.silent).toEqual([
    { host: both[0], why: expect.stringContaining('has refused the account') as string },
  ]);
  await fault(both[0]!, 'wrong password', false);
  await readAgain(serial!);
  expect((await heard(paired.server)).body.asked).toBe(2);
  expect((await heard('06:00:00:00:00:01')).body.heard).toEqual([]);
  for (const [what, message] of [
    ['nobody-9', /No server nobody-9 is on a port of skerry/],
    ['  ', /Say who/],
    ['x'.repeat(101), /at most 100/],
  ] as const) {
    const { status, body } = await heard(what);
    expect([status, body.findings[0]!.path]).toEqual([422, '/what']);
    expect(body.findings[0]!.message).toMatch(message);
  }
});

test('what was worked out before switches were read is not kept for what they say since', async () => {
  const { house } = world.server;
  const base = await live();
  const asked: ((answer: unknown) => void)[] = [];
  const compiler = {
    ...house.compiler,
    run: (task: { readonly do: string; readonly change?: string | null }) =>
      task.change ? new Promise((go) => asked.push(go)) : house.compiler.run(task as never),
  };
  const own = new Live({ ...house, compiler: compiler as never }, { state: 1, text: 1 });
  const says = async (n: number, right: number): Promise<number> => {
    const answer = own.ofChange('skerry', 'some-change', 1);
    for (let i = 0; asked.length < n && i < 200; i++) await new Promise((go) => setTimeout(go, 10));
    own.readForChange('skerry');
    asked[n - 1]?.({ ...base, links: { planned: 8, up: right, others: [] } });
    return (await answer).links.up;
  };
  expect(await says(1, 0)).toBe(0);
  expect(await says(2, 8)).toBe(8);
});

describe('the two answers to a hand edit', () => {
  test('put back: a rollout of its own, proved and logged; what waits is as it was', async () => {
    const { port, host } = single();
    const waiting = await ines.ask<ChangeAnswer>('POST', '/api/changes', {
      fabric: 'skerry',
      title: 'Waits meanwhile',
      reason: '',
      ticket: '',
    });
    await ines.edit(waiting.id, { kind: 'changeSettings', settings: { keepalive: 4 } });
    await bo.ask('POST', `/api/changes/${waiting.id}/approve`, {});
    const before = await ines.ask<ChangeAnswer>('GET', `/api/changes/${waiting.id}`);

    await byHand(host, 'interfaces', ...shut(port.port));
    const l = await until((n) => n.causes.some((c) => c.kind === 'edited'), 'edited');
    expect(l.causes[0]).toMatchObject({
      title: `${host} was edited by hand`,
      details: [`${port.port} is shut by hand, meant open`],
      serversCut: [port.server],
    });
    expect(l.seats.find((s) => s.host === host)).toMatchObject({ health: 'drifted', byHand: l.causes[0]!.details });

    const asked = { serials: [seatOf(host).serial], reason: 'nobody meant that' };
    const olu = await world.as('olu');
    expect((await olu.call('POST', '/api/fabrics/skerry/put-back', asked)).status).toBe(403);
    const begun = await tamar.ask<RolloutAnswer>('POST', '/api/fabrics/skerry/put-back', asked);
    const done = await restOf(tamar, begun.id);
    expect(done).toMatchObject({ kind: 'put back', state: 'done', counts: { 'as meant': 1 } });
    await until(healthy, 'put back');
    expect(await ines.ask<ChangeAnswer>('GET', `/api/changes/${waiting.id}`)).toEqual(before);
    await ines.ask('POST', `/api/changes/${waiting.id}/withdraw`);
    // There is nothing to put back any more.
    const again = await tamar.call<Problem>('POST', '/api/fabrics/skerry/put-back', asked);
    expect([again.status, again.body.findings[0]!.path]).toEqual([422, '/serials/0']);
  });

  test('what is told once and for all is watched as well: a setting that was taken out, a part of ours that is gone', async () => {
    const { host } = single();
    const saidOf = async (what: RegExp): Promise<void> => {
      const l = await until(
        (n) => n.seats.some((s) => s.health === 'drifted' && s.byHand.some((words) => what.test(words))),
        `drifted, with ${what}`,
      );
      expect(l.seats.find((s) => s.host === host)!.health).toBe('drifted');
    };
    await byHand(host, 'sysctl.conf', 'net.ipv4.ip_forward = 1\n', '');
    await saidOf(/nothing here sets net\.ipv4\.ip_forward: it passes no IPv4 on/);
    const ours = '# anthemion begin\nbgpd=yes\nospfd=no\nospf6d=no\nbfdd=yes\n# anthemion end\n';
    await byHand(host, 'daemons', ours, '');
    await saidOf(/^Nothing of ours is in daemons any more$/);
    const begun = await tamar.ask<RolloutAnswer>('POST', '/api/fabrics/skerry/put-back', {
      serials: [seatOf(host).serial],
      reason: 'as meant again',
    });
    expect((await restOf(tamar, begun.id)).state).toBe('done');
    await until(healthy, 'put back');
  });

  test('put back leaves alone what was edited once more after it was seen', async () => {
    const { port, host } = single();
    await byHand(host, 'interfaces', ...shut(port.port));
    await until((n) => n.seats.some((s) => s.health === 'drifted'), 'drifted');
    const { serial } = seatOf(host);
    const { running } = await world.server.house.db
      .selectFrom('switches')
      .select('running')
      .where('serial', '=', serial!)
      .executeTakeFirstOrThrow();
    await byHand(host, 'frr.conf', 'hostname', '! mended at night\nhostname');
    // As if it had not been read since.
    await world.server.house.db.updateTable('switches').set({ running }).where('serial', '=', serial!).execute();
    const begun = await tamar.ask<RolloutAnswer>('POST', '/api/fabrics/skerry/put-back', {
      serials: [serial],
      reason: 'as meant again',
    });
    const rest = await restOf(tamar, begun.id);
    expect([rest.state, rest.switches[0]!.outcome]).toEqual(['stopped', 'refused, untouched']);
    expect(rest.switches[0]!.message).toContain('somebody changed it by hand');
    // Somebody looked at it: the retry puts it back.
    await tamar.ask('POST', `/api/rollouts/${begun.id}/retry`);
    expect((await restOf(tamar, begun.id)).state).toBe('done');
    await until(healthy, 'put back');
  });

  test('adopt: what can be said as intent goes into a change, and once live nothing is drifted', async () => {
    const { port, host } = single();
    await byHand(host, 'interfaces', ...shut(port.port));
    await until((n) => n.seats.some((s) => s.health === 'drifted'), 'drifted');
    const serials = [seatOf(host).serial];
    const preview = await ines.ask<AdoptAnswer>('POST', '/api/fabrics/skerry/adopt/preview', { serials });
    expect(preview).toEqual({
      edits: [`Shut port ${port.port} of rack ${port.rack}, where ${port.server} is`],
      left: [],
    });
    const { change } = await ines.ask<{ change: string }>('POST', '/api/fabrics/skerry/adopt', { serials });
    const made = await ines.ask<ChangeAnswer>('GET', `/api/changes/${change}`);
    expect([made.state, made.proof!.switches.filter((s) => s.fate !== 'same').map((s) => s.host)]).toEqual([
      'Proven',
      [host],
    ]);
    await bo.ask('POST', `/api/changes/${change}/approve`, {});
    const begun = await tamar.ask<RolloutAnswer>('POST', '/api/rollouts', { change, undoSeconds: 20 });
    const rest = await restOf(tamar, begun.id);
    expect([rest.state, rest.counts]).toEqual(['done', { 'as meant': 1 }]);
    await until(healthy, 'adopted');
  });

  test('what the intent cannot say is refused with the reason, and nothing is opened', async () => {
    const before = (await ines.ask<unknown[]>('GET', '/api/changes')).length;
    await byHand(
      'sk-sp-01',
      'frr.conf',
      'bgp bestpath as-path multipath-relax',
      '! bgp bestpath as-path multipath-relax',
    );
    const l = await until((n) => n.seats.some((s) => s.health === 'drifted'), 'drifted');
    expect(l.causes[0]!.details).toEqual(['Multipath over different AS numbers of BGP: runs off, meant on']);
    const no = await ines.call<Problem>('POST', '/api/fabrics/skerry/adopt', { serials: [seatOf('sk-sp-01').serial] });
    expect([no.status, no.body.findings[0]!.message]).toEqual([
      422,
      expect.stringContaining('follows from settings of the whole fabric') as string,
    ]);
    expect(await ines.ask<unknown[]>('GET', '/api/changes')).toHaveLength(before);
    const begun = await tamar.ask<RolloutAnswer>('POST', '/api/fabrics/skerry/put-back', {
      serials: [seatOf('sk-sp-01').serial],
      reason: 'as meant',
    });
    expect((await restOf(tamar, begun.id)).state).toBe('done');
    await until(healthy, 'put back');
  });
});

test('a switch that runs ahead in a stopped rollout waits; it is not drifted', async () => {
  const change = await ines.ask<ChangeAnswer>('POST', '/api/changes', {
    fabric: 'skerry',
    title: 'Half-way',
    reason: '',
    ticket: '',
  });
  await ines.edit(change.id, {
    kind: 'addNetwork',
    network: { name: 'half-way', vrf: 'tides', vlan: 960, subnetLength: 24, racks: [1, 5] },
  });
  await bo.ask('POST', `/api/changes/${change.id}/approve`, {});
  await fault('sk-lf-05', 'refuses the text', true);
  const begun = await tamar.ask<RolloutAnswer>('POST', '/api/rollouts', { change: change.id, undoSeconds: 20 });
  const rest = await restOf(tamar, begun.id);
  expect(rest.state).toBe('stopped');
  const ahead = rest.switches.filter((s) => s.outcome === 'as meant');
  expect(ahead.length).toBeGreaterThan(0);
  const l = await ines.ask<LiveAnswer>('POST', '/api/fabrics/skerry/read');
  expect(l.seats.filter((s) => s.health === 'drifted')).toEqual([]);
  for (const s of ahead)
    expect(l.seats.find((x) => x.host === s.host)).toMatchObject({
      health: 'waiting',
      why: expect.stringContaining('ahead of what is live') as string,
    });
  expect(l.causes).toEqual([]);
  await fault('sk-lf-05', 'refuses the text', false);
  const undo = await tamar.ask<RolloutAnswer>('POST', `/api/rollouts/${begun.id}/undo`);
  expect((await restOf(tamar, undo.id)).state).toBe('done');
  await until(healthy, 'undone');
  await ines.ask('POST', `/api/changes/${change.id}/withdraw`);
});

describe('together', () => {
  test('who asks for a yes is found by those who may give it, until an edit asks anew', async () => {
    const { id } = await ines.ask<ChangeAnswer>('POST', '/api/changes', {
      fabric: 'skerry',
      title: 'Asks',
      reason: '',
      ticket: '',
    });
    const empty = await ines.attempt<Problem>('POST', `/api/changes/${id}/ask`);
    expect(empty.status).toBe(409);
    await ines.edit(id, { kind: 'changeSettings', settings: { keepalive: 4 } });
    const asked = await ines.ask<ChangeAnswer>('POST', `/api/changes/${id}/ask`);
    expect(asked.asked).toMatchObject({ by: 'ines' });
    const waits = async (who: Caller): Promise<string[]> =>
      (await who.ask<DayAnswer>('GET', '/api/day')).waits.filter((w) => w.change.id === id).map((w) => w.why);
    expect(await waits(bo)).toEqual(['asks your yes']);
    expect(await waits(ines)).toEqual(['is yours']);
    expect(await waits(await world.as('olu'))).toEqual([]);
    await ines.edit(id, { kind: 'changeSettings', settings: { hold: 20 } });
    expect(await waits(bo)).toEqual([]);
    await bo.ask('POST', `/api/changes/${id}/approve`, {});
    expect(await waits(tamar)).toEqual(['may be rolled out']);
    await ines.ask('POST', `/api/changes/${id}/withdraw`);
  });

  test('two open changes that want the same are told so while both are open', async () => {
    const open = async (title: string): Promise<string> =>
      (await ines.ask<ChangeAnswer>('POST', '/api/changes', { fabric: 'skerry', title, reason: '', ticket: '' })).id;
    const [a, b] = [await open('One'), await open('Other')];
    await ines.edit(a, { kind: 'changeSettings', settings: { keepalive: 5 } });
    await ines.edit(b, { kind: 'changeSettings', settings: { keepalive: 6 } });
    const clashes = await ines.ask<{ change: string; edits: { sentence: string; why: string }[] }[]>(
      'GET',
      `/api/changes/${a}/clashes`,
    );
    expect(clashes).toEqual([
      expect.objectContaining({
        change: b,
        title: 'Other',
        edits: [{ sentence: expect.stringContaining('keepalive') as string, why: expect.any(String) as string }],
      }),
    ]);
    // In the other way as well, and whoever looks at what both want is told who touched it last.
    expect(await ines.ask<unknown[]>('GET', `/api/changes/${b}/clashes`)).toHaveLength(1);
    const touched = (change: string, at: string): Promise<TouchAnswer | null> =>
      ines.ask('GET', `/api/fabrics/skerry/touched?at=${at}&change=${change}`);
    expect(await touched(a, 'setting:keepalive')).toMatchObject({ by: 'ines', change: { id: a, title: 'One' } });
    expect((await touched(a, 'rack:3'))?.change.id).not.toBe(a);
    expect(await touched(a, 'rack:3')).toEqual(await touched('', 'rack:3'));
    for (const id of [a, b]) await ines.ask('POST', `/api/changes/${id}/withdraw`);
    expect(await ines.ask('GET', `/api/changes/${a}/clashes`)).toEqual([]);
  });

  test('who looks at the same fabric is seen, by others, once', async () => {
    await bo.ask('PUT', '/api/here', { fabric: 'skerry', change: null, at: 'rack:7' });
    const seen = await ines.ask<PresentPerson[]>('GET', '/api/here?fabric=skerry');
    expect(seen).toEqual([expect.objectContaining({ account: 'bo', at: 'rack:7', change: null })]);
    expect(await bo.ask('GET', '/api/here?fabric=skerry')).toEqual([]);
    await bo.ask('PUT', '/api/here', { fabric: '', change: null, at: '' });
    expect(await ines.ask('GET', '/api/here?fabric=skerry')).toEqual([]);
  });

  test('the day sheet says what came in since the time before', async () => {
    const { db } = world.server.house;
    await db.deleteFrom('visits').execute();
    expect((await ines.ask<DayAnswer>('GET', '/api/day')).before).toBeNull();
    const yesterday = new Date(Date.now() - 86_400_000).toISOString();
    await db.updateTable('visits').set({ seen_at: yesterday }).where('account', '=', 'ines').execute();
    const day = await ines.ask<DayAnswer>('GET', '/api/day');
    expect(day.before).toBe(yesterday);
    expect(day.since.length).toBeGreaterThan(3);
    expect(day.since.map((e) => e.text).join('\n')).toMatch(/mended: sk-sp-01 was edited by hand/);
    expect(day.fabrics[0]!.standings.at(-1)).toMatchObject({ switches: 14 });
  });
});

test('a server that is ended while switches wait for their turn to be read, ends, and starts again', async () => {
  const start = (): Promise<typeof world.server> =>
    startServer({
      data: join(world.folder, 'data'),
      port: 0,
      bench: { url: world.bench.controlUrl, token: 'a token for tests', folder: join(world.folder, 'bench') },
      logLevel: 'silent',
      readStateSeconds: 3600,
      readTextSeconds: 3600,
      readAtOnce: 1,
    });
  await world.server.close();
  world.server = await start();
  for (const { host } of skerry.seats) await fault(host, 'slow', true);
  // Nobody waits for this answer: the server hangs up on it.
  const asked = ines.call('POST', '/api/fabrics/skerry/read', {}).catch(() => undefined);
  await new Promise((go) => setTimeout(go, 500));
  let timer: NodeJS.Timeout | undefined;
  const ended = await Promise.race([
    world.server.close().then(() => 'ended'),
    new Promise((go) => (timer = setTimeout(() => go('still open'), 60_000))),
  ]);
  clearTimeout(timer);
  expect(ended).toBe('ended');
  await asked;
  world.server = await start();
});
