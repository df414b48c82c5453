import {
  compileMemo,
  copyMemo,
  type CompileMemo,
  type ConfigFiles,
  type Dialect,
  type ParsedConfig,
  type ProofMemo,
} from '@anthemion/core';
import { hashOfFiles } from '../store/texts.ts';
import { BoundedMemory } from './memory.ts';

/** What is remembered of one fabric between tasks: its live state and the change looked at last. */
export type FabricMemory = ProofMemo;

const MEGABYTE = 1024 * 1024;
/** Limits of one worker, in bytes of text; what hangs on a text (configuration, lines, network) is about ten times that. */
const FABRICS = 12 * MEGABYTE;
const PARSED = 6 * MEGABYTE;

const fabrics = new BoundedMemory<FabricMemory>(FABRICS);
const parsed = new BoundedMemory<ParsedConfig>(PARSED);

export function memoryOf(fabric: string): FabricMemory {
  const known = fabrics.get(fabric);
  if (known) return known;
  const fresh: FabricMemory = {};
  fabrics.put(fabric, fresh, 0);
  return fresh;
}

/** What was compiled last of the live state, or of a change. */
export function compiledLast(fabric: string, which: 'before' | 'after'): CompileMemo {
  const memory = memoryOf(fabric);
  memory.before ??= { compile: compileMemo(), network: null };
  if (which === 'before') return memory.before.compile;
  memory.after ??= { compile: copyMemo(memory.before.compile), network: null };
  return memory.after.compile;
}

const textBytes = (memo: CompileMemo | undefined): number => {
  let bytes = 0;
  for (const { made } of memo?.byHost.values() ?? [])
    for (const text of Object.values(made.files)) bytes += text.length;
  return bytes;
};

/** Weighs a fabric again after a task; another may have to go for it. */
export function weigh(fabric: string): void {
  const memory = fabrics.get(fabric);
  if (memory) fabrics.put(fabric, memory, textBytes(memory.before?.compile) + textBytes(memory.after?.compile));
}

const hashes = new WeakMap<ConfigFiles, string>();
/** Hash of files that are kept in memory, computed once for each. */
export function hashOf(files: ConfigFiles): string {
  const known = hashes.get(files);
  if (known !== undefined) return known;
  const hash = hashOfFiles(files);
  hashes.set(files, hash);
  return hash;
}

/** Reads text back, once for each text and way to name ports. */
export function parseOnce(hash: string, files: ConfigFiles, dialect: Dialect): ParsedConfig {
  const key = `${hash} ${dialect.ports.key}`;
  const known = parsed.get(key);
  if (known) return known;
  const fresh = dialect.parse(files);
  parsed.put(
    key,
    fresh,
    Object.values(files).reduce((n, t) => n + t.length, 0),
  );
  return fresh;
}
