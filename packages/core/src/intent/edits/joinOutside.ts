import { problem, type Finding } from '../../finding.ts';
import { DUTY_WORDS } from '../../patterns/patterns.ts';
import { outside } from '../collections/outside.ts';
import { dutyFor, outsideKey, rackPatternOf, type FabricIntent, type OutsideLink } from '../intent.ts';
import { lagText, misfitCables } from '../outsideLag.ts';
import { outsideSchema } from '../schemas/objects.ts';
import { editFields, unless, type EditKindOf } from './edit.ts';

/** Cables a port of a border, or of a site gateway, to something that is not of this fabric. */
export interface JoinOutside {
  readonly kind: 'joinOutside';
  readonly link: OutsideLink;
}

/** What speaks against a cable to something outside; paths begin at `/link`. */
export function misfitOutside(intent: FabricIntent, link: OutsideLink): Finding[] {
  const rack = intent.racks.find((r) => r.number === link.rack);
  const pattern = rack && rackPatternOf(intent, rack);
  if (!rack || !pattern)
    return [problem('rack-known', '/link/rack', `There is no rack ${link.rack}.`, 'Choose a rack of this fabric.')];
  const out: Finding[] = [];
  const duty = dutyFor(link);
  if (!pattern.duties?.includes(duty)) {
    const able = intent.racks.find((r) => rackPatternOf(intent, r)?.duties?.includes(duty));
    out.push(
      problem(
        'duty-known',
        '/link/rack',
        `Rack ${link.rack} (${pattern.name}) is no ${DUTY_WORDS[duty]}.`,
        able ? `Rack ${able.number} is one.` : `Give its rack pattern the duty ${duty} first.`,
      ),
    );
  }
  if (pattern.kind === 'single' && link.side === 'b')
    out.push(problem('port-side', '/link/side', `Rack ${link.rack} has one leaf only.`, 'Use side a.'));
  return [...out, ...misfitCables(intent, pattern, link)];
}

export const joinOutside: EditKindOf<JoinOutside> = {
  kind: 'joinOutside',
  schema: editFields('joinOutside', { link: outsideSchema }),
  apply: (intent, { link }) =>
    unless(misfitOutside(intent, link), intent, () => outside.put(intent, outsideKey(link), link)),
  sentence: ({ link }) =>
    `Join ${link.system} ${link.farPort}${link.to === 'site' ? ' (another site)' : ''} to rack ${link.rack} ${link.port} (${link.side})${link.lag ? `, a LAG with ${lagText(link.lag)}` : ''}${link.shut ? ', shut' : ''}`,
  subjects: ({ link }) => [`outside:${outsideKey(link)}`],
  makes: { of: 'outside', add: (link) => ({ kind: 'joinOutside', link }) },
};
