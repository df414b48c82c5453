import { changeSentence } from '../collections/sentences.ts';
import { vrfs } from '../collections/tenants.ts';
import type { Vrf } from '../intent.ts';
import { vrfSchema } from '../schemas/objects.ts';
import { shortName } from '../schemas/words.ts';
import { checkVrf } from './checkTenants.ts';
import { editFields, missing, refuse, unless, type EditKindOf } from './edit.ts';

/** The VRF of this name as a whole; it keeps its name. */
export interface ChangeVrf {
  readonly kind: 'changeVrf';
  readonly name: string;
  readonly vrf: Vrf;
}

const named = ({ name, vrf }: ChangeVrf): Vrf => ({ ...vrf, name });

export const changeVrf: EditKindOf<ChangeVrf> = {
  kind: 'changeVrf',
  schema: editFields('changeVrf', { name: shortName('The name'), vrf: vrfSchema }),
  apply: (intent, edit) =>
    intent.vrfs.some((v) => v.name === edit.name)
      ? unless(checkVrf(intent, named(edit)), intent, () => vrfs.put(intent, edit.name, named(edit)))
      : refuse(intent, missing('VRF', edit.name)),
  sentence: (edit, before) => changeSentence(before, 'vrf', edit.name, named(edit)),
  subjects: ({ name }) => [`vrf:${name}`],
  makes: { of: 'vrf', change: (vrf) => ({ kind: 'changeVrf', name: vrf.name, vrf }) },
};
