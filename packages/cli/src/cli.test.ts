import { spawnSync } from 'node:child_process';
import { cpSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { Answer, NetworkAnswers } from '@anthemion/core';

const root = fileURLToPath(new URL('../../../', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'anthemion-cli-'));
const example = join(root, 'docs/examples/skerry.yaml');
const out = join(folder, 'out');
afterAll(() => rmSync(folder, { recursive: true }));

/** In one file it starts in a third of the time. */
const bundle = join(folder, 'anthemion.cjs');
function run(...args: string[]) {
  const done = spawnSync(process.execPath, args, { encoding: 'utf8', cwd: root, maxBuffer: 1 << 26 });
  return { code: done.status, out: done.stdout, err: done.stderr };
}
const anthemion = (...args: string[]) => run(bundle, ...args);
const change = (path: string, from: string | RegExp, to: string): string => {
  const before = readFileSync(path, 'utf8');
  const after = before.replace(from, to);
  if (after === before) throw new Error(`nothing to change in ${path}`);
  return after;
};

describe('the headless door', () => {
  beforeAll(async () => {
    const entry = join(root, 'packages/cli/src/main.ts');
    await build({ entryPoints: [entry], outfile: bundle, bundle: true, platform: 'node', logLevel: 'warning' });
    // As people call it.
    expect(run('scripts/anthemion.mjs', 'compile', example, '--out', out)).toMatchObject({ code: 0 });
  });

  test('compile writes one folder per switch, links, hosts and values', () => {
    const entries = readdirSync(out);
    expect(entries.filter((e) => !e.endsWith('.csv'))).toHaveLength(14);
    expect(readdirSync(join(out, 'sk-lf-07a')).sort()).toEqual(['daemons', 'frr.conf', 'interfaces', 'sysctl.conf']);
    const lines = (name: string) => readFileSync(join(out, name), 'utf8').trim().split('\n');
    expect(lines('links.csv').slice(0, 2)).toEqual(['a_host,a_port,b_host,b_port', 'sk-lf-01,p49,sk-sp-01,p1']);
    expect(lines('links.csv')).toHaveLength(41);
    expect(lines('hosts.csv')[0]).toBe('host,switch,port,vlan,ip,gateway');
    expect(lines('values.csv')).toContain('vni,overlay,10004,skerry,network:echo-store/vni');
  });

  test('a table goes out as CSV and comes in again, line by line: all of it, or nothing with the line that cannot be', () => {
    const csv = anthemion('table', example, 'networks');
    expect(csv.code).toBe(0);
    const lines = csv.out.trim().split('\n');
    expect(lines[0]).toBe('network,VRF,VLAN,VNI,subnet,MTU,racks,subnet length,families,IPv6 subnet,further subnets');
    expect(lines).toHaveLength(9);
    const table = join(folder, 'networks.csv');
    const grown = join(folder, 'grown.yaml');
    const take = (text: string) => {
      writeFileSync(table, text);
      return anthemion('table', example, 'networks', '--take', table, '--out', grown);
    };
    expect(take(csv.out)).toMatchObject({ code: 0, err: '' });
    const same = anthemion('table', grown, 'networks');
    expect(same.out).toBe(csv.out);
    const bad = take(`${lines[0]}\nfog,tides,5000\nmist,tides,ten\n`);
    expect(bad.code).toBe(1);
    expect(bad.err).toContain('networks.csv:2: error: The VLAN is 4094 or less.');
    expect(bad.err).toContain('networks.csv:3: error: “ten” cannot be read as VLAN. Write a whole number.');
    expect(anthemion('table', grown, 'networks').out).toBe(csv.out);
    const mtu = (line: string): string => line.replace(/^(echo-store,.*),(9000|1500),/, '$1,8000,');
    const changed = take(lines.map(mtu).join('\n'));
    expect(changed).toMatchObject({ code: 0, err: 'MTU of network echo-store default → 8000\n' });
    expect(anthemion('table', grown, 'networks').out).toBe(`${lines.map(mtu).join('\n')}\n`);
    expect(anthemion('table', example, 'roads')).toMatchObject({ code: 2 });
  });

  test('read answers with sessions, routes, VTEPs, imports and reach, and exits clean', () => {
    const { code, out: text } = anthemion('read', out, '--json');
    expect(code).toBe(0);
    const a = JSON.parse(text) as NetworkAnswers;
    expect(a.findings).toEqual([]);
    expect(a.sessions.every((s) => s.families.ipv4.state === 'up' && s.families.evpn.state === 'up')).toBe(true);
    expect(a.routes.find((r) => r.host === 'sk-lf-01' && r.loopback === '10.255.0.5/32')).toMatchObject({
      owner: 'sk-lf-02',
      paths: 4,
    });
    expect(a.l2Vnis.find((v) => v.vni === 10006 && v.host === 'sk-lf-01')!.hears).toHaveLength(3);
    expect(a.l3Vnis.find((v) => v.vrf === 'tides' && v.host === 'sk-lf-01')!.importsFrom).toContain('sk-lf-08b');
    expect(a.reach.find((r) => r.from === 'soundings-101' && r.to === 'echo-301')).toMatchObject({
      ok: true,
      how: 'routed',
    });
  });

  test('a hand edit is found with file and line, exit 1', () => {
    const path = join(out, 'sk-lf-02/frr.conf');
    const whole = readFileSync(path, 'utf8');
    const broken = change(path, 'p49 interface remote-as external', 'p49 interface remote-as 65999');
    writeFileSync(path, broken);
    const { code, out: text } = anthemion('read', out);
    writeFileSync(path, whole);
    expect(code).toBe(1);
    const line = broken.split('\n').findIndex((l) => l.includes('65999')) + 1;
    expect(text).toContain(
      `sk-lf-02/frr.conf:${line}: error: sk-lf-02: the session to sk-sp-01 over p49 stays down: AS 65999 is said here, sk-sp-01 has AS 65100.`,
    );
  });

  test.each<[string, () => string[], RegExp]>([
    ['no such file', () => ['compile', join(folder, 'none.yaml'), '--out', out], /there is no file/],
    ['no --out', () => ['compile', example], /wants INTENT.yaml --out DIR/],
    ['an unknown option', () => ['read', out, '--loud'], /no option --loud/],
    ['an unknown command', () => ['explode'], /anthemion compile/],
    ['no such folder', () => ['read', join(folder, 'none')], /there is no folder/],
    ['a folder without switches', () => ['read', folder], /holds no switch/],
    [
      'an intent with a wrong line',
      () => {
        const path = join(folder, 'wrong.yaml');
        writeFileSync(path, change(example, 'vlan: 212', 'vlan: 5000'));
        return ['compile', path, '--out', join(folder, 'nowhere')];
      },
      /wrong\.yaml:\d+: error: The VLAN is 4094 or less\./,
    ],
  ])('%s is input that cannot be read: exit 2', (_what, args, says) => {
    const { code, err } = anthemion(...args());
    expect(err).toMatch(says);
    expect(code).toBe(2);
    expect(existsSync(join(folder, 'nowhere'))).toBe(false);
  });

  test('missing links and wrong columns are said', () => {
    const links = join(out, 'links.csv');
    const whole = readFileSync(links, 'utf8');
    writeFileSync(links, whole.replace('a_port', 'aport'));
    expect(anthemion('read', out)).toMatchObject({
      code: 2,
      err: expect.stringContaining('column a_port is missing') as string,
    });
    rmSync(links);
    expect(anthemion('read', out)).toMatchObject({
      code: 2,
      err: expect.stringContaining('without cables no session can be judged') as string,
    });
    writeFileSync(links, whole);
  });

  test('a pool too small writes what can be written and exits 1', () => {
    const path = join(folder, 'small.yaml');
    writeFileSync(path, change(example, '65110-65499', '65110-65112'));
    const { code, err } = anthemion('compile', path, '--out', join(folder, 'small'));
    expect(code).toBe(1);
    expect(err).toContain('Pool leaf-as is too small: 7 more AS numbers of leaves');
    expect(readdirSync(join(folder, 'small')).filter((e) => e.startsWith('sk-'))).toHaveLength(7);
  });

  test('the JSON Schema in docs is the one of today', () => {
    expect(readFileSync(join(root, 'docs/intent.schema.json'), 'utf8')).toBe(anthemion('schema').out);
  });

  test('ask answers one question, with the line: who reaches whom, and what stops it', () => {
    const reach = anthemion('ask', out, 'reach', 'soundings-101', 'echo-301');
    expect([reach.code, reach.err]).toEqual([0, '']);
    expect(reach.out).toMatch(/^soundings-101 to echo-301: arrives\n {2}sk-lf-01: takes what soundings-101 sends/);
    expect(reach.out).toMatch(
      /\n {2}sk-sp-01, sk-sp-02, sk-sp-03, sk-sp-04: on to 10\.255\.1\.2, the load is shared\n/,
    );
    const other = join(folder, 'other');
    cpSync(out, other, { recursive: true });
    const file = join(other, 'sk-lf-03', 'interfaces');
    writeFileSync(file, change(file, /(iface p1\n(?: .*\n)*? {4}bridge-access) 212/, '$1 213'));
    const stopped = anthemion('ask', other, 'reach', 'soundings-101', 'echo-301', '--json');
    expect(stopped.code).toBe(1);
    const { ok, ways } = JSON.parse(stopped.out) as Extract<Answer, { ask: 'reach' }>;
    const { does, because } = ways[0]!.hops.at(-1)!;
    expect([ok, does]).toEqual([false, 'it stops here: port p1 of sk-lf-03 does not carry VLAN 212']);
    const { host, file: document, line } = because[0]!.place!;
    expect(readFileSync(join(other, host, document), 'utf8').split('\n')[line - 1]).toBe('    bridge-access 213');
    const differs = anthemion('ask', out, 'differs', other);
    expect(differs.code).toBe(1);
    expect(differs.out).toMatch(/^\S+ reaches echo-301: yes → no: port p1 of sk-lf-03 does not carry VLAN 212$/m);
    expect(anthemion('ask', out, 'differs', out)).toMatchObject({ code: 0, out: '0 answers differ\n' });
    expect(anthemion('ask', out, 'who', 'knows')).toMatchObject({
      code: 2,
      err: expect.stringMatching(/a question is/) as string,
    });
  });
});
