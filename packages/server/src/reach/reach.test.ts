import type { InventoryAnswer, Problem, SwitchAccountAnswer } from '@anthemion/contract';
import { createHash } from 'node:crypto';
import type { AddressInfo } from 'node:net';
import ssh2, { type Server } from 'ssh2';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { Bare } from '../testing/bare.ts';
import { privateKeyText, publicLine } from '../testing/sshKey.ts';
import type { Caller } from '../testing/world.ts';
import { fitOf, insideOf, rangeTrouble, within } from './ranges.ts';

const PASSWORD = 'switch-word-for-tests';

/** An SSH server that lets nobody in and writes down whatever is shown to it. */
class Listening {
  readonly tried: string[] = [];
  readonly key: string;
  private readonly server: Server;
  constructor(key: string) {
    this.key = key;
    this.server = new ssh2.Server({ hostKeys: [key] }, (client) => {
      client.on('error', () => undefined);
      client.on('authentication', (auth) => {
        if (auth.method === 'password') this.tried.push(auth.password);
        else if (auth.method === 'publickey') this.tried.push(`key of ${auth.username}`);
        auth.reject(['password', 'publickey']);
      });
    });
  }
  listen(port = 0): Promise<number> {
    return new Promise((done) =>
      this.server.listen(port, '127.0.0.1', () => done((this.server.address() as AddressInfo).port)),
    );
  }
  close(): Promise<void> {
    return new Promise((done) => this.server.close(() => done()));
  }
  get fingerprint(): string {
    const key = ssh2.utils.parseKey(this.key);
    if (key instanceof Error) throw key;
    const [first] = Array.isArray(key) ? key : [key];
    return `SHA256:${createHash('sha256').update(first!.getPublicSSH()).digest('base64').slice(0, 43)}`;
  }
}

const bare = new Bare();
let keeper: Caller;
let first: Listening;
let port = 0;
beforeAll(async () => {
  await bare.open();
  await bare.furnish();
  keeper = await bare.account('keeper', ['operator'], { admin: true });
  first = new Listening(privateKeyText());
  port = await first.listen();
  await keeper.ask('PUT', '/api/switch-accounts/hall', {
    username: 'anthemion',
    password: PASSWORD,
    ranges: ['127.0.0.0/24'],
  });
});
afterAll(async () => {
  await first.close();
  await bare.close();
});
const importLine = (line: string) =>
  keeper.call<Problem>('POST', '/api/switches/import', {
    csv: `serial,model,address,port,location,account,hostkey\n${line}`,
  });
const read = async (serial: string): Promise<string> =>
  (await keeper.call<Problem>('POST', `/api/switches/${serial}/read`)).body.detail;
const rowOf = async (serial: string): Promise<InventoryAnswer> =>
  (await keeper.ask<InventoryAnswer[]>('GET', '/api/switches')).find((s) => s.serial === serial)!;
const accept = (serial: string, key: string) =>
  keeper.call<Problem>('POST', '/api/switches/host-keys', { accept: [{ serial, key }] });

