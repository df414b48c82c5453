import { demoFleet, type Fleet } from '@anthemion/bench';
import type { ChangeAnswer, LiveAnswer, RolloutAnswer } from '@anthemion/contract';
import { FABRIC_PATTERNS, layEdits, type Edit } from '@anthemion/core';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { openWorld, restOf, type Caller, type World } from '../testing/world.ts';

/** The demo's switches, and enough others for three more fabrics. */
function fleet(): Fleet {
  const demo = demoFleet('a password for tests');
  const more = ['TV-S32C', 'TV-S32C', 'TV-S32C', 'TV-S32C', 'TV-S32C', 'TV-S32C', 'TV-L48F'].map((model, n) => ({
    serial: `TVSNE500${n}`,
    model,
    port: 0,
    faults: [],
  }));
  return { ...demo, switches: [...demo.switches, ...more] };
}
let world: World;
beforeAll(async () => {
  world = await openWorld({ readStateSeconds: 1 }, fleet());
});
afterAll(() => world.close());

/** Asks for a yes, gets it, rolls out to the end; answers how each switch ended. */
async function goLive(ines: Caller, change: string): Promise<RolloutAnswer> {
  const bo = await world.as('bo');
  await ines.ask('POST', `/api/changes/${change}/ask`, {});
  await bo.ask('POST', `/api/changes/${change}/approve`, { note: '' });
  const { id } = await ines.ask<{ id: string }>('POST', '/api/rollouts', {
    change,
    stopLine: 1,
    undoSeconds: 120,
    breakIn: false,
    reason: '',
  });
  return restOf(ines, id);
}
/** Takes switches that sit in no seat, one after another, by their model. */
async function freeSwitches(ines: Caller): Promise<(model: string) => string> {
  const all = await ines.ask<{ serial: string; model: string; seat: string | null }[]>('GET', '/api/switches');
  const free = all.filter((s) => s.seat === null);
  return (model) =>
    free.splice(
      free.findIndex((s) => s.model === model),
      1,
    )[0]!.serial;
}
const openChange = (ines: Caller, fabric: string, title: string): Promise<ChangeAnswer> =>
  ines.ask('POST', '/api/changes', { fabric, title, reason: '', ticket: '' });

