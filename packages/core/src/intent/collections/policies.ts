import { policiesBehind, policiesNamed, policyKey, policyOfKey, POLICY_WORDS } from '../policies.ts';
import { policySchema } from '../schemas/policies.ts';
import { listOf } from './collection.ts';

const kept = listOf('policies', policyKey, {
  kind: 'policy',
  word: 'routing policy',
  schema: policySchema,
  lately: true,
  named: (key) => {
    const { is, name } = policyOfKey(key);
    return `${POLICY_WORDS[is]} ${name}`;
  },
  freeing: 'Take it out there first.',
  fields: [
    {
      key: 'entries',
      label: 'entries',
      value: (p) => p.entries,
      text: (p) => String(p.entries.length),
    },
  ],
  refers: (p) => [...new Set(policiesNamed(p))].map((key) => ({ to: `policy:${key}`, ends: 'holds' }) as const),
});

/** Lists and route maps that sessions with routers outside use by name; each stands after what it names. */
export const policies: typeof kept = {
  ...kept,
  items: function* (intent) {
    for (const p of policiesBehind(intent.policies, intent.policies.map(policyKey))) yield [policyKey(p), p];
  },
};
