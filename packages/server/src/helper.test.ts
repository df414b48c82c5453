import { spawnSync } from 'node:child_process';
import { chmodSync, copyFileSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';

const helper = fileURLToPath(new URL('../helper/anthemion-apply', import.meta.url));
let root: string;
let home: string;

/** A switch in a folder: the helper, something that runs, and commands that note that they were called. */
beforeEach(() => {
  root = mkdtempSync(join(tmpdir(), 'helper-'));
  home = join(root, 'var/lib/anthemion');
  for (const dir of ['etc/network', 'etc/frr', 'var/lib/anthemion', 'bin'])
    mkdirSync(join(root, dir), { recursive: true });
  copyFileSync(helper, join(home, 'anthemion-apply'));
  writeFileSync(join(root, 'etc/network/interfaces'), 'old interfaces\n');
  writeFileSync(join(root, 'etc/frr/frr.conf'), 'old frr\n');
  for (const name of ['ifreload', 'systemctl', 'ifup', 'vtysh']) command(name, 0);
});
afterEach(() => rmSync(root, { recursive: true, force: true }));

function command(name: string, code: number, says = ''): void {
  const path = join(root, 'bin', name);
  writeFileSync(
    path,
    `#!/bin/sh\necho "${name} $*" >> "${root}/calls"\n${says ? `echo "${says}"\n` : ''}exit ${code}\n`,
  );
  chmodSync(path, 0o755);
}
function run(...args: string[]) {
  const done = spawnSync('sh', [join(home, 'anthemion-apply'), ...args], {
    encoding: 'utf8',
    env: { PATH: `${root}/bin:${process.env['PATH']}`, ANTHEMION_ROOT: root },
  });
  return { code: done.status, text: `${done.stdout}${done.stderr}`.trim() };
}
function send(id: string): void {
  mkdirSync(join(home, id), { recursive: true });
  writeFileSync(join(home, id, 'interfaces'), `new interfaces ${id}\n`);
  writeFileSync(join(home, id, 'frr.conf'), `new frr ${id}\n`);
}
const frr = () => readFileSync(join(root, 'etc/frr/frr.conf'), 'utf8').trim();
const state = () => run('status').text.split(' ').slice(0, 2).join(' ');

describe('the apply helper', () => {
  test('applies, waits to be confirmed, and keeps what was confirmed', () => {
    send('r1');
    expect(run('check', 'r1')).toEqual({ code: 0, text: 'fit to load' });
    expect(run('apply', 'r1', '600').code).toBe(0);
    expect([frr(), state()]).toEqual(['new frr r1', 'pending r1']);
    expect(run('confirm', 'r1').text).toBe('confirmed');
    expect(run('confirm', 'r1').text).toBe('already confirmed');
    expect(run('expire', 'r1').code).toBe(0);
    expect([frr(), state()]).toEqual(['new frr r1', 'confirmed r1']);
  });
  test('told the same twice, it does it once', () => {
    send('r1');
    run('apply', 'r1', '600');
    expect(run('apply', 'r1', '600').text).toBe('already pending');
    expect(readFileSync(join(root, 'calls'), 'utf8').match(/ifreload/g)).toHaveLength(1);
    expect(readFileSync(join(home, 'applied'), 'utf8').trim().split('\n')).toHaveLength(1);
  });
  test('not confirmed in time, it goes back by itself', async () => {
    send('r1');
    run('apply', 'r1', '1');
    expect(frr()).toBe('new frr r1');
    const until = performance.now() + 8000;
    while (state() !== 'undone r1' && performance.now() < until) await new Promise((done) => setTimeout(done, 100));
    expect([frr(), state()]).toEqual(['old frr', 'undone r1']);
    expect(run('confirm', 'r1').code).toBe(4);
  });
  test('undo goes back at once; a second undo says so', () => {
    send('r1');
    run('apply', 'r1', '600');
    expect(run('undo', 'r1').text).toBe('undone');
    expect(run('undo', 'r1').text).toBe('already undone');
    expect(frr()).toBe('old frr');
  });
  test('text the switch refuses is not loaded; a load that fails is taken back', () => {
    send('r1');
    command('vtysh', 1, 'line 7: no such thing');
    expect(run('check', 'r1')).toEqual({ code: 3, text: 'frr.conf: line 7: no such thing' });
    command('ifreload', 1);
    const failed = run('apply', 'r1', '600');
    expect([failed.code, frr()]).toEqual([5, 'old frr']);
  });
  test('a second apply waits its turn, and nothing is applied that was not sent', () => {
    send('r1');
    send('r2');
    expect(run('apply', 'r3', '600').code).toBe(3);
    run('apply', 'r1', '600');
    expect(run('apply', 'r2', '600')).toEqual({ code: 4, text: 'apply r1 still waits to be confirmed' });
    run('confirm', 'r1');
    expect(run('apply', 'r2', '600').code).toBe(0);
    run('undo', 'r2');
    expect(frr()).toBe('new frr r1');
  });
  test('after a restart, boot takes back what was not confirmed and leaves what was', () => {
    send('r1');
    run('apply', 'r1', '600');
    run('boot');
    expect(frr()).toBe('old frr');
    send('r2');
    run('apply', 'r2', '600');
    run('confirm', 'r2');
    run('boot');
    expect(frr()).toBe('new frr r2');
  });
  test('ids and times are checked before anything is done', () => {
    expect(run('apply', '../etc', '60').code).toBe(2);
    expect(run('apply', 'r1', 'soon').code).toBe(2);
    expect(run('dance').code).toBe(2);
    expect(state()).toBe('none -');
  });
});
