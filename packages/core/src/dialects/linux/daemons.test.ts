import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { POOLS, skerryIntent } from '../../demo/skerry.ts';
import { compileFabric } from '../../compile/compileFabric.ts';
import { judgeNetwork } from '../../proof/judgeNetwork.ts';
import { modelFabric, proveChange } from '../../proof/proveChange.ts';
import { configsOf, singleIntents } from '../../testing/fabricOf.ts';
import { restartedFor } from './daemons.ts';
import { linux } from './linux.ts';
import { SYSCTL_TEXT } from './sysctl.ts';
import { guardText } from './textGuard.ts';

const skerry = [...configsOf(skerryIntent()).configs.values()].at(-1)!;
const own = linux.render(skerry).files;
const read = (more: Record<string, string>) => linux.parse({ ...own, ...more });
const loud = (more: Record<string, string>) => read(more).unread.filter((u) => u.harmless !== true);

describe('what is started', () => {
  test('what a switch speaks is on, all else is off', () => {
    expect(own['daemons']).toBe('bgpd=yes\nospfd=no\nospf6d=no\nbfdd=yes\n');
    expect(loud({})).toEqual([]);
  });

  test.each([
    ['bgpd=yes', 'bgpd=no', 'router bgp', 'bgp'],
    ['bgpd=yes', 'bgpd=0', 'router bgp', 'bgp'],
    ['bgpd=yes\n', '', 'router bgp', 'bgp'],
    ['bgpd=yes', 'bgpd="yes"\nbgpd=', 'router bgp', 'bgp'],
  ] as const)('%j made %j: nothing of it runs, and its first line says why', (from, to, line, part) => {
    const { config, unread } = read({ daemons: own['daemons']!.replace(from, to) });
    expect(config[part]).toBeUndefined();
    expect(unread).toContainEqual(
      expect.objectContaining({
        file: 'frr.conf',
        text: expect.stringContaining(line) as string,
        why: 'bgpd is not started',
        needs: 'daemons',
      }),
    );
  });

  test('any other word than no is on; the last one counts; without the document all that is spoken of runs', () => {
    for (const daemons of ['bgpd=1\nbfdd=yes\n', 'bgpd=no\nbfdd=no\nbgpd=yes # again\nbfdd="yes"\n'])
      expect(read({ daemons })).toEqual({ config: skerry, unread: [] });
    const { daemons: _, ...without } = own;
    expect(linux.parse(without)).toEqual({ config: skerry, unread: [] });
  });

  test('bfdd that is off is said; sessions come up without it', () => {
    const { config, unread } = read({ daemons: own['daemons']!.replace('bfdd=yes', 'bfdd=no') });
    expect(config).toEqual(skerry);
    expect(unread).toEqual([expect.objectContaining({ text: 'bfd', why: 'bfdd is not started', needs: 'daemons' })]);
  });

  test('options that are usual are harmless, others doubt what their daemon does', () => {
    const daemons = `${own['daemons']}bgpd_options="   -A 127.0.0.1 -M snmp"\nzebra_options=" -A 127.0.0.1 -s 90000000"\nripd=no\nvtysh_enable=yes\n`;
    expect(read({ daemons }).unread.map((u) => u.harmless)).toEqual([true, true, true, true]);
    expect(loud({ daemons: `${own['daemons']}bgpd_options="-p 1790"\n` })).toMatchObject([{ doubts: ['bgp'] }]);
    expect(loud({ daemons: `${own['daemons']}ospfd_instances=1,2\n` })).toMatchObject([{ doubts: [] }]);
  });

  test.each([
    'bgpd=$(reboot)',
    'bgpd=`reboot`',
    'reboot',
    'bgpd=yes; reboot',
    'bgpd="yes" reboot',
    'bgpd_options="; reboot"',
    "bgpd_options='; reboot'",
    'bgpd_options="-M /tmp/x.so"',
    'bgpd_wrap="/usr/bin/x"',
    'all_wrap=x',
    'watchfrr_options="-r reboot"',
    'PATH=.',
    'export bgpd=yes',
    'bgpd=yes\\',
  ])('%s would be run by the shell that starts FRR: it is refused', (line) => {
    expect(guardText('daemons', `bgpd=yes\n${line}\n`)).toMatchObject([{ line: 2, kind: 'refused' }]);
    expect(loud({ daemons: `${own['daemons']}${line}\n` })).toMatchObject([{ doubts: [] }]);
  });

  test('where OSPF leads, it is on everywhere', () => {
    for (const intent of fc.sample(singleIntents, { numRuns: 5, seed: 7 })) {
      const texts = [...configsOf(intent).configs.values()].map((c) => linux.render(c).files['daemons']!);
      expect(texts.length).toBeGreaterThan(0);
      for (const text of texts) expect(text).toMatch(/^bgpd=yes\nospfd=yes\nospf6d=no\nbfdd=(yes|no)\n$/);
    }
  });

  test('a daemon that is switched on or off lets the others run; one that gets other words does not', () => {
    const of = (daemons: string) => ({ ...own, daemons });
    expect(restartedFor(of('bgpd=yes\nospfd=no\n'), of('bgpd=yes\nospfd=yes\nospfd_options="-p 1"\n'))).toEqual([]);
    expect(restartedFor(of('bgpd=yes\n'), of('bgpd=yes\nbgpd_options="-M snmp"\n'))).toEqual(['bgpd_options']);
    expect(restartedFor(of('bgpd=yes\nbgpd_options="-M snmp"\n'), of('bgpd=no\n'))).toEqual([]);
    expect(restartedFor(of(''), of('zebra_options="-s 1"\n'))).toEqual(['zebra_options']);
    expect(restartedFor(of('MAX_FDS=1024\n'), of('MAX_FDS=4096\n'))).toEqual(['MAX_FDS']);
    const { daemons: _, ...without } = own;
    expect(restartedFor(without, own)).toEqual([]);
  });
});

