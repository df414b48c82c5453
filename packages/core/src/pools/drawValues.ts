import type { Finding } from '../finding.ts';
import { FreeSpace } from './freeSpace.ts';
import {
  formatValue,
  handsOut,
  hasLength,
  holdsLength,
  intervalsOf,
  liesIn,
  unitsOf,
  valueInterval,
  type Interval,
  type Pool,
  type PoolKind,
} from './pool.ts';
import { ownerOf, type Demand, type ValueKey } from './demands.ts';

/** One line of the ledger: who holds a value. `pool` is empty for a chosen value that lies in no pool. */
export interface LedgerEntry {
  readonly kind: PoolKind;
  readonly pool: string;
  readonly value: string;
  readonly fabric: string;
  readonly key: ValueKey;
  /** The open change that drew it; null once a revision holds it. */
  readonly change: string | null;
}

export type Values = ReadonlyMap<ValueKey, string>;

export interface Drawn {
  readonly values: Values;
  /** Entries that are new; the held ones stay as they are. */
  readonly entries: readonly LedgerEntry[];
  readonly findings: readonly Finding[];
}

/** What to call each pool role in a sentence. */
const ROLE_WORDS: Readonly<Record<Demand['role'], string>> = {
  spineAsn: 'AS numbers of spines',
  leafAsn: 'AS numbers of leaves',
  loopback: 'loopbacks',
  vtep: 'VTEPs',
  link: 'links',
  vni: 'VNIs',
  subnet: 'subnets',
  subnet6: 'IPv6 subnets',
  loopback6: 'IPv6 loopbacks',
  link6: 'IPv6 links',
};

/** A part of a pool that is taken, and by whom. */
export interface Taken extends Interval {
  readonly fabric: string;
  readonly key: ValueKey;
}

/** What a draw must know of the ledger. */
export interface Holdings {
  /** What the owner may use as its own: live values of its fabric, and those its change has drawn. */
  readonly own: readonly LedgerEntry[];
  /** Everything taken in the pools that something new is drawn from, see `poolsToDraw`. Others may be left out. */
  readonly taken: ReadonlyMap<string, readonly Taken[]>;
}
export interface DrawOwner {
  readonly fabric: string;
  readonly change: string | null;
}

export const NOTHING_HELD: Holdings = { own: [], taken: new Map() };

/** Holdings out of a whole ledger. */
export function holdingsOf(ledger: readonly LedgerEntry[], owner: DrawOwner): Holdings {
  const taken = new Map<string, Taken[]>();
  const own: LedgerEntry[] = [];
  for (const entry of ledger) {
    const block = valueInterval(entry.kind, entry.value);
    if (block && entry.pool !== '') {
      const list = taken.get(entry.pool) ?? [];
      if (list.length === 0) taken.set(entry.pool, list);
      list.push({ ...block, fabric: entry.fabric, key: entry.key });
    }
    if (entry.fabric === owner.fabric && (entry.change === null || entry.change === owner.change)) own.push(entry);
  }
  return { own, taken };
}

const keeps = (d: Demand, e: LedgerEntry): boolean =>
  d.wanted === undefined
    ? e.kind === d.kind &&
      (e.pool === d.pool || d.pool === '') &&
      (!hasLength(d.kind) || e.value.endsWith(`/${d.length}`))
    : e.value === d.wanted;

/** Values the owner has for its demands, and the demands that have none yet. */
function heldAndOpen(demands: readonly Demand[], own: readonly LedgerEntry[], owner: DrawOwner) {
  let held: Map<ValueKey, LedgerEntry> | null = null;
  const heldFor = (key: ValueKey): LedgerEntry | undefined => {
    if (!held) {
      held = new Map();
      for (const e of own) if (e.change === owner.change || (e.change === null && !held.has(e.key))) held.set(e.key, e);
    }
    return held.get(key);
  };
  // Mostly all is held by the live revision, in the order in which it is asked for: then nothing need be looked up.
  const inOrder = own.every((e) => e.change === null);
  let at = 0;
  const values = new Map<ValueKey, string>();
  const open: Demand[] = [];
  for (const d of demands) {
    const next = inOrder && held === null ? own[at] : undefined;
    const entry = next?.key === d.key ? next : heldFor(d.key);
    at++;
    if (entry && keeps(d, entry)) values.set(d.key, entry.value);
    else open.push(d);
  }
  return { values, open };
}

/** Pools of which a draw must know what is taken: those in which something is not held yet. */
export const poolsToDraw = (
  demands: readonly Demand[],
  own: readonly LedgerEntry[],
  owner: DrawOwner,
): ReadonlySet<string> =>
  new Set(
    heldAndOpen(demands, own, owner)
      .open.map((d) => d.pool)
      .filter((p) => p !== ''),
  );

/**
 * Gives every demand a value. Stable: a value that is held for the same key (by this change, else by the live revision)
 * is kept; a new one is the smallest free of the pool. Nothing another change holds is ever drawn. Same input, same
 * result.
 */
