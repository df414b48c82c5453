import {
  folderTexts,
  FRR_TRIALS,
  linux,
  readLanding,
  readSwitchFolder,
  type FrrLanding,
  type SwitchFolder,
} from '@anthemion/core';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { parseArgs } from 'node:util';
import { folderFromServer } from './fromServer.ts';
import { fuzz, FUZZ_DOCUMENTS, type FuzzOptions } from './fuzz.ts';
import { FABRIC_KINDS, ofKind } from './generate.ts';
import { frrRelease, landingsOn } from './landings.ts';
import { MISTAKE_KINDS, type MistakeKind } from './mistakes.ts';
import { findPrograms, type Programs } from './programs.ts';
import { agrees, onlySwitches, rehearse, type Rehearsed } from './rehearse.ts';
import { shrink } from './shrink.ts';

const USAGE = `rehearse DIR [--only HOST,HOST,…]      run the switches of a folder (as compile writes it) on real daemons
rehearse --generate N [--seed S] [--of ospf|outside|filters]
                                      the same with N random fabrics over all settings; with --of those that OSPF leads, of
                                      which a tenant speaks to routers outside, or with filters
  --bird                              with any of these: routers that have no EVPN run BIRD instead of FRR, where what they say
                                      can be told to it
rehearse --fuzz N [--seed S] [--kinds drop,add,…] [--of plain|ospf|outside] [--in interfaces] [--keep DIR]
                                      N random mistakes, one at a time, in the routing of random fabrics that run, of each kind
                                      in turn, or with --of of one; --in says in which document, frr.conf else; --keep
                                      takes switches out of what differs as long as it does, and writes it there
rehearse --lines [--write]            write every line of FRR's configuration that is read into every block, and compare where
                                      it lands; --write keeps what was seen in frrLandings.json
rehearse --server URL --fabric NAME [--change ID]
                                      the same with a fabric of a running server; ANTHEMION_TOKEN holds a token for it

Compares every answer of the network model with theirs. Exit: 0 they agree, 1 they differ, 2 it could not be held.
`;

const say = (text: string): void => void process.stdout.write(`${text}\n`);
function refuse(text: string): never {
  process.stderr.write(`rehearse: ${text}\n`);
  process.exit(2);
}

function folderAt(dir: string): SwitchFolder {
  if (!existsSync(dir) || !statSync(dir).isDirectory()) refuse(`there is no folder ${dir}`);
  const paths = readdirSync(dir, { withFileTypes: true }).flatMap((e) =>
    e.isDirectory() ? [...linux.documents.map((d) => d.name), ...linux.reads].map((d) => `${e.name}/${d}`) : [e.name],
  );
  const texts = new Map(
    paths.filter((p) => existsSync(join(dir, p))).map((p) => [p, readFileSync(join(dir, p), 'utf8')]),
  );
  const folder = readSwitchFolder(texts);
  return typeof folder === 'string' ? refuse(`${dir}: ${folder}`) : folder;
}

/** Says what came of it; differences with the file they are about. */
function report(name: string, r: Rehearsed): void {
  const {
    sessions,
    routes,
    vteps,
    evpnRoutes,
    vrfRoutes,
    ipv6Routes,
    pings,
    ipv6Pings,
    largePings,
    calls,
    counters,
    unsure,
  } = r.compared;
  say(
    `${name}: ${r.switches} switches, settled after ${r.settledAfter.toFixed(0)} s; ${r.lines} lines read back, ${sessions} session ends, ${routes} routes, ${vteps} VTEP lists, ${evpnRoutes} routes of EVPN, ${vrfRoutes} routes of VRFs, ${ipv6Routes > 0 ? `${ipv6Routes} of IPv6, ` : ''}${ipv6Pings > 0 ? `${ipv6Pings} pings by IPv6, ` : ''}${pings} pings and ${largePings} large ones${calls > 0 ? `, ${calls} calls, ${counters} counters of filters` : ''} compared; ${unsure} answers of which the model is not sure; ${r.notShown.length} things this kernel cannot show`,
  );
  for (const x of r.refused) say(`  ${x.host}/${x.document}: refused: ${x.said}`);
  for (const s of r.strays)
    say(
      `  ${s.host}/frr.conf:${s.line}: “${s.text}” was written in ${s.wrote || 'no block'} and is ${s.landed === null ? 'nowhere' : `in ${s.landed || 'no block'}`}`,
    );
  for (const d of r.differences)
    say(`  ${d.host}: ${d.about}: the model says ${d.model || 'none'}, the daemons ${d.daemon || 'none'}`);
  for (const why of r.unsureBecause) say(`  not sure: ${why}`);
  const kinds = new Map<string, number>();
  for (const n of r.notShown) {
    const kind = n.what.replace(/^[^:]*: /, '').replace(/\d+/g, 'N');
    kinds.set(kind, (kinds.get(kind) ?? 0) + 1);
  }
  for (const [kind, n] of kinds) say(`  not shown, ${n} times: ${kind}`);
}