describe('what is said to the kernel', () => {
  const sysctl = (text: string) => read({ 'sysctl.conf': text });

  test('ours is read without a word, line by line', () => {
    const lines = new Set<number>();
    linux.parse(own, (_place, file, line) => void (file === 'sysctl.conf' && lines.add(line)));
    expect(lines.size).toBe(SYSCTL_TEXT.trim().split('\n').length);
    expect(sysctl(SYSCTL_TEXT).unread).toEqual([]);
  });

  test.each([
    ['net.ipv4.ip_forward = 0', [], 'it passes no IPv4 on'],
    ['net/ipv6/conf/all/forwarding=0', [], 'it passes no IPv6 on'],
    ['net.ipv4.conf.all.rp_filter=1', [], 'it may drop what comes in over another path'],
    ['-net.ipv4.tcp_mtu_probing = 1', [], 'what it makes of the network is not modelled'],
    ['net.ipv4.ip_forward', [], 'a setting is written KEY = VALUE'],
    ['net.ipv4.fib_multipath_hash_policy = 0', undefined, 'it shares load by addresses, not by ports'],
    ['vm.swappiness = 10', undefined, 'it says how the kernel works, not what the network does'],
    ['net.core.rmem_max = 1', undefined, 'it says how the kernel works, not what the network does'],
  ])('%s', (line, doubts, why) => {
    const own = SYSCTL_TEXT.trimEnd()
      .split('\n')
      .filter((l) => !l.startsWith(`${line.split(/[ =]/)[0]!.replaceAll('/', '.')} `));
    const { unread } = sysctl(`# a note\n; another\n${line}\n${own.join('\n')}\n`);
    expect(unread.filter((u) => u.line === 3)).toEqual([
      { file: 'sysctl.conf', line: 3, text: line, why, ...(doubts ? { doubts } : { harmless: true }) },
    ]);
  });

  test('what is not set is said, as far as anything hangs on it', () => {
    const without = (key: string): string => SYSCTL_TEXT.replace(new RegExp(`^${key} .*\n`, 'm'), '');
    expect(sysctl(without('net.ipv4.ip_forward')).unread).toMatchObject([
      { line: 1, why: 'nothing here sets net.ipv4.ip_forward: it passes no IPv4 on', doubts: [] },
    ]);
    expect(sysctl(without('net.ipv4.fib_multipath_hash_policy')).unread).toEqual([]);
    expect(sysctl('\n').unread).toHaveLength(1);
  });

  test('the last word on a setting counts, and what runs a program is refused', () => {
    expect(sysctl(`net.ipv4.ip_forward=0\n${SYSCTL_TEXT}`).unread).toMatchObject([{ line: 1, harmless: true }]);
    for (const line of ['kernel.core_pattern = |/tmp/x', 'kernel/modprobe=/tmp/x', '- kernel.sysrq = 1'])
      expect(guardText('sysctl.conf', `${line}\n`)).toMatchObject([{ line: 1, kind: 'refused' }]);
  });
});

