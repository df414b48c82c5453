import { sameContent } from '../../numbers/content.ts';
import { objectOf } from '../collections/index.ts';
import { outside } from '../collections/outside.ts';
import { changeSentence } from '../collections/sentences.ts';
import { cablesOfLink, outsideKey, type OutsideLink } from '../intent.ts';
import { outsideSchema } from '../schemas/objects.ts';
import { editFields, missing, refuse, unless, type EditKindOf } from './edit.ts';
import { misfitOutside } from './joinOutside.ts';

/** The cable on a port of a border as a whole; it stays on that port, and who is spoken to over it is kept. */
export interface ChangeOutside {
  readonly kind: 'changeOutside';
  readonly link: OutsideLink;
}

/** Do two links want a port, or a far port, both of them? */
const shareCables = (a: OutsideLink, b: OutsideLink): boolean =>
  cablesOfLink(a).some((ca) =>
    cablesOfLink(b).some(
      (cb) =>
        (a.rack === b.rack && a.side === b.side && ca.port === cb.port) ||
        (a.system === b.system && ca.farPort === cb.farPort),
    ),
  );

/** Where the port is shut or opened, and nothing else. */
function alone(was: OutsideLink, is: OutsideLink): string | null {
  const [{ shut: before = false, ...rest }, { shut = false, ...same }] = [was, is];
  return shut !== before && sameContent(rest, same)
    ? `${shut ? 'Shut' : 'Open'} port ${is.port} of rack ${is.rack} (${is.side}), which leads to ${is.system}`
    : null;
}

export const changeOutside: EditKindOf<ChangeOutside> = {
  kind: 'changeOutside',
  schema: editFields('changeOutside', { link: outsideSchema }),
  apply: (intent, { link }) => {
    const key = outsideKey(link);
    return objectOf(intent, 'outside', key)
      ? unless(misfitOutside(outside.take(intent, key), link), intent, () => outside.put(intent, key, link))
      : refuse(intent, missing('outside link on port', link.port));
  },
  sentence: ({ link }, before) => {
    const key = outsideKey(link);
    const was = before && objectOf(before, 'outside', key);
    return (was ? alone(was, link) : null) ?? changeSentence(before, 'outside', key, link);
  },
  subjects: ({ link }) => [`outside:${outsideKey(link)}`],
  makes: {
    of: 'outside',
    // A cable that leads elsewhere is another one.
    change: (is, was) => (is.system === was.system && is.to === was.to ? { kind: 'changeOutside', link: is } : null),
    // Ports may wait for one another: what takes one that another link has first goes away and is joined last.
    anew: (is, was, from) =>
      !sameContent(cablesOfLink(is), cablesOfLink(was)) &&
      from.outside.some((o) => outsideKey(o) !== outsideKey(is) && shareCables(o, is)),
  },
};
