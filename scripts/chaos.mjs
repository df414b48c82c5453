// npm run chaos: kill -9 at random moments of rollouts, edits, seeding and migration, with random faults on the switches.
//   npm run chaos -- [--kills N] [--switches N] [--seed N] [--write]
// --write puts the figures into docs/chaos.md.
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { built } from './built.mjs';
import { ready, root, run } from './ready.mjs';

const args = process.argv.slice(2);
const value = (name, fallback) => (args.includes(name) ? args[args.indexOf(name) + 1] : fallback);
await ready();
built();
const folder = mkdtempSync(join(tmpdir(), 'chaos-'));
const figures = join(folder, 'figures.json');
const env = {
  ...process.env,
  ANTHEMION_KILLS: value('--kills', '100'),
  ANTHEMION_SWITCHES: value('--switches', '64'),
  ANTHEMION_SEED: value('--seed', '20261125'),
  ANTHEMION_FIGURES: figures,
};
const status = run(join(root, 'node_modules/.bin/vitest'), ['run', '--config', 'vitest.chaos.config.ts'], { env });
if (status === 0) {
  const f = JSON.parse(readFileSync(figures, 'utf8'));
  process.stdout.write(`${JSON.stringify(f, null, 1)}\n`);
  if (args.includes('--write')) {
    const rows = Object.entries(f).map(([k, v]) => `| ${k} | ${v} |`);
    writeFileSync(
      join(root, 'docs/chaos.md'),
      `# Chaos

\`npm run chaos -- --write\` kills the server with \`kill -9\` at random moments (of rollouts, edits, the making of a
fabric, seeding and migration) while switches of the bench are unreachable, refuse text, are slow or die before they are
confirmed. After each kill the server is started again; whenever it comes to rest, every switch must run what it was
confirmed with, be it the text before or the text that was meant; no apply may have reached a switch twice; every switch
that was touched must have its outcome in the log; \`integrity_check\`, foreign keys, ledger, seats and revisions must be
sound. \`npm test\` holds a short run of the same. The last long run:

| | |
| --- | --- |
${rows.join('\n')}
`,
    );
  }
}
rmSync(folder, { recursive: true, force: true });
process.exitCode = status;
