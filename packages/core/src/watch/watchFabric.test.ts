import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { skerryIntent } from '../demo/skerry.ts';
import { applyEdit, applyEdits } from '../intent/edits/index.ts';
import type { FabricIntent } from '../intent/intent.ts';
import type { Cable, CableEnd } from '../network/cablePlan.ts';
import { shapeOf } from '../patterns/patterns.ts';
import { layOut } from '../layout/layout.ts';
import { bundledIntents } from '../testing/lagsOf.ts';
import { borderIntents, intents, singleIntents } from '../testing/fabricOf.ts';
import { withUnderlay6 } from '../testing/familiesOf.ts';
import { portTo } from '../config/seatNeighbours.ts';
import { endOf, planOf, readFabric, type Damage } from '../testing/readFabric.ts';
import { knownSpeakersIntents } from '../testing/speakersOf.ts';
import { isOnlyUnread } from './cause.ts';
import { watchFabric } from './watchFabric.ts';

const skerry = skerryIntent();
const plan = planOf(skerry);
const cablesOf = (links: typeof plan.links): Cable[] => links.map(({ a, b }) => ({ a, b }));
const link = plan.links[5]!;

describe('what is wrong, cause before symptoms', () => {
  test('a fabric that runs as meant has nothing wrong, whatever its shape', () => {
    fc.assert(
      fc.property(intents, (intent) => {
        const report = watchFabric(readFabric(intent));
        expect(report.causes).toEqual([]);
        expect(report.links.every((l) => l.stand === 'up')).toBe(true);
        expect(report.sessions.every((s) => s.stand === 'up')).toBe(true);
        expect(report.sessions).toHaveLength(report.links.length);
      }),
      { numRuns: 25 },
    );
  });

  test('where OSPF leads, sessions are between loopbacks: one for two switches, which a lost cable does not close; neighbours by OSPF are on every link', () => {
    fc.assert(
      fc.property(
        singleIntents.filter((i) => shapeOf(i) !== 'collapsed'),
        fc.nat(),
        fc.boolean(),
        (plain, n, six) => {
          const intent = six ? withUnderlay6(plain) : plain;
          const { links } = planOf(intent);
          const report = watchFabric(readFabric(intent));
          expect(report.causes).toEqual([]);
          const { links: laid } = layOut(intent);
          const pairs = new Set(laid.filter((l) => l.kind === 'fabric').map((l) => `${l.a.seat} ${l.b.seat}`));
          expect(report.sessions).toHaveLength(pairs.size);
          expect(report.sessions.every((s) => s.stand === 'up' && s.port === null)).toBe(true);
          const carrying = laid.filter((l) => l.kind !== 'keep-alive').length;
          expect(report.adjacencies.map((a) => [a.by, a.stand]).sort()).toEqual(
            (six ? ['OSPF', 'OSPFv3'] : ['OSPF']).flatMap((by) => Array(carrying).fill([by, 'up']) as string[][]),
          );
          fc.pre(links.length > 0);
          const pulled = links[n % links.length]!;
          const { causes, sessions, adjacencies } = watchFabric(
            readFabric(intent, { cables: cablesOf(links.filter((l) => l !== pulled)) }),
          );
          expect(causes.map((c) => c.kind)).toEqual(['cable']);
          // Whatever is down because of it hangs on it.
          const down = [...sessions, ...adjacencies].filter((s) => s.stand === 'down');
          expect(causes[0]!.sessions).toHaveLength(down.length);
        },
      ),
      { numRuns: 40 },
    );
  });

  test('two that are no neighbours by OSPFv3, with signal at both ends, are a line; one that is edited by hand takes it along; what was never asked is unread', () => {
    const base = withUnderlay6(skerry);
    const intent = { ...base, settings: { ...base.settings, asnScheme: 'single' as const } };
    const inputs = readFabric(intent);
    const at = planOf(intent).links[0]!;
    const without = (keep: (key: string) => boolean, hosts: readonly string[]): typeof inputs => ({
      ...inputs,
      switches: inputs.switches.map((s) =>
        hosts.includes(s.host)
          ? { ...s, seen: { ...s.seen!, adjacent: new Map([...s.seen!.adjacent!].filter(([key]) => keep(key))) } }
          : s,
      ),
    });
    const gone = watchFabric(without((key) => key !== `OSPFv3 ${at.a.port}`, [at.a.host]));
    expect(gone.causes.map((c) => [c.kind, c.title, c.maybeSettling])).toEqual([
      ['session', `${at.b.host} and ${at.a.host} are no neighbours by OSPFv3`, true],
    ]);
    expect(gone.causes[0]!.sessions).toEqual([`${at.b.host} – ${at.a.host} over ${at.b.port} by OSPFv3`]);
    const own = planOf(intent).meant.get(at.a.host)!;
    const slow = {
      ...own,
      ospf6Ports: own.ospf6Ports!.map((p) => (p.name === at.a.port ? { ...p, hello: 20 } : p)),
    };
    const edited = watchFabric(readFabric(intent, { runs: { [at.a.host]: slow } }));
    expect(edited.causes.map((c) => [c.kind, c.hosts, c.sessions.length])).toEqual([['edited', [at.a.host], 1]]);
    const old = watchFabric({
      ...inputs,
      switches: inputs.switches.map((s) => {
        const { adjacent: _, ...seen } = s.seen!;
        return { ...s, seen };
      }),
    });
    expect(new Set(old.adjacencies.map((a) => a.stand))).toEqual(new Set(['unread']));
    expect(old.causes).toEqual([]);
  });

  test('servers that are known to speak: each session is seen, and is one line where it is down', () => {
    fc.assert(
      fc.property(knownSpeakersIntents, (intent) => {
        const known = intent.speakers.flatMap((s) => (s.closed ? [] : (s.known ?? []).map((k) => k.address))).sort();
        const servers = (of: Damage) => {
          const { sessions, causes } = watchFabric(readFabric(intent, of));
          return { sessions: sessions.filter((s) => known.includes(s.peer)), causes };
        };
        const well = servers({});
        expect([well.sessions.map((s) => s.peer).sort(), well.causes]).toEqual([known, []]);
        expect(well.sessions.every((s) => s.stand === 'up' && s.port !== null)).toBe(true);
        const lost = servers({ nobodyOutside: true }).causes.map((c) => c.title);
        for (const s of well.sessions)
          expect(lost).toContain(`Session of ${s.vrf} from ${s.host} to ${s.peer} is down`);
      }),
      { numRuns: 8 },
    );
  });

  test('sessions of tenants to routers outside: each is seen, and one line where it is down; a hand edit takes it along', () => {
    fc.assert(
      fc.property(borderIntents, (intent) => {
        const outside = (of: Damage) => {
          const { sessions, causes } = watchFabric(readFabric(intent, of));
          return { sessions: sessions.filter((s) => s.vrf !== undefined), causes };
        };
        const well = outside({});
        expect(well.sessions.map((s) => [s.vrf, s.peer, s.stand]).sort()).toEqual(
          intent.neighbours.map((n) => [n.vrf, n.far, 'up']).sort(),
        );
        expect(well.sessions.map((s) => s.port).sort()).toEqual(intent.neighbours.map(portTo).sort());
        expect(well.causes).toEqual([]);
        const lost = outside({ nobodyOutside: true });
        expect(lost.causes.map((c) => c.title).sort()).toEqual(
          well.sessions.map((s) => `Session of ${s.vrf} from ${s.host} to ${s.peer} is down`).sort(),
        );
        const [first] = well.sessions;
        if (!first) return;
        // Without signal at our end that is said; a VLAN has the signal of its port.
        const inputs = readFabric(intent, { nobodyOutside: true });
        const front = first.port!.replace(/\.\d+$/, '');
        const dark = watchFabric({
          ...inputs,
          switches: inputs.switches.map((s) =>
            s.host === first.host
              ? { ...s, seen: { ...s.seen!, signal: new Map([...s.seen!.signal, [front, false]]) } }
              : s,
          ),
        });
        const said = dark.causes.find((c) => c.key === `session:${first.host} ${first.vrf} ${first.peer}`)!;
        expect([said.details[1], said.maybeSettling]).toEqual([
          `${front} says no signal: look at its cable, and whether the port at the far end is open`,
          false,
        ]);
        const { meant } = planOf(intent);
        const own = meant.get(first.host)!;
        const silent = {
          ...own,
          bgp: { ...own.bgp!, vrfs: own.bgp!.vrfs.map((v) => ({ ...v, peers: [] })) },
        };
        const edited = outside({ runs: { [first.host]: silent } });
        expect(edited.causes.map((c) => [c.kind, c.hosts])).toEqual([['edited', [first.host]]]);
        expect(edited.causes[0]!.sessions).toHaveLength(well.sessions.filter((s) => s.host === first.host).length);
      }),
      { numRuns: 30 },
    );
  });

  test('a LAG outside that lost a cable is a line while sessions go on; without any, they hang on it', () => {
    fc.assert(
      fc.property(bundledIntents, fc.nat(), (intent, n) => {
        const inputs = readFabric(intent);
        expect(watchFabric(inputs).causes).toEqual([]);
        const lags = inputs.switches.flatMap(({ host, meant }) =>
          meant!.ports.flatMap(({ name, members }) => (members ? [{ host, name, members }] : [])),
        );
        const lag = lags[n % lags.length];
        if (!lag) return;
        const { host, name, members } = lag;
        const over = ({ port }: { readonly port: string | null }) => port === name || port?.startsWith(`${name}.`);
        const spoken = watchFabric(inputs).sessions.filter((s) => s.host === host && over(s)).length;
        expect(spoken).toBeGreaterThan(0);
        /** The switch says that some of its ports have no signal, and who is not there. */
        const without = (dark: readonly string[]) =>
          watchFabric({
            ...inputs,
            switches: inputs.switches.map((s) => {
              if (s.host !== host) return s;
              const signal = new Map([...s.seen!.signal, ...members.map((m) => [m, !dark.includes(m)] as const)]);
              const far = intent.neighbours.map((o) => o.far);
              const peers = new Map(
                [...s.seen!.peers].filter(
                  ([key]) => dark.length < members.length || !far.some((f) => key.endsWith(` ${f}`)),
                ),
              );
              return { ...s, seen: { ...s.seen!, signal, peers } };
            }),
          });
        const one = without(members.slice(0, 1));
        if (members.length > 1)
          expect(one.causes.map((c) => [c.kind, c.title, c.details, c.sessions])).toEqual([
            [
              'cable',
              `${name} of ${host} has ${members.length - 1} of ${members.length} cables left`,
              [`no signal on ${members[0]}`],
              [],
            ],
          ]);
        const none = without(members).causes.find((c) => c.key === `lag:${host} ${name}`)!;
        expect([none.title, none.sessions.length]).toEqual([`No cable of ${name} of ${host} has signal`, spoken]);
        // Taken out of service, nothing of it is judged.
        const left = watchFabric({
          ...inputs,
          switches: inputs.switches.map((s) =>
            s.host === host
              ? { ...s, out: true, seen: { ...s.seen!, signal: new Map(members.map((m) => [m, false])) } }
              : s,
          ),
        });
        expect(left.causes.map((c) => c.key)).not.toContain(`lag:${host} ${name}`);
      }),
      { numRuns: 25 },
    );
  });

  test('one pulled cable is one line, with its session and its routes on it', () => {
    const cables = cablesOf(plan.links.filter((l) => l !== link));
    const { causes, sessions } = watchFabric(readFabric(skerry, { cables }));
    expect(causes).toHaveLength(1);
    expect(causes[0]).toMatchObject({
      kind: 'cable',
      key: `cable:${link.id}`,
      title: `Cable out between ${link.b.host} ${link.b.port} and ${link.a.host} ${link.a.port}`,
      details: ['both ends say no signal'],
      sessions: [expect.stringContaining(link.a.host)],
    });
    expect(causes[0]!.routes!.fewer).toBeGreaterThan(0);
    expect(sessions.filter((s) => s.stand === 'down')).toHaveLength(1);
  });

  test('any pulled cables are as many lines, and every session that is down hangs on one', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.nat(plan.links.length - 1), { maxLength: 8 }), (pulled) => {
        const cables = cablesOf(plan.links.filter((_, i) => !pulled.includes(i)));
        const report = watchFabric(readFabric(skerry, { cables }));
        const down = report.sessions.filter((s) => s.stand === 'down').length;
        expect(report.causes.map((c) => c.kind)).toEqual(pulled.map(() => 'cable'));
        expect(report.causes.flatMap((c) => c.sessions)).toHaveLength(down);
        expect(down).toBe(pulled.length);
      }),
      { numRuns: 20 },
    );
  });

  test('a switch without power is one line: its links and sessions hang on it', () => {
    const report = watchFabric(readFabric(skerry, { dead: [link.b.host] }));
    expect(report.causes.map((c) => c.title)).toEqual([`${link.b.host} is gone`]);
    expect(report.causes[0]!.links).toHaveLength(plan.links.filter((l) => l.b.host === link.b.host).length);
    expect(report.causes[0]!.sessions).toHaveLength(report.causes[0]!.links.length);
  });

  test('promise 6: a server is said to be cut off when all its legs are, whatever they are lost to together', () => {
    const hosts = [...plan.meant.keys()];
    let cut = 0;
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.constantFrom(...hosts), { maxLength: 3 }),
        fc.uniqueArray(fc.constantFrom(...plan.servers.map((s) => s.host)), { maxLength: 2 }),
        fc.uniqueArray(fc.constantFrom(...plan.links), { maxLength: 4 }),
        (dead, alone, pulled) => {
          const lost = plan.links.filter((l) => alone.includes(l.a.host) || pulled.includes(l));
          const cables = cablesOf(plan.links.filter((l) => !lost.includes(l)));
          const { causes } = watchFabric(readFabric(skerry, { cables, dead }));
          const serves = (host: string): boolean =>
            !dead.includes(host) &&
            plan.links.some((l) => l.a.host === host && !lost.includes(l) && !dead.includes(l.b.host));
          const gone = new Set(plan.servers.map((s) => s.server));
          for (const leg of plan.servers) if (serves(leg.host)) gone.delete(leg.server);
          cut += gone.size;
          expect(new Set(causes.flatMap((c) => c.serversCut))).toEqual(gone);
        },
      ),
      { numRuns: 60 },
    );
    expect(cut).toBeGreaterThan(0);
  });

  test('promise 6: of a switch that cannot be read, and of its servers, nothing is claimed', () => {
    const leaf = plan.servers[0]!.host;
    expect(watchFabric(readFabric(skerry, { mute: [leaf] })).causes.map(isOnlyUnread)).toEqual([true]);
    const gone = watchFabric(readFabric(skerry, { dead: [leaf] })).causes;
    expect(gone.map(isOnlyUnread)).toEqual([false]);
    expect(gone[0]!.serversCut.length + gone[0]!.serversHalf.length).toBeGreaterThan(0);
  });

  test('many that fall silent are one line, however many they are, with each reason once', () => {
    const hosts = [...plan.meant.keys()];
    const { causes } = watchFabric(readFabric(skerry, { mute: hosts }));
    expect(causes.map((c) => [c.title, c.hosts])).toEqual([[`${hosts.length} switches cannot be read`, hosts]]);
    const leaves = hosts.filter((h) => plan.links.some((l) => l.a.host === h));
    const some = watchFabric(readFabric(skerry, { mute: leaves.slice(0, 5) })).causes;
    expect(some.map((c) => c.key)).toEqual(causes.map((c) => c.key));
    expect(some[0]!.details).toContain('5 of them are still seen by their neighbours: they run');
    expect(watchFabric(readFabric(skerry, { mute: hosts.slice(0, 2) })).causes).toHaveLength(2);
    const read = readFabric(skerry, { mute: leaves.slice(0, 5) });
    const switches = read.switches.map((s) =>
      s.host === leaves[1]
        ? { ...s, why: 'the account is refused' }
        : { ...s, why: s.why && `${s.why} from ${s.host}` },
    );
    const mixed = watchFabric({ ...read, switches }).causes;
    expect(mixed).toHaveLength(1);
    expect(mixed[0]!.details).toContain(`${leaves[1]}: the account is refused`);
    expect(mixed[0]!.details[0]).toMatch(/^sk-lf-01, sk-lf-03, sk-lf-04, sk-lf-05: no answer from/);
  });

  test('a switch that only does not answer is unread, not gone: its neighbours still see it', () => {
    const report = watchFabric(readFabric(skerry, { mute: [link.b.host] }));
    expect(report.causes.map((c) => [c.kind, c.title])).toEqual([['unread', `${link.b.host} cannot be read`]]);
    expect(report.causes[0]!.details).toContain(
      'its neighbours still see it: it runs, only its management does not answer',
    );
    expect(report.sessions.filter((s) => s.stand === 'down')).toEqual([]);
  });

  test('a port shut by hand is said as such; link and session hang on the hand edit', () => {
    const meant = plan.meant.get(link.a.host)!;
    const runs = {
      [link.a.host]: { ...meant, ports: meant.ports.map((p) => (p.name === link.a.port ? { ...p, shut: true } : p)) },
    };
    const { causes } = watchFabric(readFabric(skerry, { runs }));
    expect(causes).toHaveLength(1);
    expect(causes[0]).toMatchObject({ kind: 'edited', title: `${link.a.host} was edited by hand` });
    expect(causes[0]!.details).toEqual([`${link.a.port} is shut by hand, meant open`]);
    expect(causes[0]!.links).toHaveLength(1);
    expect(causes[0]!.sessions).toHaveLength(1);
  });

  test('a link that is meant to be shut rests: nothing is wrong with it, until somebody opens one of its ends', () => {
    const { links: laid, seatById } = layOut(skerry);
    const [rests] = laid as [(typeof laid)[number]];
    const { intent } = applyEdit(skerry, { kind: 'shutLink', link: rests.id });
    const stands = (of: Damage) => {
      const { causes, links } = watchFabric(readFabric(intent, of));
      return [causes.map((c) => c.kind), links.filter((l) => l.stand !== 'up').map((l) => [l.id, l.stand])];
    };
    expect(stands({})).toEqual([[], [[rests.id, 'at rest']]]);
    const host = seatById.get(rests.a.seat)!.host;
    const meant = planOf(intent).meant.get(host)!;
    const opened = meant.ports.map(({ shut: _, ...p }) => p);
    expect(stands({ runs: { [host]: { ...meant, ports: opened } } })).toEqual([['edited'], [[rests.id, 'at rest']]]);
  });

  test('a switch that is drained is no trouble; it is said what still hangs on it, and whose last leg another then has', () => {
    const drained = (...seats: string[]) =>
      applyEdits(
        skerry,
        seats.map((seat) => ({ kind: 'drainSeat' as const, seat })),
      ).intent;
    const stands = (intent: FabricIntent, of: Damage = {}) => watchFabric(readFabric(intent, of));
    const { causes, drained: said } = stands(drained('leaf-7a', 'leaf-2'));
    expect(causes).toEqual([]);
    const on2 = skerry.ports.filter((p) => p.rack === 2).map((p) => p.server);
    expect(said).toEqual([
      { host: 'sk-lf-02', asks: true, stillOver: 0, serversAlone: on2 },
      { host: 'sk-lf-07a', asks: true, stillOver: 0, serversAlone: [] },
    ]);
    const [spine] = stands(drained('spine-1')).drained;
    expect(spine).toEqual({ host: 'sk-sp-01', asks: true, stillOver: 0, serversAlone: [] });
    // Ways to a leaf that is drained too are the last wherever they lead, so that over the spine is as good as others.
    const [both] = stands(drained('spine-1', 'leaf-2')).drained;
    expect(both!.stillOver).toBe(layOut(skerry).seats.filter((s) => s.rack !== undefined).length - 1);
    // It is meant to be, and is not yet.
    const before = planOf(skerry).meant.get('sk-sp-01')!;
    expect(stands(drained('spine-1'), { runs: { 'sk-sp-01': before } }).drained).toEqual([
      { host: 'sk-sp-01', asks: false, stillOver: expect.any(Number) as number, serversAlone: [] },
    ]);
    // The other half is all that its servers have.
    const dead = { dead: ['sk-lf-07b'] };
    const shared = skerry.ports.filter((p) => p.rack === 7 && p.side === 'both').map((p) => p.server);
    const lost = (intent: FabricIntent) => stands(intent, dead).causes.map((c) => [c.serversCut, c.serversHalf]);
    expect(lost(skerry)).toEqual([[[], shared]]);
    expect(lost(drained('leaf-7a'))).toEqual([[shared, []]]);
  });

  test('a neighbour taken away by hand explains the session, at whichever end it is asked', () => {
    const meant = plan.meant.get(link.a.host)!;
    const peer = meant.bgp!.peers.find((p) => p.kind !== 'group')!;
    const runs = {
      [link.a.host]: { ...meant, bgp: { ...meant.bgp!, peers: meant.bgp!.peers.filter((p) => p !== peer) } },
    };
    const { causes } = watchFabric(readFabric(skerry, { runs }));
    expect(causes.map((c) => [c.kind, c.sessions.length])).toEqual([['edited', 1]]);
  });

  test('servers on a port that is shut are cut off or left with one leg', () => {
    const leg = plan.servers.find((s) => plan.servers.filter((x) => x.server === s.server).length === 2)!;
    const meant = plan.meant.get(leg.host)!;
    const runs = {
      [leg.host]: { ...meant, ports: meant.ports.map((p) => (p.name === leg.port ? { ...p, shut: true } : p)) },
    };
    const { causes } = watchFabric(readFabric(skerry, { runs }));
    expect(causes[0]!.serversHalf).toEqual([leg.server]);
    expect(causes[0]!.serversCut).toEqual([]);
  });
});

