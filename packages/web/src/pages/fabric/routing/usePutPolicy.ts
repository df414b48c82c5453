import { policyKey, POLICY_WORDS, problem, type RoutePolicy } from '@anthemion/core';
import { useEdits } from '../../../app/useEdits.ts';
import type { NotTaken } from '../../../parts/Form.tsx';
import { useFabricView } from '../FabricFrame.tsx';
import { putInPlace } from '../inPlace.ts';

/**
 * Puts a list or a map; a new one never in the place of another of its name.
 * @param known what it was; undefined = it is new
 */
export function usePutPolicy(known: RoutePolicy | undefined): (policy: RoutePolicy) => Promise<NotTaken | null> {
  const { fabric } = useFabricView();
  const makeEdits = useEdits(fabric.name);
  return (policy) => {
    const key = policyKey(policy);
    const twin = fabric.intent.policies.some((p) => policyKey(p) === key);
    const message = `There is a ${POLICY_WORDS[policy.is]} ${policy.name}.`;
    return putInPlace(makeEdits, {
      kind: 'policy',
      edit: { kind: 'putPolicy', policy },
      key,
      was: known && { key: policyKey(known), item: known },
      taken: twin
        ? problem('object-new', '/edits/0/policy/name', message, 'Change that one, or choose another name.')
        : undefined,
    });
  };
}
