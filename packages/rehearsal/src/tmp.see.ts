import { modelNetwork } from '@anthemion/core';
import { withIpv6 } from './generate.ts';
const [count, seed, i] = process.argv.slice(2).map(Number);
const f = withIpv6(count!, seed!)[i!]!;
const m = modelNetwork(f.switches, f.cables, f.hosts);
for (const s of m.sessions.filter((x) => x.peer.includes(':')).slice(0, 6))
  console.log(s.host, s.peer, s.port, s.farHost, s.up, s.reason, s.ipv6, s.ipv6Reason);
