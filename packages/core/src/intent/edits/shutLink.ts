import { problem } from '../../finding.ts';
import { layOut } from '../../layout/layout.ts';
import { objectOf } from '../collections/index.ts';
import { shutLinks } from '../collections/shutLinks.ts';
import type { FabricIntent } from '../intent.ts';
import { linkIdSchema } from '../schemas/objects.ts';
import { done, editFields, missing, refuse, unless, type EditKindOf } from './edit.ts';

/** Shuts the ports at both ends of a link between switches; what it has drawn it keeps. */
export interface ShutLinkEdit {
  readonly kind: 'shutLink';
  /** Its id in the layout: `leaf-1:spine-2:1`. */
  readonly link: string;
}
/** Opens it again. */
export interface OpenLinkEdit {
  readonly kind: 'openLink';
  readonly link: string;
}

/** Its ends as people read them: `sk-lf-01 p49 – sk-sp-02 p1`. */
function endsOf(intent: FabricIntent | null, id: string): string {
  const layout = intent && layOut(intent);
  const link = layout?.links.find((l) => l.id === id);
  if (!layout || !link) return shutLinks.named(id, undefined).replace(/^link /, '');
  return [link.a, link.b].map(({ seat, port }) => `${layout.seatById.get(seat)!.host} ${port}`).join(' – ');
}

export const shutLink: EditKindOf<ShutLinkEdit> = {
  kind: 'shutLink',
  schema: editFields('shutLink', { link: linkIdSchema }),
  apply: (intent, { link }) =>
    unless(
      [
        ...(layOut(intent).links.some((l) => l.id === link)
          ? []
          : [
              problem(
                'link-known',
                '/link',
                `There is no link ${link}.`,
                'Choose a cable between two of its switches.',
              ),
            ]),
        ...(objectOf(intent, 'link', link)
          ? [problem('object-new', '/link', `Link ${endsOf(intent, link)} is shut already.`, 'Open it, or leave it.')]
          : []),
      ],
      intent,
      () => shutLinks.put(intent, link, { link }),
    ),
  sentence: ({ link }, before) => `Shut link ${endsOf(before, link)}`,
  subjects: ({ link }) => [`link:${link}`],
  makes: { of: 'link', add: ({ link }) => ({ kind: 'shutLink', link }) },
};

export const openLink: EditKindOf<OpenLinkEdit> = {
  kind: 'openLink',
  schema: editFields('openLink', { link: linkIdSchema }),
  apply: (intent, { link }) =>
    objectOf(intent, 'link', link) ? done(shutLinks.take(intent, link)) : refuse(intent, missing('shut link', link)),
  sentence: ({ link }, before) => `Open link ${endsOf(before, link)}`,
  subjects: ({ link }) => [`link:${link}`],
  makes: { of: 'link', remove: (link) => ({ kind: 'openLink', link }) },
};
