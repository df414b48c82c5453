import { subjectParts } from '../../subject.ts';
import { routeKey, type TenantRoute } from '../intent.ts';
import { racksOf, racksText } from '../racksText.ts';
import { routeSchema } from '../schemas/objects.ts';
import { listOf, whole, words } from './collection.ts';

/** Static routes of tenants. */
export const routes = listOf('routes', routeKey, {
  kind: 'route',
  word: 'static route',
  schema: routeSchema,
  lately: true,
  named: (key, r) => {
    const [vrf, prefix] = key.split(',');
    return `static route to ${r?.prefix ?? prefix} in ${r?.vrf ?? vrf}`;
  },
  freeing: 'Remove its static routes first.',
  fields: [
    words<TenantRoute, 'vrf'>('vrf', 'VRF'),
    words<TenantRoute, 'prefix'>('prefix', 'prefix'),
    words<TenantRoute, 'via'>('via', 'next hop', 'dropped'),
    {
      key: 'racks',
      label: 'racks',
      value: (r) => r.racks,
      text: (r) => racksText(r.racks) || 'none',
      read: (text) => (/^none$/i.test(text) ? [] : racksOf(text)),
      form: 'Write them as 1-3, 7, or none.',
    },
    whole<TenantRoute, 'distance'>('distance', 'distance', '1'),
    whole<TenantRoute, 'tag'>('tag', 'tag', 'none'),
  ],
  refers: (r) => [
    { to: `vrf:${r.vrf}`, ends: 'holds' },
    ...r.racks.map((rack) => ({ to: `rack:${rack}`, ends: 'forgets' }) as const),
  ],
  forget: (r, gone) => ({ ...r, racks: r.racks.filter((n) => String(n) !== subjectParts(gone).key) }),
});
