import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { compileFabric } from '../compile/compileFabric.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { POOLS, skerryIntent } from '../demo/skerry.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import type { ReadSwitch } from '../network/readSwitch.ts';
import { configsOf } from '../testing/fabricOf.ts';
import { sentTogether, type FabricStanding } from './sentTogether.ts';

const skerry = compileFabric(skerryIntent(), configsOf(skerryIntent()).drawn.values, POOLS);
const texts: readonly ReadSwitch[] = skerry.switches.map((s) => ({
  host: s.seat.host,
  config: s.parsed.config,
  unread: s.parsed.unread,
}));
const standing = (switches: readonly ReadSwitch[]): FabricStanding => ({
  switches,
  cables: skerry.cables,
  network: () => modelNetwork(switches, skerry.cables),
});
const rewritten = (hosts: readonly string[], write: (c: SwitchConfig) => SwitchConfig): FabricStanding =>
  standing(texts.map((s) => (hosts.includes(s.host) ? { ...s, config: write(s.config) } : s)));
const before = standing(texts);
const all = texts.map((s) => s.host);

const withPassword =
  (of: (peer: string) => boolean) =>
  (c: SwitchConfig): SwitchConfig => ({
    ...c,
    bgp: {
      ...c.bgp!,
      peers: c.bgp!.peers.map((p) => (of(p.name) ? { ...p, password: 'kept:1' as never } : p)),
    },
  });

describe('what has to be sent together', () => {
  test('a password that all get: all; one that a link gets at both ends: the two; one that one end alone gets: nobody', () => {
    const everywhere = sentTogether(
      before,
      rewritten(
        all,
        withPassword((p) => p === 'FABRIC'),
      ),
    );
    expect(everywhere.groups).toEqual([all]);
    expect([everywhere.ends, everywhere.of]).toEqual([80, 80]);
    const { a, b } = skerry.cables[0]!;
    const peerOf = (host: string, far: string): string =>
      before.network().sessions.find((s) => s.host === host && s.farHost === far)!.peer;
    const link = standing(
      texts.map((s) =>
        s.host === a.host || s.host === b.host
          ? { ...s, config: withPassword((p) => p === peerOf(s.host, s.host === a.host ? b.host : a.host))(s.config) }
          : s,
      ),
    );
    const two = sentTogether(before, link);
    expect(two.groups).toEqual([all.filter((h) => h === a.host || h === b.host)]);
    expect(two.ends).toBe(2);
    expect(two.example?.reason).toMatch(/password/);
    // Down before or after, it is no matter of the order.
    expect(
      sentTogether(
        before,
        rewritten(
          [a.host],
          withPassword(() => true),
        ),
      ).groups,
    ).toEqual([]);
    expect(
      sentTogether(
        link,
        rewritten(
          [a.host],
          withPassword(() => true),
        ),
      ).groups,
    ).toEqual([]);
  });

  test('what sessions do not hang on lets everybody go by himself, and asks for no network', () => {
    const never = (): never => {
      throw new Error('not needed');
    };
    const described = (c: SwitchConfig): SwitchConfig => ({ ...c, vxlans: [], svis: [], lags: [] });
    expect(
      sentTogether({ ...before, network: never }, { ...rewritten(all, described), network: never }).groups,
    ).toEqual([]);
    const timers = (c: SwitchConfig): SwitchConfig => ({
      ...c,
      bgp: { ...c.bgp!, peers: c.bgp!.peers.map((p) => ({ ...p, keepalive: 1 })) },
    });
    expect(sentTogether(before, rewritten(all, timers)).groups).toEqual([]);
    const password = rewritten(
      all,
      withPassword(() => true),
    );
    expect(sentTogether(before, password, () => false).groups).toEqual([]);
  });

  test('held to the network: in any order, sessions are down in between only within a set', () => {
    fc.assert(
      fc.property(
        fc.subarray([...skerry.cables], { minLength: 1, maxLength: 4 }),
        fc.infiniteStream(fc.boolean()),
        (links, coin) => {
          const keyed = (host: string): ReadonlySet<string> =>
            new Set(
              before
                .network()
                .sessions.filter(
                  (s) =>
                    s.host === host &&
                    links.some((l) =>
                      [
                        [l.a, l.b],
                        [l.b, l.a],
                      ].some(([x, y]) => x!.host === host && y!.host === s.farHost && x!.port === s.port),
                    ),
                )
                .map((s) => s.peer),
            );
          const after = standing(
            texts.map((s) => {
              const of = keyed(s.host);
              return of.size === 0 ? s : { ...s, config: withPassword((p) => of.has(p))(s.config) };
            }),
          );
          const { groups } = sentTogether(before, after);
          const setOf = new Map(groups.flatMap((g, i) => g.map((h) => [h, i] as const)));
          // Each set as one, everybody else by himself, some of them before others.
          const first = new Map<number | string, boolean>();
          const isNew = (host: string): boolean => {
            const set = setOf.get(host) ?? host;
            if (!first.has(set)) first.set(set, coin.next().value);
            return first.get(set)!;
          };
          const half = modelNetwork(
            texts.map((s, i) => (isNew(s.host) ? after.switches[i]! : s)),
            skerry.cables,
          );
          expect(half.sessions.filter((s) => !s.up)).toEqual([]);
        },
      ),
      { numRuns: 15 },
    );
  });
});