export function drawValues(
  demands: readonly Demand[],
  pools: readonly Pool[],
  holdings: Holdings,
  owner: DrawOwner,
): Drawn {
  const entries: LedgerEntry[] = [];
  const findings: Finding[] = [];
  const poolByName = new Map(pools.map((p) => [p.name, p]));
  const ranges = new Map<string, Interval[]>(pools.map((p) => [p.name, intervalsOf(p)]));
  const { values, open } = heldAndOpen(demands, holdings.own, owner);
  const taken = new Map<string, FreeSpace>();
  for (const name of new Set(open.map((d) => d.pool))) {
    if (!poolByName.has(name)) continue;
    const space = new FreeSpace();
    for (const block of holdings.taken.get(name) ?? []) space.take(block);
    taken.set(name, space);
  }
  /**
   * Re-claiming one's own value with another size or after a change of mind is no clash; nor is it that a network has a
   * subnet as a further one that was its first, or the other way round.
   */
  const givesUp = (holder: Taken, d: Demand, block: Interval): boolean => {
    if (holder.key === d.key) return true;
    if (!d.key.startsWith('network:') || ownerOf(holder.key) !== ownerOf(d.key)) return false;
    const kept = valueInterval(d.kind, values.get(holder.key) ?? '');
    return kept === null || kept.to < block.from || block.to < kept.from;
  };
  const inRanges = (pool: string, block: Interval): boolean => (ranges.get(pool) ?? []).some((r) => liesIn(block, r));
  const add = (d: Demand, value: string, pool: string): void => {
    values.set(d.key, value);
    entries.push({ kind: d.kind, pool, value, fabric: owner.fabric, key: d.key, change: owner.change });
  };

  for (const d of open.filter((x) => x.wanted !== undefined)) {
    const wanted = d.wanted!;
    const block = valueInterval(d.kind, wanted);
    if (!block) {
      findings.push({
        rule: 'value-form',
        severity: 'error',
        message: `“${wanted}” cannot be the value of ${d.key}.`,
        cure: 'Choose a value as its pool holds them, or leave it away: then it is drawn.',
        path: d.key,
      });
      continue;
    }
    if (!inRanges(d.pool, block)) {
      add(d, wanted, '');
      continue;
    }
    const space = taken.get(d.pool)!;
    if (!space.isFree(block)) {
      const holder = holdings.taken.get(d.pool)?.find((t) => t.from <= block.to && block.from <= t.to);
      if (!holder || holder.fabric !== owner.fabric || !givesUp(holder, d, block)) {
        findings.push({
          rule: 'value-taken',
          severity: 'error',
          message: `${wanted} of pool ${d.pool} is held by ${holder ? `${holder.key} of ${holder.fabric}` : 'another value of this draw'}.`,
          cure: 'Choose another value, or leave it empty to have one drawn.',
          path: d.key,
          subjects: [ownerOf(d.key)],
        });
        continue;
      }
    }
    space.take(block);
    add(d, wanted, d.pool);
  }
  const short = new Map<string, number>();
  for (const d of open) {
    if (d.wanted !== undefined) continue;
    const pool = poolByName.get(d.pool);
    const size = unitsOf(d.kind, d.length);
    const space = pool && taken.get(d.pool);
    let start: number | null = null;
    let within: Interval | undefined;
    if (space && pool.kind === d.kind)
      for (const range of ranges.get(d.pool) ?? []) {
        if (!handsOut(range, d.length)) continue;
        start = space.firstFree(range, size);
        within = range;
        if (start !== null) break;
      }
    if (start === null || !space || !within) {
      const suits = pool?.kind === d.kind && holdsLength(pool, d.length);
      const why = `${d.role}|${d.pool}|${pool ? (suits ? 'full' : 'kind') : d.pool === '' ? 'unset' : 'gone'}`;
      short.set(why, (short.get(why) ?? 0) + 1);
      continue;
    }
    space.take({ from: start, to: start + size - 1 });
    add(d, formatValue(d.kind, start, d.length, within), d.pool);
  }
  for (const [why, n] of short) {
    const [role, pool, reason] = why.split('|') as [Demand['role'], string, string];
    const what = ROLE_WORDS[role];
    findings.push({
      rule: 'pool-enough',
      severity: 'error',
      path: `/pools/${role}`,
      subjects: [`pool:${role}`],
      message:
        reason === 'full'
          ? `Pool ${pool} is too small: ${n} more ${what} are needed than it has free.`
          : reason === 'kind'
            ? `Pool ${pool} does not hold ${what}.`
            : reason === 'unset'
              ? `No pool is chosen for ${what}; ${n} ${n === 1 ? 'value waits' : 'values wait'}.`
              : `There is no pool ${pool} for ${what}.`,
      cure:
        reason === 'full'
          ? `Add a range to ${pool}, or choose a larger pool.`
          : `Choose a pool for ${what} under Values.`,
    });
  }
  return { values, entries, findings };
}

/** How full a pool is, in numbers or addresses. */
export function utilisation(
  pool: Pool,
  ledger: readonly LedgerEntry[],
): { readonly size: number; readonly held: number } {
  const space = new FreeSpace();
  for (const e of ledger) {
    const block = e.pool === pool.name ? valueInterval(e.kind, e.value) : null;
    if (block) space.take(block);
  }
  let size = 0;
  let held = 0;
  for (const range of intervalsOf(pool)) {
    size += range.to - range.from + 1;
    held += space.takenIn(range);
  }
  return { size, held };
}
