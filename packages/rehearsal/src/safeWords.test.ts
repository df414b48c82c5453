import { linux, type SwitchFolder } from '@anthemion/core';
import { expect, test } from 'vitest';
import { Lab } from './lab.ts';
import type { Programs } from './programs.ts';
import { runsElsewhere, unsafeWord } from './safeWords.ts';

const folder = (interfaces: string, frr = '', more: Partial<SwitchFolder> = {}): SwitchFolder => {
  const files = { interfaces, 'frr.conf': frr };
  return {
    files: new Map([['r1', files]]),
    switches: [{ host: 'r1', ...linux.parse(files) }],
    cables: [],
    hosts: [],
    ...more,
  };
};
const SOUND = 'auto p1\niface p1\n    address 10.1.1.0/31\nauto tides\niface tides\n    vrf-table auto\n';

test('what is more than a name is run by nobody, wherever it stands', () => {
  expect(unsafeWord(folder(SOUND))).toBeNull();
  // No longer than a name may be, and without what no name holds: nothing else keeps it from being one.
  const evil = '$(reboot)';
  for (const interfaces of [
    `auto p1;id\niface p1;id\n    mtu 9000\n`,
    `auto ${evil}\niface ${evil}\n    vrf-table auto\n`,
    `auto bond1\niface bond1\n    bond-slaves p1|id\n`,
    `auto vlan10\niface vlan10\n    vlan-id 10\n    vlan-raw-device bridge\n    vrf ${evil}\n`,
    `auto -x\niface -x\n    mtu 9000\n`,
  ]) {
    expect([interfaces, unsafeWord(folder(interfaces))]).toEqual([
      interfaces,
      expect.stringContaining('no name or address'),
    ]);
    expect(() => new Lab(folder(interfaces), {} as Programs)).toThrow('no name or address');
  }
  const end = (port: string) => ({ host: 'r1', port });
  expect(unsafeWord(folder(SOUND, '', { cables: [{ a: end('p1'), b: end('p1\nlink del lo') }] }))).not.toBeNull();
  const server = { host: 'a', switch: 'r1', port: 'p1', vlan: 1, gateway: '', ip: '10.0.0.1;id' };
  expect(unsafeWord(folder(SOUND, '', { hosts: [server] }))).not.toBeNull();
});

test('lines that run programs, or use files, are not run on the machine of the server', () => {
  expect(runsElsewhere(folder(SOUND, 'hostname r1\n'))).toBeNull();
  for (const [interfaces, frr] of [
    [`${SOUND}    post-up id\n`, ''],
    [`${SOUND}    alias %x\n`, ''],
    [SOUND, 'log file /etc/passwd\n'],
    [SOUND, 'router bgp 1\n do start-shell bash\n'],
  ] as const)
    expect([interfaces, frr, runsElsewhere(folder(interfaces, frr))]).toEqual([
      interfaces,
      frr,
      expect.stringMatching(/^r1 (interfaces|frr\.conf):\d+, .* not run here$/),
    ]);
});