test('five stages, the whole way: laid out, proven, rolled out from the top down, and every session seen up', async () => {
  const ines = await world.as('ines');
  await ines.ask('POST', '/api/fabrics', { name: 'ness', namePrefix: 'ne' });
  const { id } = await openChange(ines, 'ness', 'Build ness');
  const pattern = {
    ...FABRIC_PATTERNS.find((p) => p.shape === 'five-stages')!,
    racks: [{ pattern: 'single-48', count: 1 }],
  };
  const next = await freeSwitches(ines);
  const upper = ['super-spine-1.1', 'super-spine-2.1', 'spine-1.1', 'spine-1.2', 'spine-2.1', 'spine-2.2'];
  const change = await ines.edit(
    id,
    ...layEdits(pattern),
    ...upper.map((seat): Edit => ({ kind: 'takeSeat', seat, serial: next('TV-S32C') })),
    ...['leaf-1', 'leaf-2'].map((seat): Edit => ({ kind: 'takeSeat', seat, serial: next('TV-L48F') })),
    { kind: 'addVrf', vrf: { name: 'tides', transitVlan: 4001 } },
    { kind: 'addNetwork', network: { name: 'gauges', vrf: 'tides', vlan: 20, subnetLength: 24, racks: [1, 2] } },
  );
  expect(change.proof!.findings).toEqual([]);
  expect(change.state).toBe('Proven');
  await ines.ask('POST', `/api/bench/cables`, { fabric: 'ness', change: id });
  const done = await goLive(ines, id);
  expect([done.state, done.switches.map((s) => s.outcome)]).toEqual(['done', done.switches.map(() => 'as meant')]);
  const wave = (host: string): number => done.switches.find((s) => s.host === host)!.wave;
  expect(wave('ne-ss-02-01')).toBeLessThanOrEqual(wave('ne-sp-02-02'));
  expect(wave('ne-sp-02-02')).toBeLessThan(wave('ne-lf-02'));
  let live: LiveAnswer;
  for (let i = 0; ; i++) {
    live = await ines.ask<LiveAnswer>('GET', '/api/fabrics/ness/live');
    if (live.sessions.up === 8 || i > 60) break;
    await new Promise((go) => setTimeout(go, 500));
  }
  expect(live.sessions).toMatchObject({ meant: 8, up: 8 });

  // Its switches get IPv6 for one another: a session is up when it carries that too, and where one leaves it, it is not.
  const { id: dual } = await openChange(ines, 'ness', 'IPv6 between switches');
  const turned = await ines.edit(dual, { kind: 'changeSettings', settings: { underlayFamilies: 'both' } });
  expect(turned.proof!.findings.map((f) => f.rule)).toEqual(['sessions-start-anew']);
  expect((await goLive(ines, dual)).state).toBe('done');
  const until = async (good: (l: LiveAnswer) => boolean): Promise<LiveAnswer> => {
    for (let i = 0; ; i++) {
      const l = await ines.ask<LiveAnswer>('GET', '/api/fabrics/ness/live');
      if (good(l) || i > 120) return l;
      await new Promise((go) => setTimeout(go, 250));
    }
  };
  expect((await until((l) => l.sessions.up === 8)).sessions).toMatchObject({ meant: 8, up: 8, down: [] });
  const tamar = await world.as('tamar');
  const { serial } = live.seats.find((s) => s.host === 'ne-lf-01')!;
  const [find, replace] = [
    'ipv6 unicast\n  redistribute connected route-map CONNECTED\n  neighbor FABRIC activate',
    'ipv6 unicast\n  redistribute connected route-map CONNECTED',
  ];
  await tamar.ask('POST', '/api/bench/hand-edit', { serial, file: 'frr.conf', find, replace });
  const broken = await until((l) => l.sessions.up === 6 && l.causes.length > 0);
  expect(broken.sessions).toMatchObject({ meant: 8, up: 6 });
  expect(broken.causes.map((c) => [c.kind, c.hosts, c.sessions.length])).toEqual([['edited', ['ne-lf-01'], 2]]);
});

test('switched, the whole way: VLANs on every trunk, spanning tree, and nothing of a router on any switch', async () => {
  const ines = await world.as('ines');
  await ines.ask('POST', '/api/fabrics', { name: 'tarn', namePrefix: 'ta' });
  const { id } = await openChange(ines, 'tarn', 'Build tarn');
  const pattern = {
    ...FABRIC_PATTERNS.find((p) => p.shape === 'switched')!,
    spines: { count: 1, model: 'TV-S32C' },
    parallel: 2,
    racks: [{ pattern: 'single-48', count: 1 }],
    settings: { leafName: '{prefix}-rack-{rack}{side}' },
  };
  const next = await freeSwitches(ines);
  const change = await ines.edit(
    id,
    ...layEdits(pattern),
    { kind: 'takeSeat', seat: 'spine-1', serial: next('TV-S32C') },
    { kind: 'takeSeat', seat: 'leaf-1', serial: next('TV-L48F') },
    { kind: 'addNetwork', network: { name: 'gauges', vrf: '', vlan: 20, subnetLength: 24, racks: [1] } },
    {
      kind: 'connectServer',
      port: { rack: 1, side: 'a', port: 'p1', server: 'gauge-1', untagged: 'gauges', tagged: [] },
    },
  );
  expect(change.proof!.findings).toEqual([]);
  expect(change.state).toBe('Proven');
  await ines.ask('POST', `/api/bench/cables`, { fabric: 'tarn', change: id });
  const done = await goLive(ines, id);
  expect(done.switches.map((s) => [s.host, s.outcome])).toEqual([
    ['ta-sp-01', 'as meant'],
    ['ta-rack-01', 'as meant'],
  ]);
  const { meant } = await ines.ask<{ meant: Record<string, string> }>('GET', '/api/fabrics/tarn/text/spine-1');
  expect(meant['interfaces']).toContain('    bond-slaves p1 p2\n');
  expect(meant['interfaces']).toMatch(
    /bridge-ports bond1\n {4}bridge-vids 20\n {4}bridge-stp on\n {4}bridge-bridgeprio 4096/,
  );
  expect(meant['frr.conf']).not.toMatch(/router bgp|bfd|route-map/);

  // Renamed while it runs: the seat and its switch stay, the name and what its neighbour says of it change.
  const { id: renaming } = await openChange(ines, 'tarn', 'Rename racks');
  const refused = await ines.attempt('POST', `/api/changes/${renaming}/edits`, {
    edits: [{ kind: 'changeSettings', settings: { leafName: '{prefix}-sp-{rack}{side}' } }],
  });
  expect(refused).toMatchObject({
    status: 422,
    body: { findings: [{ path: '/edits/0/settings/spineName', rule: 'names-differ' }] },
  });
  const renamed = await ines.edit(renaming, {
    kind: 'changeSettings',
    settings: { leafName: '{prefix}-hall-{rack}{side}' },
  });
  expect(renamed.proof!.switches.map((x) => [x.host, x.fate])).toEqual([
    ['ta-sp-01', 'changed'],
    ['ta-hall-01', 'changed'],
  ]);
  const after = await goLive(ines, renaming);
  expect(after.switches.map((x) => [x.host, x.outcome])).toEqual([
    ['ta-sp-01', 'as meant'],
    ['ta-hall-01', 'as meant'],
  ]);
  await ines.ask('POST', '/api/fabrics/tarn/read', {});
  const live = await ines.ask<LiveAnswer>('GET', '/api/fabrics/tarn/live');
  expect(live.seats.map((x) => [x.host, x.health])).toEqual([
    ['ta-sp-01', 'as meant'],
    ['ta-hall-01', 'as meant'],
  ]);
});

