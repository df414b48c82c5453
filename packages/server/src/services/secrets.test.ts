import type {
  AuditEntry,
  ChangeAnswer,
  Problem,
  RolloutAnswer,
  SecretAnswer,
  SwitchAccountAnswer,
  TextAnswer,
} from '@anthemion/contract';
import { isMask, skerryIntent, type Edit } from '@anthemion/core';
import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { backup } from '../commands/backup.ts';
import { rotateKey } from '../commands/rotateKey.ts';
import { startServer } from '../server.ts';
import { Caller, openWorld, restOf, signInAt, type World } from '../testing/world.ts';
import { DEMO_ACCOUNTS } from '../seed/demoAccounts.ts';

const FIRST = 'first-bgp-word-7Qd';
const SECOND = 'second-bgp-word-9Xk';
const TYPED = 'typed-on-the-switch-3';

let world: World;
let ines: Caller;
let bo: Caller;
const serial = skerryIntent().seating['spine-1']!;
beforeAll(async () => {
  world = await openWorld();
  [ines, bo] = [await world.as('ines'), await world.as('bo')];
});
afterAll(() => world.close());

const running = (): string =>
  readFileSync(join(world.folder, 'bench/switches', serial, 'run/running/frr.conf'), 'utf8');
/** What the server reads: the file on the disk of the switch. */
const onDisk = (): string => join(world.folder, 'bench/switches', serial, 'etc/frr/frr.conf');
const snippet = (word: string): Edit => ({
  kind: 'putSnippet',
  snippet: {
    name: 'bgp-word',
    file: 'frr.conf',
    on: 'all',
    text: `router bgp {{ switch.bgp.asn }}\n neighbor FABRIC password ${word}\nexit`,
  },
});
const open = (title: string) =>
  ines.ask<ChangeAnswer>('POST', '/api/changes', { fabric: 'skerry', title, reason: '', ticket: '' });
async function rollOut(change: string): Promise<RolloutAnswer> {
  await bo.ask('POST', `/api/changes/${change}/approve`, { note: '' });
  const begun = await ines.ask<RolloutAnswer>('POST', '/api/rollouts', { change, undoSeconds: 120, together: true });
  return restOf(ines, begun.id);
}
/** Every file below a folder, as bytes. */
function* filesOf(folder: string): Generator<readonly [string, Buffer]> {
  for (const name of readdirSync(folder)) {
    const path = join(folder, name);
    if (statSync(path).isDirectory()) yield* filesOf(path);
    else if (!name.endsWith('.lock')) yield [path, readFileSync(path)];
  }
}
const holding = (folder: string, word: string): string[] =>
  [...filesOf(folder)].flatMap(([path, bytes]) => (bytes.includes(word) ? [path] : []));

