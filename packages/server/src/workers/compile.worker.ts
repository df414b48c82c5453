import {
  compileFabric,
  compileMemo,
  linux,
  modelNetwork,
  originOf,
  proveChange,
  type CompileMemo,
  type ProofMemo,
  type ConfigFiles,
  type Cable,
  type Edit,
  type FabricIntent,
  type Finding,
  type LedgerEntry,
  type Origin,
  type Pool,
  type ProofReport,
  type Seat,
} from '@anthemion/core';

/** A fabric's state as it crosses to the worker. */
export interface PlainState {
  readonly intent: FabricIntent;
  readonly values: readonly (readonly [string, string])[];
}
export interface ProveTask {
  readonly do: 'prove';
  readonly before: PlainState;
  readonly after: PlainState;
  readonly pools: readonly Pool[];
  readonly drawFindings: readonly Finding[];
}
export interface TextsTask {
  readonly do: 'texts';
  readonly state: PlainState;
  readonly pools: readonly Pool[];
}
export interface OriginsTask {
  readonly do: 'origins';
  readonly state: PlainState;
  readonly pools: readonly Pool[];
  readonly seat: string;
  readonly ledger: readonly LedgerEntry[];
  readonly edits: readonly Edit[];
}
export interface ExpectTask {
  readonly do: 'expect';
  readonly texts: readonly (readonly [string, ConfigFiles])[];
  readonly cables: readonly Cable[];
}
export interface SeatText {
  readonly seat: Seat;
  readonly files: ConfigFiles;
}
/** A BGP peer that will be up: name as written, and the families. */
export interface ExpectedPeer {
  readonly peer: string;
  readonly ipv4: boolean;
  readonly evpn: boolean;
}

/** What was compiled last of each fabric, so that one edit redoes the switches it touches and no others. */
const memos = new Map<string, ProofMemo>();
const MEMO_FABRICS = 4;

function memoOf(fabric: string): ProofMemo {
  let memo = memos.get(fabric);
  if (!memo) {
    if (memos.size >= MEMO_FABRICS) memos.delete(memos.keys().next().value!);
    memos.set(fabric, (memo = {}));
  }
  return memo;
}
/** The compile memo that plain texts are taken from and kept in. */
const compileMemoOf = (fabric: string): CompileMemo =>
  (memoOf(fabric).after ??= { compile: compileMemo(), network: null }).compile;
const stateOf = (s: PlainState) => ({ intent: s.intent, values: new Map(s.values) });

function prove(task: ProveTask): ProofReport {
  return proveChange(
    stateOf(task.before),
    stateOf(task.after),
    task.pools,
    task.drawFindings,
    memoOf(task.after.intent.name),
  ).report;
}

function texts(task: TextsTask): SeatText[] {
  const { intent, values } = stateOf(task.state);
  return compileFabric(intent, values, task.pools, compileMemoOf(intent.name)).switches.map((s) => ({
    seat: s.seat,
    files: s.files,
  }));
}

function origins(task: OriginsTask): { files: ConfigFiles; origins: Record<string, (Origin | null)[]> } | null {
  const { intent, values } = stateOf(task.state);
  const compiled = compileFabric(intent, values, task.pools, compileMemoOf(intent.name));
  const made = compiled.switches.find((s) => s.seat.id === task.seat);
  if (!made) return null;
  const context = {
    intent,
    layout: compiled.layout,
    seat: made.seat,
    config: made.config,
    values,
    ledger: task.ledger,
    edits: task.edits,
  };
  const out = Object.fromEntries(
    Object.entries(made.files).map(([f, text]) => [f, text.split('\n').map((): Origin | null => null)]),
  );
  linux.parse(made.files, (path, file, line) => {
    if (path !== '' && out[file]) out[file][line - 1] = originOf(path, context);
  });
  return { files: made.files, origins: out };
}

function expect(task: ExpectTask): [string, ExpectedPeer[]][] {
  const network = modelNetwork(
    task.texts.map(([host, files]) => ({ host, ...linux.parse(files) })),
    task.cables,
  );
  const out = new Map<string, ExpectedPeer[]>(task.texts.map(([host]) => [host, []]));
  for (const s of network.sessions) if (s.up) out.get(s.host)!.push({ peer: s.peer, ipv4: s.ipv4, evpn: s.evpn });
  return [...out];
}

export default function work(task: ProveTask | TextsTask | OriginsTask | ExpectTask): unknown {
  switch (task.do) {
    case 'prove':
      return prove(task);
    case 'texts':
      return texts(task);
    case 'origins':
      return origins(task);
    case 'expect':
      return expect(task);
  }
}
