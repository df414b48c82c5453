import { LAG_FORM, lagText, readLag } from '../outsideLag.ts';
import { outsideKey, portOfKey, type OutsideLink } from '../intent.ts';
import { outsideSchema } from '../schemas/objects.ts';
import { driven, listOf, open, whole, words } from './collection.ts';

/** Cables to what is not of the fabric. */
export const outside = listOf('outside', outsideKey, {
  kind: 'outside',
  word: 'outside link',
  schema: outsideSchema,
  lately: true,
  named: (key, o) => {
    const { rack, side, port } = portOfKey(key);
    return o ? `link to ${o.system} on rack ${o.rack} ${o.port} (${o.side})` : `port ${port} of rack ${rack} (${side})`;
  },
  freeing: 'Take its outside links away first.',
  fields: [
    words<OutsideLink, 'system'>('system', 'system'),
    words<OutsideLink, 'farPort'>('farPort', 'its port'),
    whole<OutsideLink, 'rack'>('rack', 'rack'),
    words<OutsideLink, 'side'>('side', 'leaf'),
    words<OutsideLink, 'port'>('port', 'port'),
    {
      key: 'lag',
      label: 'further cables',
      empty: 'no LAG',
      value: (o) => o.lag,
      text: ({ lag }) => (lag === undefined ? '' : lagText(lag)),
      read: (text) => (/^no( LAG)?$/i.test(text) ? undefined : readLag(text)),
      form: LAG_FORM,
    },
    { key: 'to', label: 'to', value: (o) => o.to, text: (o) => (o.to === 'site' ? 'another site' : 'outside') },
    open<OutsideLink>(),
    ...driven<OutsideLink>(),
  ],
  refers: (o) => [{ to: `rack:${o.rack}`, ends: 'goes' }],
});
