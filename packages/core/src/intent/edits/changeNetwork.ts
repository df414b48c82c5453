import { sameContent } from '../../numbers/content.ts';
import { changeSentence } from '../collections/sentences.ts';
import { networks } from '../collections/tenants.ts';
import type { Network } from '../intent.ts';
import { networkSchema } from '../schemas/objects.ts';
import { shortName } from '../schemas/words.ts';
import { checkNetwork, inOrder, stillConnected } from './checkTenants.ts';
import { editFields, missing, refuse, unless, type EditKindOf } from './edit.ts';

/** The network of this name as a whole; it keeps its name. */
export interface ChangeNetwork {
  readonly kind: 'changeNetwork';
  readonly name: string;
  readonly network: Network;
}

const named = ({ name, network }: ChangeNetwork): Network => inOrder({ ...network, name });

export const changeNetwork: EditKindOf<ChangeNetwork> = {
  kind: 'changeNetwork',
  schema: editFields('changeNetwork', { name: shortName('The name'), network: networkSchema }),
  apply: (intent, edit) => {
    if (!intent.networks.some((n) => n.name === edit.name)) return refuse(intent, missing('network', edit.name));
    const network = named(edit);
    return unless([...checkNetwork(intent, network), ...stillConnected(intent, network)], intent, () =>
      networks.put(intent, edit.name, network),
    );
  },
  sentence: (edit, before) => changeSentence(before, 'network', edit.name, named(edit)),
  subjects: ({ name }) => [`network:${name}`],
  makes: {
    of: 'network',
    change: (is, was) =>
      sameContent({ ...was, racks: is.racks }, is) ? null : { kind: 'changeNetwork', name: is.name, network: is },
  },
};
