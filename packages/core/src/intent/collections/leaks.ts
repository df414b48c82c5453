import { leakKey, type Leak } from '../intent.ts';
import { leakSchema } from '../schemas/objects.ts';
import { listOf, words } from './collection.ts';
import { prefixes } from './told.ts';

/** Routes that tenants have of one another. */
export const leaks = listOf('leaks', leakKey, {
  kind: 'leak',
  word: 'leak',
  schema: leakSchema,
  lately: true,
  named: (key, l) => {
    const [into, from] = key.split(',');
    return `leak of ${l?.from ?? from} into ${l?.into ?? into}`;
  },
  freeing: 'Remove what others have of its routes first.',
  fields: [
    words<Leak, 'into'>('into', 'VRF'),
    words<Leak, 'from'>('from', 'has routes of'),
    prefixes('prefixes', 'prefixes', 'the subnets of its networks', []),
  ],
  // Without either of the two it says nothing.
  refers: (l) => [
    { to: `vrf:${l.into}`, ends: 'goes' },
    { to: `vrf:${l.from}`, ends: 'goes' },
  ],
});