describe('promise 12: the password of the switches', () => {
  test('is never sent to an address outside of its ranges, whoever imports one', async () => {
    const elsewhere = new Listening(privateKeyText());
    const there = await elsewhere.listen();
    await importLine(`THIEF-1,TV-L48F,127.9.9.9,${there},,,${elsewhere.fingerprint}`);
    expect(await read('THIEF-1')).toMatch(/lies in no range of the switch accounts, so no password is sent there/);
    expect(elsewhere.tried).toEqual([]);
    // Nor can the ranges be widened by somebody who does not know it.
    const widen = { username: 'anthemion', ranges: ['127.0.0.0/24', '127.9.9.0/24'] };
    expect((await keeper.call<Problem>('PUT', '/api/switch-accounts/hall', widen)).body.findings[0]).toMatchObject({
      path: '/password',
    });
    expect(
      (
        await keeper.call<Problem>('PUT', '/api/switch-accounts/hall', {
          ...widen,
          username: 'other',
          ranges: ['127.0.0.0/24'],
        })
      ).status,
    ).toBe(422);
    expect(
      (await keeper.call('PUT', '/api/switch-accounts/hall', { ...widen, ranges: ['127.0.0.0/25', '127.0.0.128/25'] }))
        .status,
    ).toBe(200);
    await keeper.ask('PUT', '/api/switch-accounts/hall', { ...widen, ranges: ['127.0.0.0/24'], password: PASSWORD });
    await elsewhere.close();
  });

  test('is not sent before the host key is accepted, by import or by name; a changed key is refused until it is', async () => {
    await importLine(`HALL-1,TV-L48F,127.0.0.1,${port},,,`);
    expect(await read('HALL-1')).toMatch(/shows the host key SHA256:\S+ for the first time: accept it/);
    expect(first.tried).toEqual([]);
    expect(await rowOf('HALL-1')).toMatchObject({ hostKey: null, seenKey: first.fingerprint });
    // A yes is for the key that was seen, and no other.
    expect((await accept('HALL-1', `SHA256:${'A'.repeat(43)}`)).body.findings[0]).toMatchObject({
      path: '/accept/0/key',
    });
    expect((await accept('NOBODY', first.fingerprint)).body.findings[0]).toMatchObject({ path: '/accept/0/serial' });
    expect((await accept('HALL-1', first.fingerprint)).status).toBe(200);
    expect(await rowOf('HALL-1')).toMatchObject({ hostKey: first.fingerprint, seenKey: null });
    expect(await read('HALL-1')).toMatch(/refuses the account anthemion/);
    expect(first.tried).toEqual([PASSWORD]);

    await first.close();
    const second = new Listening(privateKeyText());
    await second.listen(port);
    expect(await read('HALL-1')).toMatch(/which is not the accepted one; somebody else may be answering/);
    expect(second.tried).toEqual([]);
    expect((await accept('HALL-1', second.fingerprint)).status).toBe(200);
    await read('HALL-1');
    expect(second.tried).toEqual([PASSWORD]);
    await second.close();
    first = new Listening(first.key);
    await first.listen(port);

    // Named in the import, it is known from the start; another that answers there is refused.
    await importLine(`HALL-2,TV-L48F,127.0.0.1,${port},,hall,${first.fingerprint}`);
    expect(await read('HALL-2')).toMatch(/refuses the account/);
    await importLine(`HALL-3,TV-L48F,127.0.0.1,${port},,,${second.fingerprint}`);
    expect(await read('HALL-3')).toMatch(/not the accepted one/);
    expect((await importLine('HALL-4,TV-L48F,127.0.0.1,22,,,SHA256:short')).body.findings[0]).toMatchObject({
      path: '/csv/2/hostkey',
    });
    expect((await importLine('HALL-4,TV-L48F,127.0.0.1,22,,none,')).body.findings[0]).toMatchObject({
      path: '/csv/2/account',
    });
  });

  test('a switch that answers elsewhere keeps its key; its account can be named, and counts within its ranges only', async () => {
    const move = { address: '127.0.0.2', port, location: 'Lamp hall', account: 'hall' };
    await keeper.ask('PATCH', '/api/switches/HALL-1', move);
    expect(await rowOf('HALL-1')).toMatchObject({ address: '127.0.0.2', location: 'Lamp hall', account: 'hall' });
    expect(
      (await keeper.call<Problem>('PATCH', '/api/switches/HALL-1', { ...move, account: 'none' })).body.findings[0],
    ).toMatchObject({ path: '/account' });
    expect(
      (await keeper.call<Problem>('PATCH', '/api/switches/HALL-1', { ...move, address: 'not an address' })).body
        .findings[0],
    ).toMatchObject({ path: '/address' });
    await keeper.ask('PATCH', '/api/switches/HALL-1', { ...move, address: '127.9.9.9' });
    expect(await read('HALL-1')).toMatch(/outside the ranges of account hall/);
    expect((await keeper.call('DELETE', '/api/switch-accounts/hall')).status).toBe(409);
  });

  test('an account may have a key instead; the longest range that fits decides which one is used', async () => {
    const privateKey = privateKeyText();
    const put = (body: object) =>
      keeper.call<Problem>('PUT', '/api/switch-accounts/lamp', { username: 'lamp', ranges: ['127.0.0.1/32'], ...body });
    expect((await put({ privateKey: 'no key' })).body.findings[0]).toMatchObject({ path: '/privateKey' });
    expect((await put({ privateKey: publicLine(privateKey) })).body.findings[0]).toMatchObject({ path: '/privateKey' });
    expect((await put({ privateKey, password: 'x' })).body.findings[0]).toMatchObject({
      path: '/privateKey',
    });
    expect((await put({})).body.findings[0]).toMatchObject({ path: '/password' });
    expect((await put({ privateKey, ranges: ['0.0.0.0/0'] })).body.findings[0]).toMatchObject({
      path: '/ranges/0',
    });
    expect((await put({ privateKey })).status).toBe(200);
    const before = first.tried.length;
    await importLine(`LAMP-1,TV-L48F,127.0.0.1,${port},,,${first.fingerprint}`);
    await read('LAMP-1');
    expect(first.tried.slice(before)).toContain('key of lamp');
    expect(first.tried.slice(before)).not.toContain(PASSWORD);
    const listed = await keeper.ask<SwitchAccountAnswer[]>('GET', '/api/switch-accounts');
    expect(listed.map((a) => [a.name, a.with])).toEqual([
      ['hall', 'password'],
      ['lamp', 'key'],
    ]);
    expect(JSON.stringify(listed)).not.toMatch(/PRIVATE|switch-word/);
  });
});

test('ranges are prefixes of one’s own networks', () => {
  expect(['10.0.0.0/8', '10.9.0.0/24', '2001:db8::/32', '::1/128'].map(rangeTrouble)).toEqual([null, null, null, null]);
  for (const bad of ['0.0.0.0/0', '10.0.0.0/7', '::/0', '10.0.0.0', '10.0.0/8', 'x/24', '10.0.0.0/33', '10.0.0.0/8x'])
    expect([bad, rangeTrouble(bad) !== null]).toEqual([bad, true]);
  expect(within('10.1.2.3', ['10.1.0.0/16'])).toBe(true);
  expect(within('2001:db8::5', ['10.1.0.0/16', '2001:db8::/64'])).toBe(true);
  expect(within('10.2.0.1', ['10.1.0.0/16'])).toBe(false);
  expect(insideOf('10.1.4.0/24', ['10.1.0.0/16'])).toBe(true);
  expect(insideOf('10.1.0.0/15', ['10.1.0.0/16'])).toBe(false);
  expect(fitOf('10.1.2.3', ['10.0.0.0/8', '10.1.2.0/24'])).toBe(24);
  expect(fitOf('10.1.2.3', ['192.168.0.0/16'])).toBe(-1);
});
