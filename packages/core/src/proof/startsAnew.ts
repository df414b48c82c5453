import type { CompiledFabric } from '../compile/compileFabric.ts';
import type { Finding } from '../finding.ts';

/** As many switches are named at most; the rest is counted. */
const NAMED = 3;

/** Says on which switches a change has routing started anew, so that all they do for others stops meanwhile. */
export function startsAnew(after: CompiledFabric, before: CompiledFabric): Finding[] {
  const was = new Map(before.switches.map((s) => [s.seat.id, s]));
  const words = new Map<string, string[]>();
  for (const s of after.switches) {
    const old = was.get(s.seat.id);
    if (old === undefined || old === s) continue;
    const of = s.dialect.restartedFor(old.files, s.files).join(', ');
    if (of !== '') words.set(of, [...(words.get(of) ?? []), s.seat.host]);
  }
  return [...words].map(([of, hosts]) => {
    const more = hosts.length > NAMED ? ` and ${hosts.length - NAMED} more` : '';
    return {
      rule: 'routing-starts-anew',
      severity: 'warning',
      message: `Routing of ${hosts.slice(0, NAMED).join(', ')}${more} is started anew, as ${of} changes: meanwhile they do nothing for others.`,
      cure: 'Others are told to go around each of them before; roll it out when what hangs on one switch alone may stand still.',
      subjects: ['fabric'],
    };
  });
}
