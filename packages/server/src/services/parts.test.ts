import type { InventoryAnswer, PartsAnswer, Problem } from '@anthemion/contract';
import { MODELS, type SwitchModel } from '@anthemion/core';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { addFabric } from '../store/fabrics.ts';
import { Bare } from '../testing/bare.ts';
import type { Caller } from '../testing/world.ts';

const bare = new Bare();
let dana: Caller;
beforeAll(async () => {
  await bare.open();
  await bare.furnish();
  dana = await bare.account('dana', ['designer', 'operator']);
});
afterAll(() => bare.close());

const gone = async (path: string) => {
  const { status, body } = await dana.call<Problem>('DELETE', path);
  return [status, body.detail];
};
const names = async () => {
  const { models, rackPatterns, fabricPatterns } = await dana.ask<PartsAnswer>('GET', '/api/parts');
  return [models, rackPatterns, fabricPatterns].map((list) => list.map((p) => p.name));
};

test('what something else names stays, and who names it is said; what nothing names goes', async () => {
  const model = MODELS.find((m: SwitchModel) => m.name === 'TV-L48F')!;
  const spare = { ...model, name: 'SPARE-1' };
  await dana.ask('PUT', '/api/models/SPARE-1', spare);
  const rack = {
    name: 'spare-rack',
    kind: 'single',
    leafModel: 'SPARE-1',
    serverPorts: 'p1-p4',
    uplinkPorts: 'p49-p50',
  };
  await dana.ask('PUT', '/api/rack-patterns/spare-rack', rack);
  const pattern = {
    name: 'spare-room',
    description: '',
    spines: { count: 2, model: 'TV-S32C', others: [{ number: 2, model: 'SPARE-1' }] },
    parallel: 1,
    racks: [{ pattern: 'spare-rack', count: 1 }],
    settings: {},
  };
  await dana.ask('PUT', '/api/fabric-patterns/spare-room', pattern);
  expect(await gone('/api/models/SPARE-1')).toEqual([
    409,
    'SPARE-1 is used by rack pattern spare-rack, fabric pattern spare-room; change or remove them first.',
  ]);
  expect(await gone('/api/rack-patterns/spare-rack')).toEqual([
    409,
    'spare-rack is used by fabric pattern spare-room; change or remove it first.',
  ]);
  expect((await gone('/api/fabric-patterns/nothing'))[0]).toBe(404);
  await dana.ask('DELETE', '/api/fabric-patterns/spare-room');
  await dana.ask('DELETE', '/api/rack-patterns/spare-rack');
  await dana.ask('POST', '/api/switches/import', { csv: 'serial,model,address\nSPARE-9,SPARE-1,192.0.2.9' });
  expect(await gone('/api/models/SPARE-1')).toEqual([409, 'A known switch is of model SPARE-1; remove it first.']);
  await dana.ask('DELETE', '/api/switches/SPARE-9');
  await dana.ask('DELETE', '/api/models/SPARE-1');
  expect((await names()).flat().filter((n) => n.startsWith('spare') || n.startsWith('SPARE'))).toEqual([]);
  expect((await gone('/api/models/SPARE-1'))[0]).toBe(404);
});

test('a switch that is wanted, or runs what is ours, stays and says why', async () => {
  const { db } = bare;
  const csv = ['serial,model,address', ...['A', 'B', 'C', 'D'].map((s) => `GONE-${s},TV-L48F,192.0.2.1`)].join('\n');
  await dana.ask('POST', '/api/switches/import', { csv });
  await addFabric(db, 'tarn', 'tn', '');
  const claim = { fabric: 'tarn', seat: 'leaf-1', host: 'tn-lf-01' };
  await db
    .insertInto('seat_claims')
    .values({ ...claim, serial: 'GONE-A', change_id: null })
    .execute();
  const opened = await dana.ask<{ id: string }>('POST', '/api/changes', {
    fabric: 'tarn',
    title: 'Seats',
    reason: '',
    ticket: '',
  });
  await db
    .insertInto('seat_claims')
    .values({ ...claim, serial: 'GONE-B', change_id: opened.id })
    .execute();
  const hash = 'f'.repeat(64);
  await db
    .insertInto('texts')
    .values({ hash, body: Buffer.from('') })
    .execute();
  const live = { ...claim, hash, revision: 1, change_id: opened.id, at: '' };
  await db
    .insertInto('switch_live')
    .values({ ...live, serial: 'GONE-C' })
    .execute();
  expect(await gone('/api/switches/GONE-A')).toEqual([
    409,
    'GONE-A sits in seat leaf-1 of tarn; leave that seat empty first.',
  ]);
  expect(await gone('/api/switches/GONE-B')).toEqual([409, 'An open change of tarn seats GONE-B; undo that first.']);
  expect(await gone('/api/switches/GONE-C')).toEqual([
    409,
    'GONE-C still runs what tarn gave it; send what waits there, or forget it, first.',
  ]);
  expect((await gone('/api/switches/GONE-D'))[0]).toBe(200);
  expect((await gone('/api/switches/GONE-D'))[0]).toBe(404);
  const left = await dana.ask<InventoryAnswer[]>('GET', '/api/switches');
  expect(left.map((s) => s.serial)).toEqual(['GONE-A', 'GONE-B', 'GONE-C']);
});

test('a model whose ports cannot be is refused at its block, and nothing of it is kept', async () => {
  const odd = {
    ...MODELS[0]!,
    name: 'ODD-1',
    blocks: [
      { ports: 'p1-p4', speed: 25 },
      { ports: 'p4-p8', speed: 100, splits: [3] },
    ],
  };
  const { status, body } = await dana.call<Problem>('PUT', '/api/models/ODD-1', odd);
  expect([status, body.findings.map((f) => f.path)]).toEqual([422, ['/blocks/1/ports', '/blocks/1/splits']]);
  expect((await names())[0]).not.toContain('ODD-1');
});
