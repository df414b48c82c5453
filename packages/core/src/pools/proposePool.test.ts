import { expect, test } from 'vitest';
import { POOLS } from '../demo/skerry.ts';
import type { Pool } from './pool.ts';
import { checkServes, POOL_ROLES, proposePool } from './proposePool.ts';
import { suitsRole } from './demands.ts';

const pool = (name: string, range: string, serves?: Pool['serves']): Pool => ({
  name,
  kind: 'ipv4',
  ranges: [range],
  ...(serves ? { serves } : {}),
});
const proposed = (role: 'loopback' | 'link' | 'subnet', ...pools: Pool[]) =>
  proposePool(pools, role, 'tarn', ['skerry']);

test('a pool that says what it is for comes first, and is proposed for nothing else', () => {
  const links = pool('core', '10.254.0.0/16', ['link']);
  const any = pool('addresses', '10.255.0.0/24');
  // The one that comes first in the list is for links: loopbacks are not drawn from it.
  expect(proposed('loopback', links, any)).toEqual({
    pool: 'addresses',
    why: 'the first of this kind: is it meant for these?',
  });
  expect(proposed('loopback', links)).toEqual({ pool: '', why: '' });
  expect(proposed('link', any, links)).toEqual({ pool: 'core', why: 'it says that it is for these' });
  expect(proposed('link', pool('fabric-links', '10.1.0.0/16'), links).pool).toBe('core');
});

test('names decide where nobody said: what it is for, then whose it is; another fabric’s is asked about', () => {
  const theirs = pool('skerry-tenants', '10.32.0.0/16');
  const ours = pool('tarn-tenants', '10.33.0.0/16');
  expect(proposed('subnet', theirs, ours)).toEqual({ pool: 'tarn-tenants', why: 'named for this fabric' });
  expect(proposed('subnet', theirs)).toEqual({
    pool: 'skerry-tenants',
    why: 'named for skerry: is it meant for both?',
  });
  expect(proposed('subnet', theirs, pool('tenants', '10.34.0.0/16'))).toEqual({
    pool: 'tenants',
    why: 'proposed by its name',
  });
  expect(proposed('loopback', pool('loopbacks', '10.255.0.0/24'), ours).pool).toBe('loopbacks');
});

test('a pool cannot be for what it does not hold; of the demo’s each role has one', () => {
  for (const role of POOL_ROLES) {
    const { pool: name } = proposePool(POOLS, role, 'skerry', []);
    expect(
      suitsRole(
        POOLS.find((p) => p.name === name)!,
        role,
      ),
    ).toBe(true);
  }
  expect(checkServes(pool('a', '10.0.0.0/16', ['loopback', 'link']))).toEqual([]);
  expect(checkServes(pool('a', '10.0.0.0/16', ['link', 'vni'])).map((f) => [f.path, f.message])).toEqual([
    ['/serves/1', 'It does not hold what is drawn for VNIs.'],
  ]);
  expect(
    checkServes({ name: 'six', kind: 'ipv6', ranges: ['fd00:31::/112'], serves: ['subnet6'] }).map((f) => f.message),
  ).toEqual(['Its ranges hold nothing of the length that is drawn for IPv6 subnets of tenants.']);
});
