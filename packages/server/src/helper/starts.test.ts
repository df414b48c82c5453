import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { HelperRig, newText } from '../testing/helperRig.ts';

const LIST =
  'interfaces /etc/network/interfaces\nfrr.conf /etc/frr/frr.conf\ndaemons /etc/frr/daemons #\nsysctl.conf /etc/sysctl.d/90-anthemion.conf\n';
/** As Debian ships it, in short. */
const DEBIAN = 'bgpd=no\nospfd=no\n\nvtysh_enable=yes\nbgpd_options="   -A 127.0.0.1"\n';
const KERNEL = 'net.ipv4.ip_forward = 1\nnet.ipv4.conf.all.rp_filter = 0\n';

let rig: HelperRig;
const path = (name: string): string => join(rig.root, name);
const daemons = (): string => readFileSync(path('etc/frr/daemons'), 'utf8');
const calls = (): string[] => readFileSync(join(rig.folder, 'calls'), 'utf8').trim().split('\n');
const kernel = (): string => readFileSync(join(rig.folder, 'kernel'), 'utf8');
const send = (id: string, more: { daemons?: string; 'sysctl.conf'?: string }) =>
  rig.send(id, { ...newText(id), daemons: 'bgpd=yes\nospfd=no\n', 'sysctl.conf': KERNEL, ...more }, LIST);

beforeEach(() => {
  rig = new HelperRig();
  writeFileSync(path('etc/frr/daemons'), DEBIAN);
  writeFileSync(join(rig.folder, 'kernel'), 'net.ipv4.ip_forward = 0\nnet.ipv4.conf.all.rp_filter = 2\n');
  writeFileSync(join(rig.folder, 'calls'), '');
  const noted = `echo "$(basename "$0") $*" >> "${rig.folder}/calls"`;
  for (const name of ['systemctl', 'vtysh'] as const)
    rig.command(name, `${noted}\n[ "$2" != "show running-config" ] || printf 'router bgp 65001\\nrouter ospf\\n'`);
  // A kernel of two settings: a key it does not have is an error, as with the real one.
  rig.command(
    'sysctl',
    `kernel="${rig.folder}/kernel"
case $1 in
-n) grep -q "^$2 = " "$kernel" || exit 1; sed -n "s/^$2 = //p" "$kernel" ;;
-q) ${noted}
    while read -r key _ value; do
        key=\${key#-}
        grep -q "^$key = " "$kernel" || exit 1
        sed -i "s/^$key = .*/$key = $value/" "$kernel"
    done < "$3" ;;
esac`,
  );
});
afterEach(() => rig.close());

