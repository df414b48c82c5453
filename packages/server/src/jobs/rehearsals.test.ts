import type { ChangeAnswer, FabricStateAnswer, RehearsalAnswer } from '@anthemion/contract';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { openWorld, type Caller, type World } from '../testing/world.ts';
import { Rehearsals } from './rehearsals.ts';

/** Stands in for the program that holds rehearsals: it says the lines of a file, and keeps what it was given. */
const PROGRAM = `
const fs = require('node:fs');
const [folder] = process.argv.slice(1);
fs.writeFileSync(folder + '/given', fs.readFileSync(0));
for (const line of fs.readFileSync(folder + '/says', 'utf8').split('\\n'))
  if (line === 'wait') setInterval(() => undefined, 1000);
  else if (line) console.log(line);
`;
const HELD = {
  refused: [{ host: 'sk-lf-01', document: 'frr.conf', said: 'line 3: % Unknown command' }],
  strays: ['sk-lf-01', 'sk-lf-02'].map((host) => ({ host, line: 9, text: 'maximum-paths 2', landed: 'router bgp' })),
  differences: [{ host: 'sk-lf-02', about: 'paths to 10.255.0.4/32', model: '4', daemon: '' }],
  compared: { sessions: 12, routes: 30, pings: 0, unsure: 2 },
  notShown: [{ what: 'tagged frames' }, { what: 'tagged frames' }],
};

let world: World;
let ines: Caller;
let folder: string;
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'rehearsals-'));
  world = await openWorld({ rehearsal: [process.execPath, '-e', PROGRAM, folder], readStateSeconds: 3600 });
  ines = await world.as('ines');
});
afterAll(async () => {
  await world.close();
  rmSync(folder, { recursive: true, force: true });
});

const says = (...lines: (object | string)[]): void =>
  writeFileSync(join(folder, 'says'), lines.map((l) => (typeof l === 'string' ? l : JSON.stringify(l))).join('\n'));
const open = async (title: string, edits: boolean): Promise<ChangeAnswer> => {
  const c = await ines.ask<ChangeAnswer>('POST', '/api/changes', { fabric: 'skerry', title, reason: '', ticket: '' });
  if (!edits) return c;
  const { intent } = await ines.ask<FabricStateAnswer>('GET', '/api/fabrics/skerry');
  return ines.edit(c.id, { kind: 'changeSettings', settings: { keepalive: intent.settings.keepalive + 1 } });
};
const asked = (id: string): Promise<RehearsalAnswer | null> => ines.ask('GET', `/api/changes/${id}/rehearsal`);
async function until(id: string, good: (r: RehearsalAnswer) => boolean): Promise<RehearsalAnswer> {
  for (let i = 0; i < 200; i++) {
    const r = await asked(id);
    if (r && good(r)) return r;
    await new Promise((go) => setTimeout(go, 50));
  }
  throw new Error(JSON.stringify(await asked(id)));
}

describe('a change is rehearsed', () => {
  test('what it would send runs, each step is said, and what differs stands as findings', async () => {
    const c = await open('Held', true);
    expect(await asked(c.id)).toBeNull();
    says({ step: 'starts' }, { held: HELD });
    const begun = await ines.ask<RehearsalAnswer>('POST', `/api/changes/${c.id}/rehearsal`);
    expect(begun).toMatchObject({ state: 'running', by: 'ines', version: c.version, findings: [] });
    const r = await until(c.id, (x) => x.state !== 'running');
    expect(r).toMatchObject({
      state: 'held',
      compared: { sessions: 12, routes: 30 },
      unsure: 2,
      notShown: ['Tagged frames'],
      endedAt: expect.any(String) as string,
    });
    expect(r.findings.map((f) => [f.host, f.message])).toEqual([
      ['sk-lf-01', 'sk-lf-01: frr.conf is not taken whole: line 3: % Unknown command.'],
      ['sk-lf-01', 'sk-lf-01: “maximum-paths 2” lands in router bgp; the same on 1 more.'],
      ['sk-lf-02', 'sk-lf-02: paths to 10.255.0.4/32: the proof says 4, the daemons none.'],
    ]);
    // Eight at most, with the texts that the change would send and the cables between them.
    const given = JSON.parse(readFileSync(join(folder, 'given'), 'utf8')) as {
      readonly files: Record<string, Record<string, string>>;
      readonly cables: readonly { readonly a: { readonly host: string } }[];
    };
    expect(Object.keys(given.files).sort()).toEqual([...r.hosts].sort());
    expect(r.hosts.length).toBeLessThanOrEqual(8);
    expect(r.of).toBeGreaterThan(8);
    expect(given.files['sk-lf-01']!['frr.conf']).toContain(`timers 4 `);
    expect(given.cables.every((x) => r.hosts.includes(x.a.host))).toBe(true);
  });

  test('one at a time; what cannot be held says why, and what ends early is not held', async () => {
    const [one, other] = [await open('One', true), await open('Other', true)];
    says({ step: 'waits' }, 'wait');
    await ines.ask('POST', `/api/changes/${one.id}/rehearsal`);
    await until(one.id, (r) => r.step === 'waits');
    const twice = await ines.attempt<{ detail: string }>('POST', `/api/changes/${one.id}/rehearsal`);
    expect([twice.status, twice.body.detail]).toEqual([409, 'It is being rehearsed already.']);
    const beside = await ines.attempt<{ detail: string }>('POST', `/api/changes/${other.id}/rehearsal`);
    expect([beside.status, beside.body.detail]).toEqual([409, expect.stringMatching(/^Another change is/) as string]);
    await world.server.rehearsals.stop();
    expect(await asked(one.id)).toMatchObject({ state: 'broken off', step: '', endedAt: expect.any(String) as string });
  });

  test('what the machine lacks, and a program that ends without a word', async () => {
    const c = await open('Not held', true);
    const fresh = (): Rehearsals => new Rehearsals(world.server.house, [process.execPath, '-e', PROGRAM, folder]);
    says({ not: 'A rehearsal wants frr.' });
    await fresh().start(c.id, 'ines');
    expect(await until(c.id, (r) => r.state !== 'running')).toMatchObject({
      state: 'not held',
      why: 'A rehearsal wants frr.',
    });
    says('no JSON');
    await fresh().start(c.id, 'ines');
    expect((await until(c.id, (r) => r.state !== 'running')).why).toMatch(/ended before its time/);
    await new Rehearsals(world.server.house, ['/no/such/program']).start(c.id, 'ines');
    expect((await until(c.id, (r) => r.state !== 'running')).state).toBe('not held');
  });

  test('a change that alters no text has nothing to rehearse; one that ran when the server was killed is broken off', async () => {
    const none = await open('Nothing', false);
    await expect(new Rehearsals(world.server.house).start(none.id, 'ines')).rejects.toThrow('nothing to rehearse');
    const shut = await open('Shut', true);
    await ines.ask('POST', `/api/changes/${shut.id}/withdraw`);
    await expect(new Rehearsals(world.server.house).start(shut.id, 'ines')).rejects.toThrow('is Withdrawn');
    const c = await open('Killed', true);
    says('wait');
    const lost = new Rehearsals(world.server.house, [process.execPath, '-e', PROGRAM, folder]);
    await lost.start(c.id, 'ines');
    await until(c.id, (r) => r.state === 'running');
    await new Rehearsals(world.server.house).takeUp();
    expect(await asked(c.id)).toMatchObject({ state: 'broken off' });
    await lost.stop();
  });
});
