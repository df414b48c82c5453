// Measures pattern → text and text → proof at three sizes, each in a process of its own.
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { build } from 'esbuild';
import { root } from '../ready.mjs';

/** The table of docs/figures.md, as lines. */
export async function coreFigures() {
  const bundle = join(root, 'node_modules/.figures.mjs');
  await build({
    entryPoints: [join(root, 'packages/core/src/figures/measure.ts')],
    outfile: bundle,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    packages: 'external',
    logLevel: 'warning',
  });
  const SIZES = [
    [32, 8],
    [64, 8],
    [256, 16],
    [512, 16],
    [512, 32],
    [1024, 32],
  ];
  const measure = (leaves, spines, ...more) => {
    process.stderr.write(`measuring ${leaves} leaves, ${spines} spines ${more.join(' ')}…\n`);
    const done = spawnSync(
      process.execPath,
      ['--max-old-space-size=4096', '--max-semi-space-size=64', bundle, String(leaves), String(spines), ...more],
      { encoding: 'utf8', stdio: ['ignore', 'pipe', 'inherit'] },
    );
    if (done.status !== 0) process.exit(1);
    return JSON.parse(done.stdout);
  };
  const rows = SIZES.map(([l, s]) => measure(l, s));
  const spread = measure(1024, 32, 'spread');
  const single = measure(1024, 32, 'single');
  const both = measure(1024, 32, 'single', 'both');
  const at = (l, s) => rows.find((r) => r.leaves === l && r.spines === s);
  const s = (ms) => (ms < 1000 ? `${Math.round(ms)} ms` : `${(ms / 1000).toFixed(1)} s`);
  const stages = ['intent', 'layout', 'draw', 'derive', 'render', 'parse', 'model', 'judge'];
  const shown = [at(32, 8), at(256, 16), at(1024, 32)];
  const lines = [
    `| | ${shown.map((r) => `${r.leaves} leaves, ${r.spines} spines`).join(' | ')} |`,
    `|---|${shown.map(() => '---:|').join('')}`,
    ...stages.map((k) => `| ${k} | ${shown.map((r) => s(r.stages[k])).join(' | ')} |`),
    `| **pattern → text** | ${shown.map((r) => `**${s(r.toText)}**`).join(' | ')} |`,
    `| **text → proof** | ${shown.map((r) => `**${s(r.toProof)}**`).join(' | ')} |`,
    `| **both** | ${shown.map((r) => `**${s(r.toText + r.toProof)}**`).join(' | ')} |`,
    `| peak memory | ${shown.map((r) => `${(r.peakMiB / 1024).toFixed(2)} GiB`).join(' | ')} |`,
    `| text | ${shown.map((r) => `${(r.bytes / 1e6).toFixed(1)} MB, ${Math.round(r.lines / 1000)}k lines`).join(' | ')} |`,
    `| floor: the same bytes by joining strings | ${shown.map((r) => s(r.floor)).join(' | ')} |`,
    `| text over its floor (derive and render; aim 3) | ${shown.map((r) => `${((r.stages.derive + r.stages.render) / r.floor).toFixed(1)} ×`).join(' | ')} |`,
    `| one edit on one port, text and reading again (aim 60 ms) | ${shown.map((r) => s(r.rewrite)).join(' | ')} |`,
    `| share of the time over the floor | ${shown.map((r) => `${(100 * (1 - r.floor / (r.toText + r.toProof))).toFixed(1)} %`).join(' | ')} |`,
    `| one edit on one port, proved again (aim 300 ms) | ${shown.map((r) => s(r.edit)).join(' | ')} |`,
    `| one edit of a route map that every leaf has, proved again (aim 3 s) | ${shown.map((r) => s(r.policyEdit)).join(' | ')} |`,
    '',
    `Growth when the leaves double, same spines: ${[
      [32, 8, 64],
      [256, 16, 512],
      [512, 32, 1024],
    ]
      .map(
        ([a, sp, b]) =>
          `${a} → ${b}: ${((at(b, sp).toText + at(b, sp).toProof) / (at(a, sp).toText + at(a, sp).toProof)).toFixed(2)}×`,
      )
      .join(', ')}.`,
    '',
    `1,056 switches with 3,790 networks in 200 VRFs, each on 20 racks (a VLAN means the same everywhere, so there are no more): text → proof ${s(spread.toProof)} (aim 10 s; reading ${s(spread.stages.parse)}, model ${s(spread.stages.model)}, rules ${s(spread.stages.judge)}), ${(spread.peakMiB / 1024).toFixed(2)} GiB (aim 1.5).`,
    ...[
      ['of one AS, led by OSPF', single],
      ['of one AS, led by OSPF, in both families', both],
    ].flatMap(([which, { stages: made, floor, toProof, peakMiB, edit, policyEdit }]) => [
      '',
      `The same 1,024 leaves and 32 spines ${which}: text ${((made.derive + made.render) / floor).toFixed(1)} × its floor of ${s(floor)} (aim 3), text → proof ${s(toProof)} (aim 8 s; reading ${s(made.parse)}, model ${s(made.model)}, rules ${s(made.judge)}), ${(peakMiB / 1024).toFixed(2)} GiB; one edit ${s(edit)}, of a route map that every leaf has ${s(policyEdit)} (aim 3 s).`,
    ]),
  ];
  return lines;
}
