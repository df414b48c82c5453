import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { POOLS, skerryIntent } from '../demo/skerry.ts';
import { linux } from '../dialects/linux/linux.ts';
import { editsBetween } from '../intent/edits/editsBetween.ts';
import { applyEdit, applyEdits, describeEdit, type Edit } from '../intent/edits/index.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { layOut } from '../layout/layout.ts';
import { stillOver } from '../network/goneRound.ts';
import { legReach } from '../network/hostReach.ts';
import { vtepsHeard, type NetworkModel } from '../network/networkModel.ts';
import { isRouted } from '../patterns/patterns.ts';
import { proveChange } from '../proof/proveChange.ts';
import { drainedIn, picks } from '../testing/drainedOf.ts';
import { configsOf, singleIntents, wideIntents } from '../testing/fabricOf.ts';
import { dualIntents } from '../testing/familiesOf.ts';
import { joinedBorder, putNeighbourOf } from '../testing/joinedBorder.ts';
import { networkOf, subjectsOn } from '../testing/networkOf.ts';
import { policyIntents } from '../testing/policiesOf.ts';

const skerry = skerryIntent();
const made = (base: FabricIntent, ...edits: Edit[]): FabricIntent => {
  const { intent, findings } = applyEdits(base, edits);
  expect(findings).toEqual([]);
  return intent;
};
const drain = (seat: string): Edit => ({ kind: 'drainSeat', seat });
const anyFabric = fc.oneof(wideIntents.filter(isRouted), singleIntents, dualIntents, policyIntents);

/** Pairs of servers of which one reaches the other over some of their ports. */
function reaches({ hosts, ...network }: NetworkModel): Set<string> {
  const out = new Set<string>();
  for (const a of hosts)
    for (const b of hosts) {
      const pair = `${a.host} → ${b.host} ${b.ip}`;
      if (a.host !== b.host && !out.has(pair) && legReach({ hosts, ...network }, a, b).ok) out.add(pair);
    }
  return out;
}

