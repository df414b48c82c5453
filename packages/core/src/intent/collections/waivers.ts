import { waiverSchema } from '../schemas/objects.ts';
import { listOf, words } from './collection.ts';
import type { Waiver } from '../intent.ts';

export const waivers = listOf('waivers', (w) => w.rule, {
  kind: 'waiver',
  word: 'waiver of',
  schema: waiverSchema,
  lately: true,
  freeing: 'End that waiver first.',
  fields: [
    words<Waiver, 'until'>('until', 'until'),
    words<Waiver, 'reason'>('reason', 'reason'),
    words<Waiver, 'by'>('by', 'by'),
  ],
});
