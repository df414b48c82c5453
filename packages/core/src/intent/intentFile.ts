import { checkModel } from '../hardware/checkModel.ts';
import { isMap, isScalar, LineCounter, parseDocument, stringify, visit, type Document } from 'yaml';
import { array, number, object, string } from 'yup';
import { capital } from '../capital.ts';
import { problem, type Finding } from '../finding.ts';
import { groupBy } from '../numbers/order.ts';
import { checkDescriptions } from '../patterns/descriptions.ts';
import { checkNames } from '../patterns/names.ts';
import { DEFAULT_SETTINGS, hasPods, upperTiersOf } from '../patterns/patterns.ts';
import { checkRackPattern } from '../patterns/rackPattern.ts';
import { sizePattern } from '../patterns/sizing.ts';
import type { LedgerEntry } from '../pools/drawValues.ts';
import { checkPool, POOL_KINDS, type Pool } from '../pools/pool.ts';
import { applyEdit } from './edits/index.ts';
import { emptyIntent, type FabricIntent } from './intent.ts';
import { intentSchema } from './intentSchema.ts';
import { policyKey, POLICY_WORDS } from './policies.ts';
import { poolSchema } from './schemas/parts.ts';
import { validate } from './schemas/validate.ts';

/** The open document of a fabric: intent, the pools it draws from, and the values already held. */
export interface IntentFile {
  readonly anthemion: 1;
  readonly fabric: FabricIntent;
  readonly pools: readonly Pool[];
  readonly ledger: readonly LedgerEntry[];
}

const ledgerSchema = object({
  kind: string()
    .oneOf([...POOL_KINDS])
    .required(),
  pool: string().defined(),
  value: string().required(),
  fabric: string().required(),
  key: string().required(),
  change: string().nullable().default(null),
});
export const intentFileSchema = object({
  anthemion: number().oneOf([1], 'this file is not format 1').required('the format number (anthemion: 1) is missing'),
  fabric: intentSchema.required('the fabric is missing'),
  pools: array(poolSchema).required('the pools are missing'),
  ledger: array(ledgerSchema).default([]),
}).noUnknown(true, ({ unknown }) => `there is no field ${unknown}`);

/** A finding about an intent file, with its line (1-based) where known. */
export interface FileFinding extends Finding {
  readonly line?: number;
}

export const writeIntentFile = (file: IntentFile): string => stringify(file, { lineWidth: 120 });

/** Racks of a pattern; where there are pods, in the pod that has most of them. */
function mostOf(intent: FabricIntent, pattern: string): number {
  const byPod = groupBy(
    intent.racks.filter((r) => r.pattern === pattern),
    (r) => r.pod,
  );
  return Math.max(0, ...[...byPod.values()].map((racks) => racks.length));
}

/** Rules that hold between the parts of an intent: every network, VRF and port is put into an otherwise same fabric. */
export function checkIntent(intent: FabricIntent): Finding[] {
  const findings: Finding[] = [];
  let grown: FabricIntent = {
    ...emptyIntent(intent.name, intent.namePrefix),
    ...intent,
    seating: {},
    vrfs: [],
    networks: [],
    ports: [],
    outside: [],
    shutLinks: [],
    drained: [],
    neighbours: [],
    speakers: [],
    routes: [],
    leaks: [],
  };
  const put = (edit: Parameters<typeof applyEdit>[1], at: string): void => {
    const step = applyEdit(grown, edit);
    grown = step.intent;
    for (const f of step.findings) findings.push({ ...f, path: `${at}${(f.path ?? '').replace(/^\/[^/]+/, '')}` });
  };
  for (const [i, m] of intent.models.entries())
    findings.push(...checkModel(m).map((f) => ({ ...f, path: `/models/${i}${f.path}` })));
  for (const [i, p] of intent.rackPatterns.entries())
    findings.push(...checkRackPattern(p, intent.models).map((f) => ({ ...f, path: `/rackPatterns/${i}${f.path}` })));
  findings.push(...checkNames(intent.settings, intent.namePrefix, hasPods(intent)));
  findings.push(...checkDescriptions(intent.settings));
  const size = sizePattern(
    {
      name: intent.pattern || 'laid',
      description: '',
      ...upperTiersOf(intent),
      racks: intent.rackPatterns.map((p) => ({ pattern: p.name, count: mostOf(intent, p.name) })),
      settings: intent.settings,
    },
    { models: intent.models, rackPatterns: intent.rackPatterns },
  );
  if (intent.racks.length > 0 || intent.spines.count > 0)
    findings.push(...size.findings.filter((f) => !findings.some((g) => g.message === f.message)));
  const seen = new Set<number>();
  intent.racks.forEach((r, i) => {
    if (seen.has(r.number))
      findings.push(
        problem(
          'object-new',
          `/racks/${i}/number`,
          `Rack ${r.number} is there twice.`,
          'Give each rack a number of its own.',
        ),
      );
    seen.add(r.number);
    if (!intent.rackPatterns.some((p) => p.name === r.pattern))
      findings.push(
        problem(
          'pattern-fits',
          `/racks/${i}/pattern`,
          `There is no rack pattern ${r.pattern}.`,
          'Name one of rackPatterns.',
        ),
      );
  });
  for (const [seat, serial] of Object.entries(intent.seating))
    put({ kind: 'takeSeat', seat, serial }, `/seating/${seat}`);
  intent.vrfs.forEach((vrf, i) => put({ kind: 'addVrf', vrf }, `/vrfs/${i}`));
  intent.networks.forEach((network, i) => put({ kind: 'addNetwork', network }, `/networks/${i}`));
  intent.ports.forEach((port, i) => put({ kind: 'connectServer', port }, `/ports/${i}`));
  intent.outside.forEach((link, i) => put({ kind: 'joinOutside', link }, `/outside/${i}`));
  intent.shutLinks.forEach(({ link }, i) => put({ kind: 'shutLink', link }, `/shutLinks/${i}`));
  intent.drained.forEach(({ seat }, i) => put({ kind: 'drainSeat', seat }, `/drained/${i}`));
  const named = new Set<string>();
  intent.policies.forEach((policy, i) => {
    const key = policyKey(policy);
    if (named.has(key))
      findings.push(
        problem(
          'object-new',
          `/policies/${i}/name`,
          `${capital(POLICY_WORDS[policy.is])} ${policy.name} is there twice.`,
          'Give each a name of its own.',
        ),
      );
    named.add(key);
    put({ kind: 'putPolicy', policy }, `/policies/${i}`);
  });
  intent.neighbours.forEach((neighbour, i) => put({ kind: 'putNeighbour', neighbour }, `/neighbours/${i}`));
  intent.speakers.forEach((speakers, i) => put({ kind: 'putSpeakers', speakers }, `/speakers/${i}`));
  intent.routes.forEach((route, i) => put({ kind: 'putRoute', route }, `/routes/${i}`));
  intent.leaks.forEach((leak, i) => put({ kind: 'putLeak', leak }, `/leaks/${i}`));
  return findings;
}