describe('cables in wrong ports', () => {
  /** Makes the moves that are proposed on the cables as they lie. */
  const moved = (
    cables: readonly Cable[],
    moves: readonly { from: CableEnd; to: CableEnd; stays: CableEnd }[],
  ): Cable[] =>
    cables.map((c) => {
      const move = moves.find(
        (m) =>
          (endOf(m.stays) === endOf(c.a) && endOf(m.from) === endOf(c.b)) ||
          (endOf(m.stays) === endOf(c.b) && endOf(m.from) === endOf(c.a)),
      );
      return move ? { a: move.stays, b: move.to } : c;
    });
  const asSet = (cables: readonly Cable[]): string[] =>
    cables.map((c) => [endOf(c.a), endOf(c.b)].sort().join(' – ')).sort();

  test('two swapped cables are one line and two plugs at one switch', () => {
    const [x, y] = plan.links.filter((l) => l.b.host === link.b.host);
    const cables = cablesOf(plan.links).map((c) =>
      endOf(c.b) === endOf(x!.b) ? { ...c, b: y!.b } : endOf(c.b) === endOf(y!.b) ? { ...c, b: x!.b } : c,
    );
    const { causes } = watchFabric(readFabric(skerry, { cables }));
    expect(causes).toHaveLength(1);
    expect(causes[0]!.kind).toBe('miscabled');
    expect(new Set(causes[0]!.moves.flatMap((m) => [m.from.host, m.to.host]))).toEqual(new Set([link.b.host]));
    expect(causes[0]!.moves).toHaveLength(2);
    expect(asSet(moved(cables, causes[0]!.moves))).toEqual(asSet(cablesOf(plan.links)));
  });

  test('whatever is mixed up, the proposed moves mend it, with no more plugs than cables that are wrong', () => {
    fc.assert(
      fc.property(
        fc.shuffledSubarray([...plan.links], { minLength: 2, maxLength: 7 }),
        fc.boolean(),
        (mixed, atSpine) => {
          // Each plug of one side goes where the next one's belongs.
          const goes = new Map(mixed.map((l, i) => [l.id, mixed[(i + 1) % mixed.length]!]));
          const cables = plan.links.map((l): Cable => {
            const next = goes.get(l.id);
            return next ? (atSpine ? { a: l.a, b: next.b } : { a: next.a, b: l.b }) : { a: l.a, b: l.b };
          });
          const { causes } = watchFabric(readFabric(skerry, { cables }));
          const moves = causes.flatMap((c) => c.moves);
          expect(causes.map((c) => c.kind)).toEqual(['miscabled']);
          expect(moves.length).toBeLessThanOrEqual(mixed.length);
          expect(asSet(moved(cables, moves))).toEqual(asSet(cablesOf(plan.links)));
        },
      ),
      { numRuns: 40 },
    );
  });
});
