import fc from 'fast-check';
import { Liquid } from 'liquidjs';
import { expect, test } from 'vitest';
import { shaped } from './shapes.ts';

const TEMPLATE = `{% for a in x.addresses %}address {{ a }}
{% endfor %}{% if x.kind == 'spine' %}spine {{ x.name }}{% else %}leaf {{ x.name }}{% endif %}{% if x.mtu %} mtu {{ x.mtu }}{% endif %}{% if x.on %} on{% endif %} {{ x.list | join: ' ' }} {{ x.in.deep }}`;
interface Input {
  readonly name: string;
  readonly kind: 'spine' | 'leaf';
  readonly mtu?: number;
  readonly on: boolean;
  readonly addresses: readonly string[];
  readonly list: readonly number[];
  readonly in: { readonly deep: string };
}

test('slotting values into a shape gives what rendering each input by itself gives', () => {
  const engine = new Liquid();
  const parsed = engine.parse(TEMPLATE);
  const render = shaped<Input>(engine, parsed, ['kind']).render;
  const word = fc.stringMatching(/^[a-z0-9./:-]{1,12}$/);
  const inputs = fc.record(
    {
      name: word,
      kind: fc.constantFrom('spine' as const, 'leaf' as const),
      mtu: fc.integer({ min: 1, max: 9999 }),
      on: fc.boolean(),
      addresses: fc.array(word, { maxLength: 3 }),
      list: fc.array(fc.nat(4094), { maxLength: 4 }),
      in: fc.record({ deep: word }),
    },
    { requiredKeys: ['name', 'kind', 'on', 'addresses', 'list', 'in'] },
  );
  fc.assert(
    fc.property(inputs, (x) => {
      expect(render(x)).toBe(String(engine.renderSync(parsed, { x })));
    }),
    { numRuns: 300 },
  );
});
