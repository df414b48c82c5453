import { sameContent } from '../../numbers/content.ts';
import { objectOf } from '../collections/index.ts';
import { networks } from '../collections/tenants.ts';
import { racksText } from '../racksText.ts';
import { rackNumbersSchema } from '../schemas/objects.ts';
import { shortName } from '../schemas/words.ts';
import { checkNetwork, inOrder, stillConnected } from './checkTenants.ts';
import { editFields, missing, refuse, unless, type EditKindOf } from './edit.ts';

/** On which racks a network is carried. */
export interface CarryNetwork {
  readonly kind: 'carryNetwork';
  readonly name: string;
  readonly racks: readonly number[];
}

export const carryNetwork: EditKindOf<CarryNetwork> = {
  kind: 'carryNetwork',
  schema: editFields('carryNetwork', { name: shortName('The name'), racks: rackNumbersSchema }),
  apply: (intent, { name, racks }) => {
    const network = objectOf(intent, 'network', name);
    if (!network) return refuse(intent, missing('network', name));
    const next = inOrder({ ...network, racks });
    const findings = [...checkNetwork(intent, next), ...stillConnected(intent, next)];
    return unless(
      findings.map((f) => ({ ...f, path: '/racks' })),
      intent,
      () => networks.put(intent, name, next),
    );
  },
  sentence: ({ name, racks }, before) => {
    const now = `rack ${racksText(racks)}`;
    const was = before && objectOf(before, 'network', name)?.racks;
    const from = was && was.length > 0 ? ` (so far on ${racksText(was)})` : '';
    return `Carry ${name} on ${racks.length === 0 ? 'no rack' : now}${from}`;
  },
  subjects: ({ name }) => [`network:${name}`],
  makes: {
    of: 'network',
    change: (is, was) =>
      sameContent({ ...was, racks: is.racks }, is) ? { kind: 'carryNetwork', name: is.name, racks: is.racks } : null,
  },
};
