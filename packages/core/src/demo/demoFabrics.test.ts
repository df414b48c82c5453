import { expect, test } from 'vitest';
import type { RouteAnswer } from '../ask/answer.ts';
import { routesOf } from '../ask/routesOf.ts';
import { compileFabric } from '../compile/compileFabric.ts';
import { layOut } from '../layout/layout.ts';
import { ledByOspf, shapeOf } from '../patterns/patterns.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { modelFabric } from '../proof/proveChange.ts';
import { configsOf } from '../testing/fabricOf.ts';
import { DEMO_FABRICS, DEMO_POOLS, demoIntent } from './demoFabrics.ts';

const made = (name: string) => {
  const fabric = DEMO_FABRICS.find((f) => f.name === name)!;
  const intent = demoIntent(fabric);
  const compiled = compileFabric(intent, configsOf(intent, DEMO_POOLS).drawn.values, DEMO_POOLS);
  return { intent, compiled, network: modelFabric(compiled) };
};
const prefixes = (network: ReturnType<typeof made>['network'], host: string, vrf: string): string[] =>
  (routesOf(network, host, vrf) as readonly RouteAnswer[]).map((r) => r.prefix);

test('every fabric of the demo is sound: no finding, every session up; all seats together fit the bench', () => {
  let switches = 0;
  for (const { name } of DEMO_FABRICS) {
    const { intent, compiled, network } = made(name);
    expect(compiled.switches.flatMap((s) => [...s.findings, ...s.parsed.unread])).toEqual([]);
    expect(network.sessions.filter((s) => !s.up)).toEqual([]);
    expect(judgeNetwork(network).findings).toEqual([]);
    const { seats } = layOut(intent);
    expect(Object.keys(intent.seating)).toHaveLength(seats.length);
    switches += seats.length;
  }
  expect(switches).toBeLessThanOrEqual(48 - 6);
});

test('Holm is what Skerry is not: five stages, one AS number led by OSPF, both families, a default route of the outside', () => {
  const { intent, network } = made('holm');
  expect([shapeOf(intent), ledByOspf(intent.settings)]).toEqual(['five-stages', true]);
  // What a router of the outside tells both halves of the border pair is heard in the other pod.
  const heard = prefixes(network, 'ho-lf-02', 'offing');
  expect(heard).toContain('0.0.0.0/0');
  expect(heard.filter((p) => p.includes(':'))).not.toEqual([]);
  expect(prefixes(network, 'ho-lf-02', 'charts')).not.toContain('0.0.0.0/0');
  // What a server tells its leaf is heard in the other pod.
  expect(network.sessions.find((s) => s.host === 'store-201')).toMatchObject({ farHost: 'ho-lf-02', up: true });
  expect(prefixes(network, 'ho-lf-06a', 'charts')).toContain('198.51.100.0/26');
});

test('Ness is two switches; the one that has no cable to the outside hears its default route of the other', () => {
  const { intent, network } = made('ness');
  expect([shapeOf(intent), layOut(intent).seats.map((s) => s.host)]).toEqual(['collapsed', ['ne-lf-01a', 'ne-lf-01b']]);
  expect(prefixes(network, 'ne-lf-01b', 'tides')).toEqual(expect.arrayContaining(['0.0.0.0/0', '::/0']));
  expect(network.sessions.filter((s) => s.vrf === 'tides').map((s) => s.host)).toContain('ne-lf-01a');
});
