import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { configDifferences } from '../config/differences.ts';
import type { PortConfig } from '../config/interfaces.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { skerryIntent } from '../demo/skerry.ts';
import { applyEdits } from '../intent/edits/index.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { joinedBorder, putNeighbourOf } from '../testing/joinedBorder.ts';
import { configsOf, intents, singleIntents } from '../testing/fabricOf.ts';
import { adoptDrift, type Drifted } from './adoptDrift.ts';

const drifted = (intent: FabricIntent, by: Readonly<Record<string, (c: SwitchConfig) => SwitchConfig>>) => {
  const { layout, configs } = configsOf(intent);
  const list = Object.entries(by).map(([seat, edit]): Drifted => {
    const meant = configs.get(seat)!;
    const runs = edit(meant);
    return { seat, meant, runs, differences: configDifferences(meant, runs) };
  });
  return { layout, list };
};
const onPort =
  (name: string, set: Partial<PortConfig>) =>
  (c: SwitchConfig): SwitchConfig => ({
    ...c,
    ports: c.ports.map((p) => (p.name === name ? { ...p, ...set } : p)),
  });

describe('adopting what was done by hand', () => {
  test('whatever server port is shut by hand, the edits make the intent mean exactly what runs', () => {
    fc.assert(
      fc.property(intents, fc.nat(), (intent, pick) => {
        fc.pre(intent.ports.length > 0);
        const p = intent.ports[pick % intent.ports.length]!;
        const { layout } = configsOf(intent);
        const seats = layout.seats.filter(
          (s) => s.rack === p.rack && (p.side === 'both' || p.side === (s.side ?? 'a')),
        );
        const toggled = (c: SwitchConfig): SwitchConfig => ({
          ...c,
          ports: c.ports.map((x) => {
            if (x.name !== p.port) return x;
            const { shut, ...open } = x;
            return shut ? open : { ...open, shut: true };
          }),
        });
        const { list } = drifted(intent, Object.fromEntries(seats.map((s) => [s.id, toggled])));
        const { edits, left } = adoptDrift(intent, layout, list);
        expect(left).toEqual([]);
        const after = applyEdits(intent, edits);
        expect(after.findings).toEqual([]);
        const { configs } = configsOf(after.intent);
        for (const d of list) expect(configDifferences(configs.get(d.seat)!, d.runs)).toEqual([]);
      }),
      { numRuns: 25 },
    );
  });

  const skerry = skerryIntent();
  const single = skerry.ports.find((p) => p.side !== 'both')!;
  const paired = skerry.ports.find((p) => p.side === 'both')!;
  const seatsOf = (rack: number) =>
    configsOf(skerry)
      .layout.seats.filter((s) => s.rack === rack)
      .map((s) => s.id);
  const seatOf = (p: typeof single): string => seatsOf(p.rack)[p.side === 'b' ? 1 : 0]!;

  test('an uplink that is shut by hand becomes a link that is shut; opened at an end of one that is, it is opened', () => {
    const link = configsOf(skerry).layout.links[0]!;
    const byHand = drifted(skerry, { [link.a.seat]: onPort(link.a.port, { shut: true }) });
    const { edits, left } = adoptDrift(skerry, byHand.layout, byHand.list);
    expect([edits, left]).toEqual([[{ kind: 'shutLink', link: link.id }], []]);
    const { intent } = applyEdits(skerry, edits);
    const opened = (c: SwitchConfig): SwitchConfig => ({ ...c, ports: c.ports.map(({ shut: _, ...p }) => p) });
    // At both ends at once it is one edit.
    const again = drifted(intent, { [link.a.seat]: opened, [link.b.seat]: opened });
    expect(adoptDrift(intent, again.layout, again.list)).toEqual({
      edits: [{ kind: 'openLink', link: link.id }],
      left: [],
    });
    const told = drifted(skerry, { [link.a.seat]: onPort(link.a.port, { fec: 'rs' }) });
    expect(adoptDrift(skerry, told.layout, told.list).left.map((l) => l.why)).toEqual([
      'a port of the fabric itself is always as the layout has it',
    ]);
  });

  test('whatever switch is drained by hand, or brought back by hand, is so by one edit, and the intent means what runs', () => {
    fc.assert(
      fc.property(fc.oneof(intents, singleIntents), fc.nat(), (intent, pick) => {
        const { layout, configs } = configsOf(intent);
        const { id: seat } = layout.seats[pick % layout.seats.length]!;
        const { intent: drained } = applyEdits(intent, [{ kind: 'drainSeat', seat }]);
        const quiet = configsOf(drained).configs.get(seat)!;
        const byHand = drifted(intent, { [seat]: () => quiet });
        expect(adoptDrift(intent, layout, byHand.list)).toEqual({ edits: [{ kind: 'drainSeat', seat }], left: [] });
        const back = drifted(drained, { [seat]: () => configs.get(seat)! });
        expect(adoptDrift(drained, layout, back.list)).toEqual({ edits: [{ kind: 'bringBack', seat }], left: [] });
        // One line of it is enough to say what was meant.
        const asked = drifted(intent, { [seat]: (c) => ({ ...c, bgp: { ...c.bgp!, gracefulShutdown: true } }) });
        expect(adoptDrift(intent, layout, asked.list)).toEqual({ edits: [{ kind: 'drainSeat', seat }], left: [] });
      }),
      { numRuns: 25 },
    );
  });

  test('while a half is drained its ports say nothing of whether a server’s is shut', () => {
    const { intent } = applyEdits(skerry, [{ kind: 'drainSeat', seat: 'leaf-7a' }]);
    const port = intent.ports.find((p) => p.rack === 7 && p.side === 'both')!;
    const driven = onPort(port.port, { speed: 10 });
    const both = drifted(intent, { 'leaf-7a': driven, 'leaf-7b': driven });
    expect(adoptDrift(intent, both.layout, both.list)).toEqual({
      edits: [{ kind: 'changeServer', port: { ...port, speed: 10 } }],
      left: [],
    });
    const opened = drifted(intent, {
      'leaf-7a': (c) => ({
        ...c,
        ports: c.ports.map((p) => (p.name === port.port ? (({ shut: _, ...x }) => x)(p) : p)),
      }),
    });
    const { edits, left } = adoptDrift(intent, opened.layout, opened.list);
    expect([edits, left.map((l) => [l.host, l.why])]).toEqual([
      [],
      [['sk-lf-07a', expect.stringMatching(/^while a switch is drained/)]],
    ]);
  });

  test('an outside link is shut and driven as it runs', () => {
    const [link] = joinedBorder.outside;
    const seat = configsOf(joinedBorder).layout.outward.find((o) => o.a.port === link!.port)!.a.seat;
    const { layout, list } = drifted(joinedBorder, { [seat]: onPort(link!.port, { shut: true, speed: 10 }) });
    expect(adoptDrift(joinedBorder, layout, list)).toEqual({
      edits: [{ kind: 'changeOutside', link: { ...link!, speed: 10, shut: true } }],
      left: [],
    });
  });

  test('a LAG outside is shut as a whole; one cable of it, and what is routed over it, are not said by the intent', () => {
    const [link] = joinedBorder.outside;
    const lag = { ...link!, lag: [{ port: 'p45', farPort: 'eth5' }] };
    const { intent } = applyEdits(joinedBorder, [{ kind: 'changeOutside', link: lag }, putNeighbourOf()]);
    const seat = configsOf(intent).layout.outward.find((o) => o.a.port === 'p45')!.a.seat;
    const both = drifted(intent, {
      [seat]: (c) => onPort('p45', { shut: true })(onPort('p46', { shut: true })(c)),
    });
    expect(adoptDrift(intent, both.layout, both.list)).toEqual({
      edits: [{ kind: 'changeOutside', link: { ...lag, shut: true } }],
      left: [],
    });
    const one = drifted(intent, {
      [seat]: (c) => onPort('p45', { shut: true })(onPort('bond46', { addresses: ['192.0.2.4/31'] })(c)),
    });
    const { edits, left } = adoptDrift(intent, one.layout, one.list);
    expect([edits, left.map((l) => l.why).sort()]).toEqual([
      [],
      [
        'all cables of the LAG to offing-1 are driven alike, and p45 is not as the others',
        'what is routed over an outside link follows from who is spoken to there',
      ],
    ]);
  });

  test('one leaf of a pair alone is not what a multihomed server can mean: it is said, and nothing is made up', () => {
    const { layout, list } = drifted(skerry, { [seatsOf(paired.rack)[0]!]: onPort(paired.port, { shut: true }) });
    const { edits, left } = adoptDrift(skerry, layout, list);
    expect(edits).toEqual([]);
    expect(left).toEqual([
      expect.objectContaining({
        sentence: `${paired.port} is shut by hand, meant open`,
        why: expect.stringContaining('the other one runs'),
      }),
    ]);
  });

  test('another VLAN becomes another network; one the rack does not carry is named', () => {
    const network = skerry.networks.find(
      (n) => n.racks.includes(single.rack) && n.name !== single.untagged && !single.tagged.includes(n.name),
    )!;
    const to = (vlan: number) => onPort(single.port, { bridging: { untagged: vlan, tagged: [] } });
    const good = drifted(skerry, { [seatOf(single)]: to(network.vlan) });
    expect(adoptDrift(skerry, good.layout, good.list).edits.at(-1)).toEqual({
      kind: 'changeServer',
      port: expect.objectContaining({ server: single.server, untagged: network.name, tagged: [] }),
    });
    const bad = drifted(skerry, { [seatOf(single)]: to(999) });
    expect(adoptDrift(skerry, bad.layout, bad.list).left[0]!.why).toBe(
      `VLAN 999 is no network that rack ${single.rack} carries`,
    );
  });

  test('what follows from the whole fabric, and ports of the fabric itself, are left with the reason', () => {
    const { layout } = configsOf(skerry);
    const link = layout.links[0]!;
    const { list } = drifted(skerry, {
      [link.a.seat]: (c) => ({ ...onPort(link.a.port, { mtu: 1500 })(c), bgp: { ...c.bgp!, multipathRelax: false } }),
    });
    const { edits, left } = adoptDrift(skerry, layout, list);
    expect(edits).toEqual([]);
    expect(left.map((l) => l.why)).toEqual([
      'the intent has no words for this on one switch: it follows from settings of the whole fabric',
      'a port of the fabric itself is always as the layout has it',
    ]);
  });
});
