import { applyEdits, type Edit } from '../intent/edits/index.ts';
import { emptyIntent, type FabricIntent } from '../intent/intent.ts';
import type { Pool } from '../pools/pool.ts';
import { HOLM_POOLS, holmEdits } from './holm.ts';
import { NESS_POOLS, nessEdits } from './ness.ts';
import { POOLS, seatingEdits, skerryEdits } from './skerry.ts';

/** A fabric the demo has live from the start. */
export interface DemoFabric {
  readonly name: string;
  readonly prefix: string;
  readonly title: string;
  readonly reason: string;
  readonly ticket: string;
  /** All edits that make it out of an empty fabric, seating too. */
  readonly edits: () => readonly Edit[];
  /** Where a switch stands, by how many stand before it. */
  readonly locationOf: (index: number) => string;
}

/** Edits with those that seat made-up switches in all that they lay out. */
function seated(name: string, prefix: string, edits: readonly Edit[]): Edit[] {
  const { intent, findings } = applyEdits(emptyIntent(name, prefix), edits);
  if (findings.length > 0) throw new Error(`the demo intent of ${name} does not apply: ${findings[0]!.message}`);
  return [...edits, ...seatingEdits(intent)];
}

export const DEMO_FABRICS: readonly DemoFabric[] = [
  {
    name: 'skerry',
    prefix: 'sk',
    title: 'Build Skerry',
    reason: 'First fabric of the chart office',
    ticket: 'FCO-101',
    edits: skerryEdits,
    locationOf: (index) => (index < 9 ? 'Mole hall' : 'Lamp hall'),
  },
  {
    name: 'holm',
    prefix: 'ho',
    title: 'Build Holm',
    reason: 'The second site, for the press and the harbour',
    ticket: 'FCO-140',
    edits: () => seated('holm', 'ho', holmEdits()),
    locationOf: () => 'Holm',
  },
  {
    name: 'ness',
    prefix: 'ne',
    title: 'Build Ness',
    reason: 'Two switches beside the gauges',
    ticket: 'FCO-171',
    edits: () => seated('ness', 'ne', nessEdits()),
    locationOf: () => 'Ness',
  },
];

/** All pools of the demo. */
export const DEMO_POOLS: readonly Pool[] = [...POOLS, ...HOLM_POOLS, ...NESS_POOLS];

export function demoIntent({ name, prefix, edits }: DemoFabric): FabricIntent {
  const made = applyEdits(emptyIntent(name, prefix), edits());
  if (made.findings.length > 0)
    throw new Error(`the demo intent of ${name} does not apply: ${made.findings[0]!.message}`);
  return made.intent;
}
