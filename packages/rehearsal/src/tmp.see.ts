import fc from 'fast-check';
import { ipv6Choices } from '@anthemion/core/testing/ipv6Of';
import { withIpv6 } from './generate.ts';
const S = 20261126;
const f = withIpv6(3, S);
for (const k of [1, 2])
  console.log(
    k,
    f[k]!.switches.map((s) => s.host).join(' '),
    f[k]!.hosts.map((h) => h.ip).join(' '),
    JSON.stringify(fc.sample(ipv6Choices, { numRuns: 1, seed: S + k })[0]),
  );