/** Where every line lands in every block: FRR, the table that is kept, and the reader. Answers the exit code. */
async function compareLines(programs: Programs, write: boolean): Promise<number> {
  const file = new URL('../../core/src/dialects/linux/frrLandings.json', import.meta.url);
  const seen = await landingsOn(programs, FRR_TRIALS);
  const frr = frrRelease(programs);
  let differ = 0;
  const landings: Record<string, Record<string, FrrLanding>> = {};
  FRR_TRIALS.forEach((trial, i) => {
    (landings[trial.block.path] ??= {})[trial.line] = seen[i]!;
    const [real, read] = [JSON.stringify(seen[i]), JSON.stringify(readLanding(trial))];
    if (real === read) return;
    differ++;
    say(`  “${trial.line}” in ${trial.block.path || 'the file'}: FRR ${real}, the reader ${read}`);
  });
  if (write) writeFileSync(file, `${JSON.stringify({ frr, landings }, null, 1)}\n`);
  say(`FRR ${frr}: ${FRR_TRIALS.length} lines written in blocks, ${differ} land elsewhere than the reader says`);
  return differ === 0 ? 0 : 1;
}

/** Writes the smallest folder that still differs, to be run again with `rehearse DIR`. */
async function keepSmallest(programs: Programs, out: string, folder: SwitchFolder, host: string): Promise<void> {
  const { folder: small, held } = await shrink(folder, host, async (f) => !agrees(await rehearse(f, programs)));
  for (const [path, text] of folderTexts(small)) {
    mkdirSync(dirname(join(out, path)), { recursive: true });
    writeFileSync(join(out, path), text);
  }
  say(`  ${small.switches.length} of ${folder.switches.length} switches are left after ${held} runs: ${out}`);
}

/** Tries mistakes and counts what became of the answers. Answers the exit code. */
async function fuzzed(
  programs: Programs,
  mistakes: number,
  seed: number,
  options: FuzzOptions,
  keep?: string,
): Promise<number> {
  let kept = 0;
  const count = { agreed: 0, unsure: 0, differed: 0 };
  await fuzz(
    mistakes,
    seed,
    programs,
    async ({ fabric, host, line, what, compared, differences, unsureBecause, folder }) => {
      const verdict = differences.length > 0 ? 'differed' : compared.unsure > 0 ? 'unsure' : 'agreed';
      count[verdict]++;
      say(
        `${verdict}: fabric ${fabric}, ${host}/${options.document}:${line}: ${what}${compared.unsure > 0 ? ` (${compared.unsure} answers unsure)` : ''}`,
      );
      for (const why of unsureBecause.slice(0, 3)) say(`  unsure: ${why}`);
      for (const d of differences.slice(0, 4))
        say(`  ${d.host}: ${d.about}: the model says ${d.model || 'none'}, the daemons ${d.daemon || 'none'}`);
      if (differences.length > 4) say(`  and ${differences.length - 4} more`);
      if (differences.length > 0 && keep !== undefined)
        await keepSmallest(programs, join(keep, `${seed}-${++kept}`), folder, host);
    },
    options,
  );
  say(
    `seed ${seed}: ${count.agreed + count.unsure + count.differed} mistakes, ${count.agreed} agreed in every answer, ${count.unsure} agreed and the model not sure of some, ${count.differed} differed`,
  );
  return count.differed === 0 ? 0 : 1;
}

