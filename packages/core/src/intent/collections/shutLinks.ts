import type { ShutLink } from '../intent.ts';
import { shutLinkSchema } from '../schemas/objects.ts';
import { rackOfSeat } from '../seatIds.ts';
import { listOf, words } from './collection.ts';

/** `leaf-1:spine-2:1`, `leaf-7a:leaf-7b:peer-1`: its two seats, and which of the links between them it is. */
function partsOf(key: string): { readonly a: string; readonly b: string; readonly nth: string } {
  const [a = '', b = '', nth = ''] = key.split(':');
  return { a, b, nth };
}

/** Links between switches that are shut on purpose. */
export const shutLinks = listOf('shutLinks', (l) => l.link, {
  kind: 'link',
  word: 'shut link',
  schema: shutLinkSchema,
  lately: true,
  named: (key) => {
    const { a, b, nth } = partsOf(key);
    return `link ${a} – ${b}${nth === '1' ? '' : ` (${nth})`}`;
  },
  freeing: 'Open its links first.',
  fields: [words<ShutLink, 'link'>('link', 'link')],
  // With either of its switches it is no link any more.
  refers: ({ link }) => {
    const { a, b } = partsOf(link);
    const racks = [...new Set([a, b].flatMap((seat) => rackOfSeat(seat) ?? []))];
    return racks.map((rack) => ({ to: `rack:${rack}`, ends: 'goes' }) as const);
  },
});