test('led by OSPF, by both families: neighbours are waited for, read, and hang on their cable', async () => {
  const ines = await world.as('ines');
  await ines.ask('POST', '/api/fabrics', { name: 'voe', namePrefix: 'vo' });
  const { id } = await openChange(ines, 'voe', 'Build voe');
  const pattern = {
    ...FABRIC_PATTERNS.find((p) => p.name === 'four-by-ten')!,
    spines: { count: 1, model: 'TV-S32C' },
    racks: [{ pattern: 'single-48', count: 2 }],
    settings: { asnScheme: 'single' as const, underlayFamilies: 'both' as const },
  };
  const next = await freeSwitches(ines);
  const [spine, ...leaves] = ['TV-S32C', 'TV-L48F', 'TV-L48F'].map(next);
  const change = await ines.edit(
    id,
    ...layEdits(pattern),
    { kind: 'takeSeat', seat: 'spine-1', serial: spine! },
    ...leaves.map((serial, i): Edit => ({ kind: 'takeSeat', seat: `leaf-${i + 1}`, serial })),
  );
  expect(change.proof!.findings).toEqual([]);
  await ines.ask('POST', `/api/bench/cables`, { fabric: 'voe', change: id });
  const done = await goLive(ines, id);
  expect([done.state, done.switches.map((s) => s.outcome)]).toEqual(['done', done.switches.map(() => 'as meant')]);
  const look = async (): Promise<LiveAnswer> => {
    await ines.ask('POST', '/api/fabrics/voe/read', {});
    return ines.ask<LiveAnswer>('GET', '/api/fabrics/voe/live');
  };
  const live = await look();
  expect(live.sessions).toMatchObject({ meant: 2, up: 2 });
  // Two links, each with a neighbour by OSPF and one by OSPFv3.
  expect(live.adjacencies).toEqual({ meant: 4, up: 4, down: [], unread: 0 });
  expect(live.causes).toEqual([]);
  // What a rollout waited for is in its log: the last switch has its session and two neighbours on its link.
  const log = await ines.ask<{ text: string }[]>('GET', `/api/rollouts/${done.id}/log`);
  expect(log.some((l) => l.text.startsWith('settled: 3 of 3 sessions up'))).toBe(true);

  const tamar = await world.as('tamar');
  await tamar.ask('POST', '/api/bench/pull', { serial: leaves[0], port: 'p49', pulled: true });
  const pulled = await look();
  expect(pulled.causes.map((c) => [c.kind, c.sessions.length])).toEqual([['cable', 3]]);
  expect(pulled.causes[0]!.sessions.filter((s) => / by OSPF(v3)?$/.test(s))).toHaveLength(2);
  expect(pulled.adjacencies).toMatchObject({ meant: 4, up: 2 });
});
