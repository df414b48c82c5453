import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { compileFabric } from '../../compile/compileFabric.ts';
import type { PortConfig } from '../../config/interfaces.ts';
import type { SwitchConfig } from '../../config/switchConfig.ts';
import type { Finding } from '../../finding.ts';
import { POOLS } from '../../demo/skerry.ts';
import { modelNetwork } from '../../network/modelNetwork.ts';
import type { NetworkModel } from '../../network/networkModel.ts';
import type { SwitchView } from '../../network/switchView.ts';
import { configsOf, intents, otherIntents, wideIntents } from '../../testing/fabricOf.ts';
import { networkFromTexts, skerryCables, skerryTexts, type Texts } from '../../testing/skerryFolder.ts';
import { judgeNetwork } from '../judgeNetwork.ts';
import { modelFabric } from '../proveChange.ts';
import type { RulePart } from '../rule.ts';
import { DESIGN_RULES } from './index.ts';

/** What parts of a configuration the fields of a view are made of; those of routing and EVPN stand still while these do. */
const OF_VIEW: Readonly<Record<keyof SwitchView, readonly RulePart[]>> = {
  config: [],
  portByName: ['ports'],
  vlansOfPort: ['ports'],
  portByAddress: ['ports'],
  portTowards: ['ports'],
  ownAddresses: ['loopbacks', 'port addresses'],
  routedLagOf: ['ports'],
  lagOfPort: ['lags'],
  lagByKey: ['lags'],
  sviByVlan: ['svis'],
  bridge: ['bridge'],
  vxlanByVni: ['vxlans'],
  vniOfVlan: ['vxlans', 'bridge', 'vrfs', 'outsideL3Vni'],
  l2Vnis: [],
  vrfs: [],
  ospf: [],
  peers: [],
  peerByName: [],
  peer: [],
  callers: [],
  announced: [],
  ownIpv6Routes: [],
  ospf6: [],
  ownRoutes: [],
  router: [],
  plain: [],
};

/** The network with an ear on what is read of it. */
function listening(network: NetworkModel, heard: Set<RulePart>): NetworkModel {
  const configs = new Map<SwitchConfig, SwitchConfig>();
  const portOf = (port: PortConfig): PortConfig =>
    new Proxy(port, {
      get: (of, field) => {
        const ofAddresses = ['name', 'addresses', 'ipv6Addresses', 'vrf'].includes(String(field));
        heard.add(ofAddresses ? 'port addresses' : 'ports');
        return of[field as keyof PortConfig];
      },
    });
  const configOf = (config: SwitchConfig): SwitchConfig => {
    let known = configs.get(config);
    if (!known)
      configs.set(
        config,
        (known = new Proxy(config, {
          get: (of, part) => {
            if (part === 'ports') return of.ports.map(portOf);
            if (typeof part === 'string' && part !== 'hostname') heard.add(part as RulePart);
            return of[part as keyof SwitchConfig];
          },
        })),
      );
    return known;
  };
  const viewOf = (view: SwitchView): SwitchView =>
    new Proxy(view, {
      get: (of, field) => {
        if (field === 'config') return configOf(of.config);
        for (const part of OF_VIEW[field as keyof SwitchView]) heard.add(part);
        return of[field as keyof SwitchView];
      },
    });
  const listened = {
    ...network,
    switches: network.switches.map((s) => ({
      host: s.host,
      config: configOf(s.config),
      get unread() {
        heard.add('unread');
        return s.unread;
      },
    })),
    views: new Map([...network.views].map(([host, view]) => [host, viewOf(view)])),
  };
  return new Proxy(listened, {
    get: (of, field) => {
      if (field === 'legs' || field === 'trunks') heard.add(field);
      return of[field as keyof NetworkModel];
    },
  });
}

