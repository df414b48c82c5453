import fc from 'fast-check';
import { ipv6Choices } from '@anthemion/core/testing/ipv6Of';
import { withIpv6 } from './generate.ts';
import { findPrograms } from './programs.ts';
import { rehearse } from './rehearse.ts';
const programs = findPrograms();
if (typeof programs === 'string') throw new Error(programs);
const [count, seed, only] = process.argv.slice(2).map(Number);
const folders = withIpv6(count!, seed!);
for (const [i, f] of folders.entries()) {
  const [c] = fc.sample(ipv6Choices, { numRuns: 1, seed: seed! + i });
  if (only !== undefined && i !== only) continue;
  if (process.env['OSPF'] && c!.led === 'bgp') continue;
  const r = await rehearse(f, programs, { sizes: false });
  console.log(i, f.switches.length, JSON.stringify(c));
  console.log('   ', JSON.stringify(r.compared));
  console.log(' refused', JSON.stringify(r.refused).slice(0, 500), 'strays', JSON.stringify(r.strays).slice(0, 800));
  for (const d of r.differences.slice(0, 40)) console.log('  ', JSON.stringify(d));
  for (const b of r.unsureBecause ?? []) console.log('   ?', b);
}
