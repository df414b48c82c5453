import fc from 'fast-check';
import { expect, test } from 'vitest';
import { checkNames, DEFAULT_NAMES, nameBy, type NameSchemes } from './names.ts';

const piece = fc.constantFrom(
  ...[
    '{prefix}',
    '{rack}',
    '{rack:3}',
    '{side}',
    '{pod}',
    '{plane:1}',
    '{number}',
    '{number:1}',
    '-',
    'a',
    'b',
    '1',
    'lf',
  ],
);
const scheme = fc.array(piece, { minLength: 1, maxLength: 6 }).map((p) => p.join(''));
const schemes: fc.Arbitrary<NameSchemes> = fc.record({
  leafName: fc.oneof(scheme, fc.constant(DEFAULT_NAMES.leafName)),
  spineName: fc.oneof(scheme, fc.constant(DEFAULT_NAMES.spineName)),
  superSpineName: fc.oneof(scheme, fc.constant(DEFAULT_NAMES.superSpineName)),
});
const numbers = [1, 2, 9, 10, 11, 12, 21, 63, 64];

function allNames(of: NameSchemes, prefix: string, pods: boolean): string[] {
  const racks = [...numbers, 99, 100, 101, 111, 112, 1000, 9999].flatMap((rack) =>
    // A rack has one switch or two; its pod follows from the rack.
    (rack % 2 === 0 ? [undefined] : (['a', 'b'] as const)).map((side) =>
      nameBy(of.leafName, { prefix, rack, ...(pods ? { pod: rack % 7 } : {}), ...(side ? { side } : {}) }),
    ),
  );
  const groups = pods ? numbers : [undefined];
  const spines = groups.flatMap((pod) =>
    numbers.map((number) =>
      nameBy(of.spineName, { prefix, number, ...(pod === undefined ? {} : { pod, plane: number }) }),
    ),
  );
  const supers = pods
    ? numbers.flatMap((plane) => numbers.map((number) => nameBy(of.superSpineName, { prefix, plane, number })))
    : [];
  return [...racks, ...spines, ...supers];
}

test('with schemes that pass no two switches of a fabric have one name, and every name is one', () => {
  let passed = 0;
  fc.assert(
    fc.property(schemes, fc.constantFrom('sk', 'a1', 'lf'), fc.boolean(), (of, prefix, pods) => {
      if (checkNames(of, prefix, pods).length > 0) return;
      passed += 1;
      const names = allNames(of, prefix, pods);
      expect(new Set(names).size).toBe(names.length);
      for (const name of names) expect(name).toMatch(/^[a-z][a-z0-9-]{0,39}$/);
    }),
    { numRuns: 3000 },
  );
  expect(passed).toBeGreaterThan(20);
});

test.each([
  [{ leafName: '{prefix}-{side}' }, /without \{rack\}/, /Put \{rack\}/],
  [{ leafName: '{prefix}-lf-{rack}' }, /without \{side\}/, /Put \{side\}/],
  [{ leafName: '{prefix}-{hall}-{rack}{side}' }, /\{hall\} is not known/, /\{rack\}/],
  [{ leafName: '{prefix-{rack}{side}' }, /is not known/, /Write \{prefix\}/],
  [{ spineName: '{prefix}-sp-{pod}{number}' }, /read as one/, /hyphen/],
  // A super-spine has no side and a rack of one switch neither: what stands around it stands together.
  [{ superSpineName: '{prefix}{number:1}{side}{plane:1}' }, /read as one/, /hyphen/],
  [{ leafName: '{prefix}{rack:1}{side}{pod:1}' }, /read as one/, /hyphen/],
  [{ leafName: '{rack}-{side}-x' }, /9999-x is no name/, /Begin with a letter/],
  [
    { spineName: '{prefix}-lf-{pod}-{number}', leafName: '{prefix}-lf-{pod}-{rack}{side}' },
    /could be one of/,
    /tells them apart/,
  ],
])('%o is refused, with the cure', (of, says, cure) => {
  const [found] = checkNames({ ...DEFAULT_NAMES, ...of }, 'sk', true);
  expect(found!.message).toMatch(says);
  expect(found!.cure).toMatch(cure);
  expect(found!.path).toMatch(/^\/settings\/(leaf|spine|superSpine)Name$/);
});