const broken = (change: (texts: Texts) => void): NetworkModel => {
  const texts = skerryTexts();
  change(texts);
  return networkFromTexts(texts);
};
const inFrr = (host: string, from: RegExp, to: string) => (texts: Texts) => {
  texts[host]!['frr.conf'] = texts[host]!['frr.conf'].replace(from, to);
};
const inInterfaces = (host: string, from: RegExp, to: string) => (texts: Texts) => {
  texts[host]!.interfaces = texts[host]!.interfaces.replace(from, to);
};
const fabrics = fc.sample(fc.oneof(intents, otherIntents, wideIntents), { numRuns: 12, seed: 9 });
/** Sound fabrics of every shape, and such as rules find something in. */
const networks: NetworkModel[] = [
  ...fabrics.map((i) => modelFabric(compileFabric(i, configsOf(i).drawn.values, POOLS))),
  broken(() => undefined),
  broken(inFrr('sk-lf-01', / neighbor p49 interface.*\n/g, '')),
  broken(inFrr('sk-lf-01', /route-target import \S+/g, 'route-target import 65000:1')),
  broken(inFrr('sk-lf-02', /^router bgp \d+$/gm, 'router bgp 65100')),
  broken(inFrr('sk-lf-02', /bgp router-id \S+/g, 'bgp router-id 10.255.0.4')),
  broken(inInterfaces('sk-lf-01', /mtu \d+/g, 'mtu 1400')),
  broken(inInterfaces('sk-lf-01', /bridge-access \d+/g, 'bridge-access 99')),
  broken(inInterfaces('sk-lf-01', /hwaddress \S+/g, 'hwaddress 02:00:00:00:00:99')),
  broken(inInterfaces('sk-lf-01', / {4}vrf \S+\n/g, '')),
  broken(inInterfaces('sk-lf-07a', /bond-ad-actor-system \S+/g, 'bond-ad-actor-system 02:00:00:00:00:98')),
];

describe('a rule is judged again when something that it reads has changed', () => {
  test.each(DESIGN_RULES.map((r) => [r.id, r] as const))('%s says all that it reads', (_id, rule) => {
    const heard = new Set<RulePart>();
    for (const network of networks) rule.judge(listening(network, heard));
    expect(
      [...heard]
        .filter((part) => !rule.reads.includes(part) && !(part === 'port addresses' && rule.reads.includes('ports')))
        .sort(),
    ).toEqual([]);
  });

  test('a port that goes away takes what was found at the other end of its cable with it', () => {
    const texts = skerryTexts();
    // A cable without a session, its ends of different MTU.
    const cable = skerryCables.find((c) => [c.a.host, c.b.host].includes('sk-lf-01'))!;
    for (const { host, port } of [cable.a, cable.b])
      inFrr(host, new RegExp(` neighbor ${port} interface.*\\n`), '')(texts);
    const { host, port } = cable.b;
    inInterfaces(host, new RegExp(`(iface ${port}\\n(?: {4}.*\\n)*? {4}mtu )\\d+`), '$11400')(texts);
    const network = networkFromTexts(texts);
    const judged = judgeNetwork(network);
    const at = (found: readonly Finding[]) => found.filter((f) => f.rule === 'link-mtu-equal').map((f) => f.host);
    expect(at(judged.findings)).toEqual([cable.a.host]);
    inInterfaces(host, new RegExp(`auto ${port}\\niface ${port}\\n(?: {4}.*\\n)*`), '')(texts);
    const anew = networkFromTexts(texts);
    const after = modelNetwork(anew.switches, anew.cables, anew.hosts, network, anew.legs);
    expect(at(judgeNetwork(after, judged).findings)).toEqual([]);
  });

  test('what is taken over is what is found anew, whatever of a switch changes', () => {
    const texts = skerryTexts();
    const network = networkFromTexts(texts);
    const judged = judgeNetwork(network);
    const lines = Object.entries(texts).flatMap(([host, files]) =>
      Object.entries(files).flatMap(([file, text]) =>
        text.split('\n').map((line, i) => ({ host, file: file as 'interfaces', line, i })),
      ),
    );
    fc.assert(
      fc.property(fc.constantFrom(...lines), fc.constantFrom('drop', 'double', '9'), ({ host, file, line, i }, how) => {
        const own = texts[host]![file].split('\n');
        const put = how === 'drop' ? [] : how === 'double' ? [line, line] : [line.replace(/\d(?=\D*$)/, how)];
        const changed = { ...texts, [host]: { ...texts[host]!, [file]: own.toSpliced(i, 1, ...put).join('\n') } };
        const anew = networkFromTexts(changed);
        const { switches } = anew;
        const after = modelNetwork(switches, anew.cables, anew.hosts, network, anew.legs);
        expect(judgeNetwork(after, judged).findings).toEqual(judgeNetwork(anew).findings);
      }),
      { numRuns: 150 },
    );
  });
});
