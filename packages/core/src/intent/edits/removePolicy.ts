import { string } from 'yup';
import { removeObject } from '../collections/removal.ts';
import { removalSentence } from '../collections/sentences.ts';
import { policyKey, policyOfKey, POLICY_KINDS, type PolicyIs } from '../policies.ts';
import { shortName } from '../schemas/words.ts';
import { editFields, type EditKindOf } from './edit.ts';

/** Takes a list or a route map away that nothing uses any more. */
export interface RemovePolicy {
  readonly kind: 'removePolicy';
  readonly is: PolicyIs;
  readonly name: string;
}

export const removePolicy: EditKindOf<RemovePolicy> = {
  kind: 'removePolicy',
  schema: editFields('removePolicy', {
    is: string()
      .oneOf([...POLICY_KINDS], `it is ${POLICY_KINDS.join(', ')}`)
      .required('the kind of policy is missing'),
    name: shortName('The name'),
  }),
  apply: (intent, edit) => removeObject(intent, 'policy', policyKey(edit)),
  sentence: (edit, before) => removalSentence(before, 'policy', policyKey(edit)),
  subjects: (edit) => [`policy:${policyKey(edit)}`],
  makes: { of: 'policy', remove: (key) => ({ kind: 'removePolicy', ...policyOfKey(key) }) },
};
