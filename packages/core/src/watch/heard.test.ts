import { expect, test } from 'vitest';
import { heardHosts, soughtHost } from './heard.ts';

test('hosts heard on ports: not what EVPN told, nor the switch itself; addresses by VLAN', () => {
  const own = { ifname: 'p3', vlan: 210, flags: [], master: 'bridge', state: '' };
  const bridge = [
    { ...own, mac: '52:54:00:AA:00:01' },
    { ...own, mac: '52:54:00:aa:00:01', vlan: 212 },
    { ...own, mac: '52:54:00:aa:00:02', ifname: 'bond7' },
    { ...own, mac: '52:54:00:aa:00:03', ifname: 'vni10210', flags: ['extern_learn'] },
    { mac: '52:54:00:aa:00:03', ifname: 'vni10210', dst: '10.254.0.3', flags: ['self', 'extern_learn'], state: '' },
    { ...own, mac: '02:00:5e:00:00:d2', ifname: 'bridge', state: 'permanent' },
    { mac: '33:33:00:00:00:01', ifname: 'p3', flags: ['self'], state: 'permanent' },
    { ifname: 'p3' },
  ];
  const near = (dst: string, dev: string, lladdr: string, ...state: string[]) => ({ dst, dev, lladdr, state });
  const neighbours = [
    near('10.32.0.20', 'vlan210', '52:54:00:aa:00:01', 'REACHABLE'),
    near('2001:DB8:32::20', 'vlan210', '52:54:00:aa:00:01', 'STALE'),
    near('10.32.2.9', 'vlan212', '52:54:00:aa:00:01', 'REACHABLE'),
    near('10.32.0.77', 'vlan210', '52:54:00:aa:00:01', 'FAILED'),
    { dst: '10.32.0.78', dev: 'vlan210', state: ['INCOMPLETE'] },
    near('not one', 'vlan210', '52:54:00:aa:00:01', 'STALE'),
  ];
  expect(heardHosts(bridge, neighbours)).toEqual([
    { mac: '52:54:00:aa:00:01', port: 'p3', vlan: 210, addresses: ['10.32.0.20', '2001:db8:32::20'] },
    { mac: '52:54:00:aa:00:01', port: 'p3', vlan: 212, addresses: ['10.32.2.9'] },
    { mac: '52:54:00:aa:00:02', port: 'bond7', vlan: 210, addresses: [] },
  ]);
});

test('who is looked for, however it is written', () => {
  const mac = { is: 'mac', mac: '52:54:00:aa:00:01' };
  for (const text of ['52:54:00:AA:00:01', '52-54-00-aa-00-01', ' 5254.00aa.0001 ', '525400aa0001'])
    expect(soughtHost(text)).toEqual(mac);
  expect(soughtHost('2001:DB8::20')).toEqual({ is: 'address', address: '2001:db8::20' });
  expect(soughtHost('10.32.0.20')).toEqual({ is: 'address', address: '10.32.0.20' });
  for (const text of ['tide-105', '52:54:00', '5254.00aa.00', '52-54:00:aa:00:01-', '10.32.0.300'])
    expect(soughtHost(text)).toEqual({ is: 'server', server: text.toLowerCase() });
});
