import { problem, type Finding } from '../../finding.ts';
import { formatAny, parseAnyPrefix } from '../../numbers/prefix.ts';
import { isRouted } from '../../patterns/patterns.ts';
import { leaks } from '../collections/leaks.ts';
import { changeSentence } from '../collections/sentences.ts';
import { leakKey, type FabricIntent, type Leak } from '../intent.ts';
import { leakSchema } from '../schemas/objects.ts';
import { editFields, unless, type EditKindOf } from './edit.ts';

/** Has a tenant have routes of another, or others of them than so far. */
export interface PutLeak {
  readonly kind: 'putLeak';
  readonly leak: Leak;
}

const at = (field: string, rule: string, message: string, cure: string): Finding =>
  problem(rule, `/leak/${field}`, message, cure);

function misfit(intent: FabricIntent, { into, from, prefixes }: Leak): Finding[] {
  if (!isRouted(intent))
    return [
      at('into', 'fabric-routed', 'Nothing is routed in a switched fabric.', 'Say it where its networks are routed.'),
    ];
  const out: Finding[] = [];
  for (const [field, vrf] of [
    ['into', into],
    ['from', from],
  ] as const)
    if (!intent.vrfs.some((v) => v.name === vrf))
      out.push(at(field, 'vrf-known', `There is no VRF ${vrf}.`, 'Choose a VRF of this fabric, or add it first.'));
  if (into === from)
    out.push(at('from', 'leak-apart', `${into} has its own routes.`, 'Choose another VRF that it has routes of.'));
  const seen = new Set<string>();
  prefixes.forEach((prefix, i) => {
    const canonical = formatAny(parseAnyPrefix(prefix)!);
    if (canonical !== prefix)
      out.push(at(`prefixes/${i}`, 'route-form', `${prefix} is written otherwise.`, `Write ${canonical}.`));
    if (seen.has(canonical))
      out.push(at(`prefixes/${i}`, 'route-form', `${prefix} is there twice.`, 'Leave one of them out.'));
    seen.add(canonical);
  });
  return out;
}

const which = ({ prefixes }: Leak): string => (prefixes.length === 0 ? 'the subnets' : prefixes.join(', '));

export const putLeak: EditKindOf<PutLeak> = {
  kind: 'putLeak',
  schema: editFields('putLeak', { leak: leakSchema }),
  apply: (intent, { leak }) => unless(misfit(intent, leak), intent, () => leaks.put(intent, leakKey(leak), leak)),
  sentence: ({ leak }, before) =>
    before?.leaks.some((l) => leakKey(l) === leakKey(leak))
      ? changeSentence(before, 'leak', leakKey(leak), leak)
      : `Leak ${which(leak)} of ${leak.from} into ${leak.into}`,
  subjects: ({ leak }) => [`leak:${leakKey(leak)}`],
  makes: {
    of: 'leak',
    add: (leak) => ({ kind: 'putLeak', leak }),
    change: (leak) => ({ kind: 'putLeak', leak }),
  },
};
