import type { Finding } from '../finding.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { sameContent } from '../numbers/content.ts';
import type { FabricSettings } from '../patterns/patterns.ts';
import { sentTogether, type FabricStanding } from '../rollout/sentTogether.ts';

/** Of the underlay there is a state between, where the fabric has the ways for it. */
const inTwoSteps = ({ settings: was }: FabricIntent, { settings: will }: FabricIntent): string =>
  was.underlay === will.underlay || [was.underlay, will.underlay].includes('half-numbered')
    ? ''
    : ' In two steps, first with half of the links numbered, the other half carries it.';

/**
 * Says which switches a change has to be sent to together, as sessions between them come up, and LAGs they share are one,
 * only where both have their new text or neither has. Nothing where nobody sits in their seats.
 * @param seated does a switch sit there already
 */
export function bothEnds(
  before: FabricStanding & { readonly intent: FabricIntent },
  after: FabricStanding & { readonly intent: FabricIntent },
  seated: (host: string) => boolean,
): Finding[] {
  const { groups, ends, of, example, carried, lags } = sentTogether(before, after, seated);
  if (groups.length === 0) return [];
  const settings = Object.keys(after.intent.settings) as (keyof FabricSettings)[];
  const changed = settings.filter((key) => before.intent.settings[key] !== after.intent.settings[key]);
  const together = groups.reduce((n, g) => n + g.length, 0);
  const sets = groups.length === 1 ? 'together' : `in ${groups.length} sets, each together`;

  const why = example ? ` (${example.host} to ${example.peer}: ${example.reason})` : '';
  const sessions = `${ends} of ${of} session ends are down while only one of both has the new text${why}`;
  const servers = `${lags} ${lags === 1 ? 'LAG of servers is' : 'LAGs of servers are'} two while only one half of the pair has the new text`;
  const down = [...(ends > 0 ? [sessions] : []), ...(lags > 0 ? [servers] : [])].join('; ');
  const patterns = after.intent.rackPatterns.filter(
    (p) => lags > 0 && !sameContent(before.intent.rackPatterns.find((q) => q.name === p.name) ?? p, p),
  );
  return [
    {
      rule: carried ? 'both-ends-carried' : 'both-ends-together',
      severity: carried ? 'note' : 'warning',
      message: `${together} switches have to be sent to ${sets}: ${down}.${carried ? ' The other links carry the fabric meanwhile: every tunnel end still reaches every other.' : ''}`,
      cure: carried
        ? 'Roll it out while all links are up: they are loaded at once and confirmed only when all have settled, else all go back.'
        : `Roll it out when ${ends > 0 ? 'the fabric' : 'what these servers send'} may stand still for that long: they are loaded at once and confirmed only when all have settled, else all go back.${inTwoSteps(before.intent, after.intent)}`,
      subjects: [
        ...changed.map((key) => `setting:${key}` as const),
        ...patterns.map(({ name }) => `rackPattern:${name}` as const),
      ],
    },
  ];
}