describe('secrets of configurations', () => {
  test('promise 12: a value goes to switches only; texts, pins, logs, answers, exports and back-ups hold its digest', async () => {
    const kept = await ines.ask<SecretAnswer>('PUT', '/api/secrets/spine-bgp', { value: FIRST, note: 'spines' });
    expect(kept).toMatchObject({ name: 'spine-bgp', note: 'spines', changedBy: 'ines' });
    expect(kept.digest).toMatch(/^[\w-]{22}$/);
    const change = (await open('A word between spines')).id;
    // Before the fabric takes it up, and anywhere but in its place, it is refused at the field.
    const refusedWith = async (edit: Edit): Promise<string> => {
      const { status, body } = await ines.call<Problem>('POST', `/api/changes/${change}/edits`, { edits: [edit] });
      return `${status} ${body.findings[0]?.rule} ${body.findings[0]?.path}`;
    };
    expect(await refusedWith(snippet('plain-words'))).toBe('422 secret-in-plain /edits/0/snippet/text');
    expect(await refusedWith(snippet(`sealed:${kept.digest}`))).toBe('422 secret-known /edits/0/snippet/text');
    expect(await refusedWith({ kind: 'putSecret', secret: { name: 'spine-bgp', digest: 'x'.repeat(22) } })).toBe(
      '422 secret-known /edits/0/secret/name',
    );
    await ines.edit(change, { kind: 'putSecret', secret: { name: 'spine-bgp', digest: kept.digest } });
    const misplaced = snippet('{{ secrets.spine-bgp }}') as Extract<Edit, { kind: 'putSnippet' }>;
    expect(
      await refusedWith({
        ...misplaced,
        snippet: { ...misplaced.snippet, text: '! neighbor is {{ secrets.spine-bgp }}' },
      }),
    ).toBe('422 secret-misplaced /edits/0/snippet/text');
    await ines.edit(change, snippet('{{ secrets.spine-bgp }}'));

    const before = await ines.ask<TextAnswer>('GET', `/api/fabrics/skerry/text/spine-1?change=${change}`);
    expect(before.meant!['frr.conf']).toContain(`neighbor FABRIC password sealed:${kept.digest}\n`);
    expect((await rollOut(change)).state).toBe('done');
    expect(running()).toContain(`neighbor FABRIC password ${FIRST}\n`);

    // Read back it is the same text, so nothing has drifted.
    await ines.ask('POST', `/api/switches/${serial}/read`);
    const after = await ines.ask<TextAnswer>('GET', '/api/fabrics/skerry/text/spine-1');
    expect(after.running).toEqual(after.live);
    const answers = [
      '/api/secrets',
      '/api/audit',
      '/api/audit/export',
      `/api/changes/${change}`,
      '/api/fabrics/skerry',
      '/api/fabrics/skerry/intent.yaml',
    ];
    const keeper = await world.as('ines');
    for (const path of answers)
      expect([path, JSON.stringify((await keeper.call(path === '' ? '' : 'GET', path)).body)]).not.toEqual([
        path,
        expect.stringContaining(FIRST),
      ]);
    const { folder } = await backup(join(world.folder, 'data'), join(world.folder, 'kept'), false, new Date());
    expect(holding(folder, FIRST)).toEqual([]);
    expect(holding(join(world.folder, 'data'), FIRST)).toEqual([]);
    expect(readdirSync(folder).sort()).toEqual(['anthemion.sqlite', 'manifest.json']);
  });

  test('a new value is a new digest: fabrics go on with the old one until a change takes the new one up', async () => {
    const kept = await ines.ask<SecretAnswer>('PUT', '/api/secrets/spine-bgp', { value: SECOND, note: '' });
    expect((await ines.ask<TextAnswer>('GET', '/api/fabrics/skerry/text/spine-1')).meant!['frr.conf']).not.toContain(
      kept.digest,
    );
    const change = (await open('The new word')).id;
    const made = await ines.edit(change, { kind: 'putSecret', secret: { name: 'spine-bgp', digest: kept.digest } });
    expect(
      made
        .proof!.switches.filter((s) => s.fate === 'changed')
        .map((s) => s.seat)
        .sort(),
    ).toEqual([...Object.keys(skerryIntent().seating).sort()]);
    expect((await rollOut(change)).state).toBe('done');
    expect(running()).toContain(`password ${SECOND}\n`);
    expect(
      (
        await ines.call<Problem>('POST', `/api/changes/${(await open('No word')).id}/edits`, {
          edits: [{ kind: 'removeSecret', name: 'spine-bgp' }],
        })
      ).body.findings[0],
    ).toMatchObject({ rule: 'secret-in-use' });
  });

  test('what somebody types on a switch is sealed as it is read, and shown as drift by its digest', async () => {
    const whole = readFileSync(onDisk(), 'utf8');
    writeFileSync(onDisk(), whole.replace(SECOND, TYPED));
    await ines.ask('POST', `/api/switches/${serial}/read`);
    const text = await ines.ask<TextAnswer>('GET', '/api/fabrics/skerry/text/spine-1');
    const said = /neighbor \S+ password (\S+)/.exec(text.running!['frr.conf']!)![1]!;
    expect(isMask(said)).toBe(true);
    expect(text.live!['frr.conf']).not.toContain(said);
    expect(holding(join(world.folder, 'data'), TYPED)).toEqual([]);
    writeFileSync(onDisk(), whole);
    await ines.ask('POST', `/api/switches/${serial}/read`);
  });

  test('a mask typed on a switch gives nothing away: it is text like any other', async () => {
    const { digest } = (await ines.ask<SecretAnswer[]>('GET', '/api/secrets'))[0]!;
    const whole = readFileSync(onDisk(), 'utf8');
    writeFileSync(onDisk(), `${whole}! sealed:${digest}\n`);
    await ines.ask('POST', `/api/switches/${serial}/read`);
    const text = await ines.ask<TextAnswer>('GET', '/api/fabrics/skerry/text/spine-1');
    expect(text.running!['frr.conf']).toMatch(/\n! sealed:[\w-]{22}\n$/);
    expect(text.running!['frr.conf']).not.toContain(`! sealed:${digest}`);
    writeFileSync(onDisk(), whole);
    await ines.ask('POST', `/api/switches/${serial}/read`);
  });
});

test('promise 12: the sealing key is rotated, and everything opens as before; a lost key says what is to be given again', async () => {
  const data = join(world.folder, 'data');
  const key = readFileSync(join(data, 'secrets.key'), 'utf8');
  const started = { data, port: 0, logLevel: 'silent', signInTries: 1000 } as const;
  await world.server.close();
  expect(await rotateKey(data, false, () => new Date())).toMatch(/Sealed with a new key/);
  const fresh = readFileSync(join(data, 'secrets.key'), 'utf8');
  expect(fresh).not.toBe(key);
  // The old key does not open it any more, and says which one would.
  writeFileSync(join(data, 'secrets.key'), key);
  await expect(startServer(started)).rejects.toThrow(/holds key \w+, but the data is sealed with key \w+/);
  writeFileSync(join(data, 'secrets.key'), fresh);
  world.server = await startServer(started);
  const password = DEMO_ACCOUNTS.find((a) => a.name === 'ines')!.password;
  ines = new Caller(() => world.server.url, await signInAt(world.server.url, 'ines', password));
  await ines.ask('POST', `/api/switches/${serial}/read`);
  expect((await ines.ask<TextAnswer>('GET', '/api/fabrics/skerry/text/spine-1')).running!['frr.conf']).toContain(
    'sealed:',
  );
  expect((await ines.ask<AuditEntry[]>('GET', '/api/audit?action=rotate%20sealing%20key')).length).toBe(1);
  await world.server.close();

  writeFileSync(join(data, 'secrets.key'), key);
  expect(await rotateKey(data, true, () => new Date())).toMatch(
    /give the passwords of the switch accounts and the secrets again/,
  );
  world.server = await startServer(started);
  ines = new Caller(() => world.server.url, await signInAt(world.server.url, 'ines', password));
  expect((await ines.ask<SwitchAccountAnswer[]>('GET', '/api/switch-accounts'))[0]).toMatchObject({
    name: 'bench',
    with: 'nothing',
  });
  expect((await ines.attempt<Problem>('POST', `/api/switches/${serial}/read`)).body.detail).toMatch(
    /lost its password; give it again/,
  );
  await ines.ask('PUT', '/api/switch-accounts/bench', {
    username: 'anthemion',
    password: 'a password for tests',
    ranges: ['127.0.0.0/8'],
  });
  await ines.ask('POST', `/api/switches/${serial}/read`);
});
