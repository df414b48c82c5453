import { spawn, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { userInfo } from 'node:os';
import { join } from 'node:path';
import ssh2 from 'ssh2';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { freePort } from '../testing/chaos/killing.ts';
import { SshLine } from '../reach/sshLine.ts';
import { debianPackage } from '../testing/debian.ts';
import { HelperRig, newText, OLD } from '../testing/helperRig.ts';
import { privateKeyText, publicLine } from '../testing/sshKey.ts';

const sleep = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));
const unpacked = debianPackage('openssh-server', ['libwrap0']);
const isRoot = process.getuid?.() === 0;

const folder = mkdtempSync('/tmp/sshd-');
let server: ChildProcess;
let port: number;
let rig: HelperRig;

beforeAll(async () => {
  if (unpacked === null) return;
  port = await freePort();
  rig = new HelperRig();
  const key = privateKeyText();
  writeFileSync(join(folder, 'client'), key);
  writeFileSync(join(folder, 'host'), privateKeyText(), { mode: 0o600 });
  writeFileSync(join(folder, 'authorized'), `${publicLine(key)}\n`);
  writeFileSync(
    join(folder, 'config'),
    [
      `ListenAddress 127.0.0.1`,
      `Port ${port}`,
      `HostKey ${join(folder, 'host')}`,
      `AuthorizedKeysFile ${join(folder, 'authorized')}`,
      'UsePAM no',
      'PermitRootLogin yes',
      'PasswordAuthentication no',
      'StrictModes no',
      `PidFile ${join(folder, 'pid')}`,
      'Subsystem sftp internal-sftp',
      `SetEnv PATH="${rig.env['PATH']!}" ANTHEMION_ROOT=${rig.root} ANTHEMION_PATIENCE=4`,
    ].join('\n'),
  );
  const program = join(unpacked, 'usr/sbin/sshd');
  // Root's server wants a user and a folder of its own: both are there in its own view of the file system only.
  writeFileSync(
    join(folder, 'passwd'),
    `${readFileSync('/etc/passwd', 'utf8')}\nsshd:x:65533:65534::/run/sshd:/usr/sbin/nologin\n`,
  );
  const own = `mount --bind "${join(folder, 'passwd')}" /etc/passwd && mount -t tmpfs tmpfs /run && mkdir /run/sshd && exec "$@"`;
  const as = isRoot ? ['unshare', '-m', 'sh', '-c', own, 'sh', program] : [program];
  server = spawn(as[0]!, [...as.slice(1), '-D', '-e', '-f', join(folder, 'config')], {
    env: { ...process.env, LD_LIBRARY_PATH: libraries(unpacked) },
    stdio: ['ignore', 'ignore', 'pipe'],
  });
  let said = '';
  server.stderr!.on('data', (d: Buffer) => (said += d.toString()));
  for (let i = 0; !/listening on/i.test(said); i++) {
    if (i > 100 || server.exitCode !== null) throw new Error(`sshd does not start: ${said}`);
    await sleep(50);
  }
});
afterAll(() => {
  server?.kill('SIGKILL');
  rig?.close();
  rmSync(folder, { recursive: true, force: true, maxRetries: 20, retryDelay: 100 });
});
/** Folders of libraries that came with the package. */
const libraries = (root: string): string =>
  ['usr/lib', 'lib']
    .map((d) => join(root, d))
    .filter((d) => existsSync(d))
    .flatMap((d) =>
      readdirSync(d)
        .filter((n) => n.includes('linux-gnu'))
        .map((n) => join(d, n)),
    )
    .join(':');

const fingerprint = (): string => {
  const key = ssh2.utils.parseKey(readFileSync(join(folder, 'host'), 'utf8'));
  if (key instanceof Error) throw key;
  const [first] = Array.isArray(key) ? key : [key];
  return createHash('sha256').update(first!.getPublicSSH()).digest('base64').slice(0, 43);
};
const line = (key: string): Promise<SshLine> =>
  SshLine.open({
    address: '127.0.0.1',
    port,
    username: userInfo().username,
    privateKey: key,
    hostKey: fingerprint(),
  });

describe.skipIf(unpacked === null)('over a real SSH server', () => {
  test('promise 4: the connection is cut while the text loads: the switch goes back by itself', async () => {
    const key = readFileSync(join(folder, 'client'), 'utf8');
    rig.send('r1');
    rig.loads({ seconds: 1 });
    const first = await line(key);
    expect((await first.exec(`sh ${rig.home}/anthemion-apply status`)).stdout).toBe('none - 0\n');
    const apply = first.exec(`sh ${rig.home}/anthemion-apply apply r1 3`);
    const lost = expect(apply).rejects.toThrow('the connection was lost');
    while (rig.state() !== 'loading r1') await sleep(20);
    // Whoever is in between goes away, and so does the server's half of the connection.
    first.cut();
    await lost;
    const second = await line(key);
    expect((await second.exec(`sh ${rig.home}/anthemion-apply status`)).stdout).toMatch(
      /^(loading|pending) r1 [0-3]\n$/,
    );
    second.close();
    expect(await rig.settled(30_000)).toBe('undone r1');
    expect([rig.running(), rig.disk()]).toEqual([OLD, OLD]);
    // And after that it takes the next one, confirmed over a line of its own.
    rig.send('r2');
    rig.loads({});
    const third = await line(key);
    expect((await third.exec(`sh ${rig.home}/anthemion-apply apply r2 20`)).code).toBe(0);
    third.close();
    const fourth = await line(key);
    expect((await fourth.exec(`sh ${rig.home}/anthemion-apply confirm r2`)).stdout).toBe('confirmed\n');
    fourth.close();
    expect([rig.state(), rig.running()]).toEqual(['confirmed r2', newText('r2')]);
  }, 60_000);
});