test('property: whatever stands in either, reading ends, and what is not understood is said', () => {
  const word = fc.constantFrom(
    'bgpd',
    'ospfd',
    '=',
    'yes',
    'no',
    '"',
    ' ',
    '#',
    '\n',
    '$x',
    'net.ipv4.ip_forward',
    '1',
    '_options',
  );
  fc.assert(
    fc.property(fc.array(word, { maxLength: 30 }), (words) => {
      const text = words.join('');
      for (const file of ['daemons', 'sysctl.conf']) {
        const { unread } = read({ [file]: text });
        const lines = text.split('\n').map((l) => l.trim());
        for (const u of unread) if (u.file === file) expect(lines[u.line - 1]).toBe(u.text);
        // What the shell would run is refused, so nothing that is refused is read as a value.
        const refused = new Set(guardText(file, text).map((l) => l.line));
        if (file === 'daemons') for (const line of refused) expect(unread.some((u) => u.line === line)).toBe(true);
      }
    }),
    { numRuns: 300 },
  );
});

test('of a fabric one switch does not start BGP: its sessions are down, and the finding stands where it is said', () => {
  const { drawn } = configsOf(skerryIntent());
  const fabric = compileFabric(skerryIntent(), drawn.values, [...POOLS]);
  const [{ seat, files }] = fabric.switches.slice(-1) as [(typeof fabric.switches)[number]];
  const parsed = linux.parse({ ...files, daemons: files['daemons']!.replace('bgpd=yes', 'bgpd=no') });
  const network = modelFabric({
    ...fabric,
    switches: fabric.switches.map((s) => (s.seat === seat ? { ...s, parsed } : s)),
  });
  expect(network.sessions.filter((s) => s.host === seat.host && s.up)).toEqual([]);
  expect(network.sessions.filter((s) => s.host !== seat.host && s.up).length).toBeGreaterThan(0);
  expect(judgeNetwork(network).findings).toContainEqual(
    expect.objectContaining({
      severity: 'error',
      message: expect.stringContaining('bgpd is not started') as string,
      place: expect.objectContaining({ host: seat.host, file: 'frr.conf' }) as object,
    }),
  );
});

test('a change that has daemons started with other words says where; one that switches a daemon on does not', () => {
  const intent = skerryIntent();
  const { values } = configsOf(intent).drawn;
  const told = (snippet: string | null) => {
    const snippets = snippet === null ? [] : [{ name: 'starts', file: 'daemons', on: 'all', text: snippet } as const];
    return { intent: { ...intent, snippets }, values };
  };
  const said = (from: string | null, to: string | null) =>
    proveChange(told(from), told(to), POOLS).report.findings.map((f) => [f.rule, f.severity, f.message]);
  const options = 'bgpd_options="-A 127.0.0.1 -M snmp"\n';
  expect(said(null, options)).toEqual([
    [
      'routing-starts-anew',
      'warning',
      'Routing of sk-sp-01, sk-sp-02, sk-sp-03 and 11 more is started anew, as bgpd_options changes: meanwhile they do nothing for others.',
    ],
  ]);
  expect(said(options, options)).toEqual([]);
  expect(said(null, 'ospf6d=yes\n')).toEqual([]);
  expect(said(null, 'bgpd_wrap=x\n').map(([rule]) => rule)).toContain('text-refused');
});
