import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { DEMO_FABRICS } from '@anthemion/core';
import { startBench } from './bench.ts';
import { demoFleet } from './demoFleet.ts';
import { fleetExists, loadFleet } from './fleet.ts';

/** `bench DIR [FABRIC,…]`: the fleet of the demo, or of some of its fabrics, on loopback ports; what it needs to be reached lies in DIR/bench.json. */
const data = process.argv[2] ?? '.anthemion/bench';
mkdirSync(data, { recursive: true });
const tokenPath = join(data, 'token');
if (!existsSync(tokenPath)) writeFileSync(tokenPath, randomBytes(24).toString('base64url'), { mode: 0o600 });
const token = readFileSync(tokenPath, 'utf8');
const names = process.argv[3]?.split(',') ?? DEMO_FABRICS.map((f) => f.name);
const strange = names.find((name) => !DEMO_FABRICS.some((f) => f.name === name));
if (strange !== undefined) {
  process.stderr.write(`The demo has no fabric “${strange}”: ${DEMO_FABRICS.map((f) => f.name).join(', ')}.\n`);
  process.exit(2);
}
const fabrics = DEMO_FABRICS.filter((f) => names.includes(f.name));
const fleet = fleetExists(data) ? loadFleet(data) : demoFleet(randomBytes(12).toString('base64url'), fabrics);
const bench = await startBench({ data, fleet, token });
writeFileSync(join(data, 'bench.json'), JSON.stringify({ controlUrl: bench.controlUrl, pid: process.pid }), {
  mode: 0o600,
});
process.stdout.write(`bench ready: ${fleet.switches.length} switches\n`);
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => void bench.close().then(() => process.exit(0)));