describe('what is started', () => {
  test('switched on or off it goes with a reload, while the rest runs; the words of others stay; undo has all as before', () => {
    send('r1', {});
    expect([rig.run('check', 'r1').code, rig.run('apply', 'r1', '600').code]).toEqual([0, 0]);
    expect(daemons()).toBe(`${DEBIAN}# anthemion begin\nbgpd=yes\nospfd=no\n# anthemion end\n`);
    rig.run('confirm', 'r1');
    send('r2', { daemons: 'bgpd=yes\nospfd=yes\nospfd_options="-A 127.0.0.1 -M snmp"\n' });
    rig.run('apply', 'r2', '600');
    rig.run('undo', 'r2');
    expect(daemons()).toBe(`${DEBIAN}# anthemion begin\nbgpd=yes\nospfd=no\n# anthemion end\n`);
    const systemctl = calls().filter((c) => c.startsWith('systemctl '));
    expect(systemctl).toEqual(['systemctl reload frr', 'systemctl reload frr', 'systemctl reload frr']);
  });

  test('other words for a daemon that runs: others go around first, then FRR is restarted; going back as well', () => {
    send('r1', {});
    rig.run('apply', 'r1', '600');
    rig.run('confirm', 'r1');
    writeFileSync(join(rig.folder, 'calls'), '');
    send('r2', { daemons: 'bgpd=yes\nospfd=no\nbgpd_options="-A 127.0.0.1 -M snmp"\n' });
    expect(rig.run('apply', 'r2', '600').text).toMatch(/^pending, \d+ s left; FRR was restarted$/);
    expect(calls().filter((c) => !c.startsWith('ifreload'))).toEqual([
      'sysctl -q -p ' + path('etc/sysctl.d/90-anthemion.conf'),
      'vtysh -c show running-config',
      'vtysh -c configure terminal -c bgp graceful-shutdown',
      'vtysh -c configure terminal -c router ospf -c max-metric router-lsa administrative',
      'systemctl restart frr',
    ]);
    writeFileSync(join(rig.folder, 'calls'), '');
    rig.run('undo', 'r2');
    expect(calls().filter((c) => /^(systemctl|vtysh)/.test(c))).toEqual(['systemctl restart frr']);
  });

  test('a VRF that is new is there before the reload, which writes of routers first; a router that is left is loaded once more', () => {
    // FRR as it runs, in a file: commands add the VRF they speak of, a reload leaves a router that others have routes of.
    const runs = join(rig.folder, 'frr');
    writeFileSync(runs, 'vrf red\n vni 10001\nexit-vrf\nrouter bgp 65001\nrouter bgp 65001 vrf red\n');
    const noted = `echo "$(basename "$0") $*" >> "${rig.folder}/calls"`;
    rig.command('vtysh', `[ "$2" != "show running-config" ] || { cat "${runs}"; exit 0; }\n${noted}`);
    rig.command(
      'systemctl',
      `${noted}\n{ cat "${path('etc/frr/frr.conf')}"; sed -n '/vrf gone$/p' "${runs}"; } > "${runs}.new"; mv "${runs}.new" "${runs}"`,
    );
    const text = (vrf: string): string =>
      `vrf ${vrf}\n vni 10002\nexit-vrf\nvrf red\n vni 10001\nexit-vrf\nrouter bgp 65001\nrouter bgp 65001 vrf ${vrf}\nrouter bgp 65001 vrf red\n`;
    const apply = (id: string, frr: string): string[] => {
      writeFileSync(join(rig.folder, 'calls'), '');
      rig.send(id, { ...newText(id), 'frr.conf': frr, daemons: 'bgpd=yes\nospfd=no\n', 'sysctl.conf': KERNEL }, LIST);
      expect(rig.run('apply', id, '600').code).toBe(0);
      rig.run('confirm', id);
      return calls().filter((c) => /^(systemctl|vtysh)/.test(c) && !c.includes(' -C '));
    };
    expect(apply('r1', text('blue'))).toEqual([
      'vtysh -c configure terminal -c vrf blue -c vni 10002',
      'systemctl reload frr',
    ]);
    expect(apply('r2', text('blue'))).toEqual(['systemctl reload frr']);
    writeFileSync(runs, `${text('blue')}router bgp 65001 vrf gone\n`);
    expect(apply('r3', text('blue'))).toEqual(['systemctl reload frr', 'systemctl reload frr']);
  });

  test.each([
    ['bgpd=$(reboot)\n', 1],
    ['bgpd=yes\nbgpd_options="; reboot"\n', 2],
    ['bgpd=yes\nbgpd_options="-M /tmp/x.so"\n', 2],
    ['\n# fine\nbgpd_wrap="/usr/bin/x"\n', 3],
    ['watchfrr_options="-r reboot"\n', 1],
    ['bgpd=yes reboot\n', 1],
  ])('%j would be run by a shell: refused, and nothing is touched', (text, line) => {
    send('r1', { daemons: text });
    for (const command of ['check', 'apply'])
      expect(rig.run(command, 'r1', '600')).toEqual({
        code: 3,
        text: `daemons: line ${line}: is no plain value, and the shell that starts FRR would run it`,
      });
    expect([daemons(), rig.state()]).toEqual([DEBIAN, 'none -']);
  });
});

describe('settings of the kernel', () => {
  test('are set, and going back sets those that were there, though the file goes away', () => {
    send('r1', {});
    rig.run('apply', 'r1', '600');
    expect(kernel()).toBe('net.ipv4.ip_forward = 1\nnet.ipv4.conf.all.rp_filter = 0\n');
    rig.run('undo', 'r1');
    expect(kernel()).toBe('net.ipv4.ip_forward = 0\nnet.ipv4.conf.all.rp_filter = 2\n');
    expect(existsSync(path('etc/sysctl.d/90-anthemion.conf'))).toBe(false);
  });

  test('one that the kernel does not know fails the load, and all goes back', () => {
    send('r1', { 'sysctl.conf': `${KERNEL}net.ipv4.nothing = 1\n` });
    expect(rig.run('apply', 'r1', '600').code).toBe(5);
    expect(kernel()).toBe('net.ipv4.ip_forward = 0\nnet.ipv4.conf.all.rp_filter = 2\n');
    expect(daemons()).toBe(DEBIAN);
  });

  test('promise 4: not confirmed in time, they go back too', async () => {
    send('r1', {});
    rig.run('apply', 'r1', '1');
    expect(await rig.settled()).toBe('undone r1');
    expect(kernel()).toBe('net.ipv4.ip_forward = 0\nnet.ipv4.conf.all.rp_filter = 2\n');
  });

  test('one that has the kernel run a program is refused', () => {
    send('r1', { 'sysctl.conf': `${KERNEL}kernel.core_pattern = |/tmp/x\n` });
    expect(rig.run('check', 'r1')).toEqual({ code: 3, text: 'sysctl.conf: line 3: has the kernel run a program' });
  });
});