/** A fabric of a thousand leaves and fifty thousand servers has about 8 MB. */
const LARGEST_FILE = 20e6;
const MOST_SAID = 50;

/** Keys that stand twice in a map, where the second one is. */
function keysTwice(doc: Document): { readonly key: string; readonly at: number }[] {
  const out: { key: string; at: number }[] = [];
  visit(doc, {
    Map(_key, map) {
      const seen = new Set<string>();
      for (const { key } of map.items) {
        const name = String(isScalar(key) ? key.value : key).slice(0, 100);
        if (seen.has(name)) out.push({ key: name, at: (isScalar(key) ? key.range?.[0] : undefined) ?? 0 });
        seen.add(name);
        if (out.length >= MOST_SAID) return visit.BREAK;
      }
      return undefined;
    },
  });
  return out;
}

/** Reads an intent file. Settings that are absent take their defaults; every finding carries the line it is about. */
export function readIntentFile(text: string): { readonly file: IntentFile } | { readonly findings: FileFinding[] } {
  if (text.length > LARGEST_FILE)
    return {
      findings: [
        problem(
          'file-size',
          '',
          `The file has ${Math.ceil(text.length / 1e6)} MB; an intent file has at most ${LARGEST_FILE / 1e6}.`,
          'Write one fabric to a file, without values that are drawn anyway.',
        ),
      ],
    };
  const lines = new LineCounter();
  // Keys that stand twice are looked for here, in one pass: the parser compares every key of a map with every other.
  const doc = parseDocument(text, { lineCounter: lines, maxAliasCount: 50, uniqueKeys: false } as object);
  if (doc.errors.length > 0)
    return {
      findings: doc.errors.map((e) => ({
        ...problem('file-form', '', e.message.split('\n')[0]!, 'Write it as YAML or JSON.'),
        line: lines.linePos(e.pos[0]).line,
      })),
    };
  const twice = keysTwice(doc);
  if (twice.length > 0)
    return {
      findings: twice.map(({ key, at }) => ({
        ...problem('file-form', '', `${key} stands twice in one place.`, 'Leave one of them.'),
        line: lines.linePos(at).line,
      })),
    };
  const lineOf = (path: string): number | undefined => {
    for (let keys = path.split('/').filter(Boolean); ; keys = keys.slice(0, -1)) {
      const node =
        keys.length === 0
          ? doc.contents
          : doc.getIn(
              keys.map((k) => (/^\d+$/.test(k) ? Number(k) : k)),
              true,
            );
      const range =
        node && typeof node === 'object' && 'range' in node ? (node.range as [number] | undefined) : undefined;
      if (range) return lines.linePos(range[0]).line;
      if (keys.length === 0) return undefined;
    }
  };
  const placed = (findings: readonly Finding[]): FileFinding[] =>
    findings.map((f) => {
      const line = lineOf(f.path ?? '');
      return line === undefined ? f : { ...f, line };
    });
  const raw = doc.toJS() as unknown;
  if (!isMap(doc.contents))
    return {
      findings: [
        problem('file-form', '', 'The file holds no intent.', 'Start with “anthemion: 1”, “fabric:” and “pools:”.'),
      ],
    };
  const source = raw as { fabric?: { settings?: object } };
  if (source.fabric && typeof source.fabric === 'object')
    source.fabric = { ...source.fabric, settings: { ...DEFAULT_SETTINGS, ...source.fabric.settings } };
  const checked = validate<IntentFile>(intentFileSchema, source);
  if ('findings' in checked) return { findings: placed(checked.findings) };
  const { fabric, pools } = checked.value;
  const findings = [
    ...pools.flatMap((p, i) =>
      checkPool(
        p,
        pools.filter((_, j) => j < i),
      ).map((f) => ({ ...f, path: `/pools/${i}${f.path}` })),
    ),
    ...checkIntent(fabric).map((f) => ({ ...f, path: `/fabric${f.path}` })),
  ];
  return findings.length > 0 ? { findings: placed(findings) } : { file: checked.value };
}