const { values, positionals } = ((): ReturnType<typeof readOptions> => {
  try {
    return readOptions();
  } catch (error) {
    return refuse((error as Error).message);
  }
})();
function readOptions() {
  const text = { type: 'string' } as const;
  const flag = { type: 'boolean' } as const;
  return parseArgs({
    allowPositionals: true,
    options: {
      only: text,
      generate: text,
      seed: text,
      server: text,
      fabric: text,
      change: text,
      fuzz: text,
      kinds: text,
      of: { type: 'string' },
      in: text,
      keep: text,
      lines: flag,
      bird: flag,
      write: flag,
    },
  });
}
const numberOf = (name: 'generate' | 'seed' | 'fuzz', fallback: number): number => {
  const given = values[name];
  if (given !== undefined && !/^\d{1,9}$/.test(given)) refuse(`--${name} wants a number`);
  return given === undefined ? fallback : Number(given);
};
const kindsOf = (given: string | undefined): readonly MistakeKind[] => {
  const kinds = given?.split(',') ?? MISTAKE_KINDS;
  const known = (k: string): k is MistakeKind => (MISTAKE_KINDS as readonly string[]).includes(k);
  return kinds.every(known) ? kinds : refuse(`--kinds wants some of ${MISTAKE_KINDS.join(',')}`);
};
const [dir] = positionals;
const sources = [dir, values.generate, values.server, values.lines, values.fuzz].filter((x) => x !== undefined);
if (sources.length !== 1 || positionals.length > 1 || (values.server === undefined) !== (values.fabric === undefined)) {
  process.stderr.write(USAGE);
  process.exit(2);
}
const programs = findPrograms();
if (typeof programs === 'string') refuse(programs);
if (values.lines) process.exit(await compareLines(programs, values.write === true));
const seed = numberOf('seed', 1);
const kind = FABRIC_KINDS.find((k) => k === values.of);
if (values.of !== undefined && kind === undefined) refuse(`--of wants ${FABRIC_KINDS.join(' or ')}`);
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => process.exit(130));
if (values.fuzz !== undefined) {
  const document = FUZZ_DOCUMENTS.find((d) => d === (values.in ?? 'frr.conf'));
  if (document === undefined) refuse(`--in wants ${FUZZ_DOCUMENTS.join(' or ')}`);
  const options = { kinds: kindsOf(values.kinds), only: kind, document };
  process.exit(await fuzzed(programs, numberOf('fuzz', 1), seed, options, values.keep));
}
const folders = await (async (): Promise<[string, SwitchFolder][]> => {
  if (dir !== undefined) return [[dir, folderAt(dir)]];
  const { server, fabric, change } = values;
  if (server === undefined)
    return ofKind(kind ?? 'plain', numberOf('generate', 4), seed).map((f, i) => [`fabric ${i + 1} of seed ${seed}`, f]);
  const folder = await folderFromServer(server, fabric!, change ?? null, process.env['ANTHEMION_TOKEN'] ?? '');
  return typeof folder === 'string' ? refuse(folder) : [[`${fabric!} of ${server}`, folder]];
})();
const only = values.only === undefined ? null : new Set(values.only.split(','));
let agreed = 0;
for (const [name, whole] of folders) {
  const unknown = [...(only ?? [])].filter((h) => !whole.files.has(h));
  if (unknown.length > 0) refuse(`there is no switch ${unknown.join(', ')} in it`);
  const folder = only === null ? whole : onlySwitches(whole, only);
  const done = await rehearse(folder, programs, { bird: values.bird === true });
  report(name, done);
  if (agrees(done)) agreed++;
}
say(`${agreed} of ${folders.length} agree in everything that was compared`);
process.exitCode = agreed === folders.length ? 0 : 1;
