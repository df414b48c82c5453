import { describe, expect, test } from 'vitest';
import { busyPorts, QUIET_BITS, trafficBetween, type Octets } from './traffic.ts';

const counts = (of: Record<string, readonly [number, number]>): Map<string, Octets> =>
  new Map(Object.entries(of).map(([port, [into, out]]) => [port, { in: into, out }]));

describe('what goes over ports', () => {
  test('octets between two readings are bits per second, the busiest port first', () => {
    const before = counts({ p1: [1000, 0], p2: [0, 5e9], p3: [7, 7] });
    const after = counts({ p1: [1250, 0], p2: [0, 5.5e9], p3: [7, 7] });
    expect(trafficBetween(before, after, 2)).toEqual({
      ports: [
        { port: 'p2', in: 0, out: 2e9 },
        { port: 'p1', in: 1000, out: 0 },
        { port: 'p3', in: 0, out: 0 },
      ],
      anew: [],
    });
  });
  test('of counters that began anew, or are new, nothing is known', () => {
    const before = counts({ p1: [1000, 1000], p2: [1000, 1000] });
    expect(trafficBetween(before, counts({ p1: [10, 2000], p2: [2000, 10], p3: [5, 5] }), 1)).toEqual({
      ports: [],
      anew: ['p1', 'p2', 'p3'],
    });
  });
  test('a port is busy from more than neighbours need, in either direction', () => {
    const port = (into: number, out: number) => ({ port: 'p1', in: into, out });
    expect(busyPorts({ ports: [port(QUIET_BITS, QUIET_BITS)] })).toEqual([]);
    for (const one of [port(QUIET_BITS + 1, 0), port(0, QUIET_BITS + 1)])
      expect(busyPorts({ ports: [one] })).toEqual([one]);
  });
});