describe('switches that are drained', () => {
  test('whatever is drained: nothing is drawn anew, no other switch says anything else, whoever reached whom still does, nobody goes over it who has another way, and brought back all is as before', () => {
    fc.assert(
      fc.property(anyFabric, picks, (intent, picked) => {
        const drained = drainedIn(intent, picked);
        const ids = new Set(drained.drained.map((d) => d.seat));
        const [before, after] = [configsOf(intent), configsOf(drained)];
        expect(after.drawn.values).toEqual(before.drawn.values);
        for (const [seat, config] of after.configs) {
          if (!ids.has(seat)) expect(config).toEqual(before.configs.get(seat));
          expect(config.bgp?.gracefulShutdown ?? false).toBe(ids.has(seat));
          const { files } = linux.render(config);
          expect(linux.parse(files)).toMatchObject({ config, unread: [] });
        }
        const [was, is] = [networkOf(intent).network, networkOf(drained).network];
        expect(is.sessions).toEqual(was.sessions);
        // By whichever of its ports.
        const now = reaches(is);
        expect([...reaches(was)].filter((pair) => !now.has(pair))).toEqual([]);
        // A tunnel is not ended, so that what is under way arrives.
        for (const { host, config } of was.switches)
          for (const { vni } of config.vxlans) expect(vtepsHeard(is, host, vni)).toEqual(vtepsHeard(was, host, vni));
        for (const { host } of layOut(drained).seats.filter((s) => ids.has(s.id))) {
          const still = stillOver(is, host)!;
          // Who goes over it does because there is nobody else, or because all others are drained as well.
          const others = layOut(drained).seats.filter((s) => ids.has(s.id) && s.host !== host).length;
          if (others === 0) expect(still.filter((s) => !s.alone)).toEqual([]);
        }
        expect(made(drained, ...editsBetween(drained, intent))).toEqual(intent);
        expect(made(intent, ...editsBetween(intent, drained))).toEqual(drained);
      }),
      { numRuns: 30 },
    );
  });

  test('of OSPF its links are the last that are taken, in both families; of its other half’s LAGs its own ports are shut, and of no other server', () => {
    const intent = fc.sample(
      dualIntents.filter((i) => i.settings.asnScheme === 'single' && i.ports.some((p) => p.side === 'both')),
      { numRuns: 1, seed: 4 },
    )[0]!;
    const { rack } = intent.ports.find((p) => p.side === 'both')!;
    const config = configsOf(made(intent, drain(`leaf-${rack}a`))).configs.get(`leaf-${rack}a`)!;
    const costs = [config.ospfPorts, config.ospf6Ports].map((all) => all?.map((p) => [p.name === 'lo', p.cost]));
    expect(new Set(costs.flatMap((c) => c!.map(String)))).toEqual(new Set(['true,', 'false,65535']));
    const shut = config.ports.flatMap((p) => (p.shut ? p.name : []));
    const on = intent.ports.filter((p) => p.rack === rack);
    expect(shut.sort()).toEqual(
      on.flatMap((p) => (p.side === 'both' || (p.shut && p.side === 'a') ? p.port : [])).sort(),
    );
  });

  test('routers outside are asked to go round it too, in the VRFs that speak to them; each line says what it is there for', () => {
    const border = made(joinedBorder, putNeighbourOf());
    const seat = 'leaf-1a';
    const drained = made(border, drain(seat));
    const { bgp } = configsOf(drained).configs.get(seat)!;
    const speaking = drained.neighbours.filter((n) => n.rack === 1 && n.side === 'a').map((n) => n.vrf);
    expect(speaking.length).toBeGreaterThan(0);
    expect(bgp!.vrfs.flatMap((v) => (v.gracefulShutdown ? v.vrf : []))).toEqual([...new Set(speaking)]);
    const subject = subjectsOn(drained, 'tn-lf-01a');
    expect(subject('bgp', 'gracefulShutdown')).toBe('drain:leaf-1a');
    expect(subject('bgp', 'vrfs', speaking[0]!, 'gracefulShutdown')).toBe('drain:leaf-1a');
    expect(subjectsOn(made(skerry, drain('leaf-7a')), 'sk-lf-07a')('ports', 'p1', 'shut')).toBe('drain:leaf-7a');
  });

  test('the proof says who has no other switch, and nothing else', () => {
    const state = (intent: FabricIntent) => ({ intent, values: configsOf(intent).drawn.values });
    const said = (...seats: string[]) =>
      proveChange(state(skerry), state(made(skerry, ...seats.map(drain))), POOLS).report.findings.map((f) => [
        f.severity,
        f.rule,
      ]);
    expect(said('spine-1')).toEqual([]);
    expect(said('leaf-7a')).toEqual([]);
    expect(said('leaf-2')).toEqual([['warning', 'drained-carried']]);
    expect(said('spine-1', 'spine-2', 'spine-3', 'spine-4').map(String)).toContain('warning,drained-carried');
    expect(said('leaf-7a', 'leaf-7b').map(String)).toContain('error,drained-halves');
  });

  test('what is no seat, is so already or cannot be is refused; a seat that goes does not come back drained', () => {
    const said = (intent: FabricIntent, edit: Edit) =>
      applyEdit(intent, edit).findings.map((f) => [f.rule, f.path, f.message]);
    const one = made(skerry, drain('leaf-3'), drain('spine-4'));
    expect(said(skerry, drain('leaf-99'))).toEqual([['seat-known', '/seat', 'There is no seat leaf-99.']]);
    expect(said(one, drain('leaf-3'))).toEqual([['object-new', '/seat', 'sk-lf-03 is drained already.']]);
    expect(said(skerry, { kind: 'bringBack', seat: 'leaf-3' })).toEqual([
      ['object-known', '/seat', 'sk-lf-03 is not drained.'],
    ]);
    const [bridged] = fc.sample(
      wideIntents.filter((i) => !isRouted(i)),
      { numRuns: 1, seed: 1 },
    );
    expect(said(bridged!, drain(layOut(bridged!).seats[0]!.id)).map(([rule]) => rule)).toEqual(['drain-routed']);
    const left = (intent: FabricIntent): string[] => intent.drained.map((d) => d.seat);
    expect(describeEdit({ kind: 'removeRack', number: 3 }, one)).toMatch(/and 1 drained switch/);
    const fewer = made(one, { kind: 'setSpines', count: 3 }, { kind: 'removeRack', number: 3 });
    expect(left(fewer)).toEqual([]);
    expect(left(made(fewer, { kind: 'setSpines', count: 4 }))).toEqual([]);
    expect(made(fewer, ...editsBetween(fewer, one))).toEqual(one);
  });
});
