import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { DEMO_FABRICS } from '@anthemion/core';
import { startBench } from './bench.ts';
import { demoFleet } from './demoFleet.ts';
import { fleetExists, loadFleet } from './fleet.ts';

/** `bench DIR`: the demo's fleet on loopback ports; what it needs to be reached lies in DIR/bench.json. */
const data = process.argv[2] ?? '.anthemion/bench';
mkdirSync(data, { recursive: true });
const tokenPath = join(data, 'token');
if (!existsSync(tokenPath)) writeFileSync(tokenPath, randomBytes(24).toString('base64url'), { mode: 0o600 });
const token = readFileSync(tokenPath, 'utf8');
const fleet = fleetExists(data) ? loadFleet(data) : demoFleet(randomBytes(12).toString('base64url'), DEMO_FABRICS);
const bench = await startBench({ data, fleet, token });
writeFileSync(join(data, 'bench.json'), JSON.stringify({ controlUrl: bench.controlUrl, pid: process.pid }), {
  mode: 0o600,
});
process.stdout.write(`bench ready: ${fleet.switches.length} switches\n`);
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => void bench.close().then(() => process.exit(0)));
