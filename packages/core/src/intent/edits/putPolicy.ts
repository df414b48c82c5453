import { policies } from '../collections/policies.ts';
import { changeSentence } from '../collections/sentences.ts';
import { policyKey, POLICY_WORDS, type RoutePolicy } from '../policies.ts';
import { policySchema } from '../schemas/policies.ts';
import { checkPolicy } from './checkPolicy.ts';
import { editFields, unless, type EditKindOf } from './edit.ts';

/** Has a prefix, community or AS path list, or a route map, for sessions to use by name; or otherwise than so far. */
export interface PutPolicy {
  readonly kind: 'putPolicy';
  readonly policy: RoutePolicy;
}

export const putPolicy: EditKindOf<PutPolicy> = {
  kind: 'putPolicy',
  schema: editFields('putPolicy', { policy: policySchema }),
  apply: (intent, { policy }) =>
    unless(checkPolicy(intent, policy), intent, () => policies.put(intent, policyKey(policy), policy)),
  sentence: ({ policy }, before) =>
    before?.policies.some((p) => policyKey(p) === policyKey(policy))
      ? changeSentence(before, 'policy', policyKey(policy), policy)
      : `Add ${POLICY_WORDS[policy.is]} ${policy.name}`,
  subjects: ({ policy }) => [`policy:${policyKey(policy)}`],
  makes: {
    of: 'policy',
    add: (policy) => ({ kind: 'putPolicy', policy }),
    change: (policy) => ({ kind: 'putPolicy', policy }),
  },
};
