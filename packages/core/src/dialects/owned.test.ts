import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { DocumentKind } from '../hardware/dialects.ts';
import { ownedOf, regionMarks, withOwned } from './owned.ts';

const WHOLE: DocumentKind = { name: 'a.conf', path: '/etc/a.conf', comment: '#' };
const PART: DocumentKind = { ...WHOLE, region: true };
const { begin, end } = regionMarks('#');
/** Words of other people, with line ends where they please. */
const rest = fc.array(fc.constantFrom('a', 'b=1', '\n', '\n\n', '# anthemion', ' ', '\t'), { maxLength: 8 });
const text = rest.map((words) => words.join(''));
const lines = text.map((t) => (t === '' || t.endsWith('\n') ? t : `${t}\n`));

test('our part is read back as it was put in, and put in anew it moves nothing else', () => {
  fc.assert(
    fc.property(text, text, lines, lines, (before, after, mine, next) => {
      const there = before === '' ? '' : `${before.replace(/\n?$/, '\n')}`;
      const document = `${there}${begin}\n${mine}${end}\n${after}`;
      expect(ownedOf(PART, document)).toBe(mine);
      expect(withOwned(PART, document, next)).toBe(`${there}${begin}\n${next}${end}\n${after}`);
      expect(withOwned(PART, document, mine)).toBe(document);
    }),
  );
});

test('where there is none yet it comes last, on lines of its own', () => {
  fc.assert(
    fc.property(text, lines, (before, mine) => {
      const document = withOwned(PART, before, mine);
      expect(document.startsWith(before)).toBe(true);
      expect(document.slice(before.length)).toMatch(/^\n?# anthemion begin\n/);
      expect(ownedOf(PART, before)).toBe('');
      expect(ownedOf(PART, document)).toBe(mine);
    }),
  );
});

test('a document that is ours whole is what is put there', () => {
  expect(ownedOf(WHOLE, `x\n${begin}\ny`)).toBe(`x\n${begin}\ny`);
  expect(withOwned(WHOLE, 'old', 'new')).toBe('new');
});

test.each([
  ['an end alone', `a\n${end}\n`],
  ['a beginning alone', `${begin}\na\n`],
  ['the wrong way round', `${end}\n${begin}\n`],
  ['two of them', `${begin}\n${end}\n${begin}\n${end}\n`],
  ['one twice', `${begin}\n${begin}\n${end}\n`],
])('damaged marks are named, and nothing is guessed: %s', (_what, document) => {
  expect(() => ownedOf(PART, document)).toThrow(
    /a\.conf: “# anthemion begin” and “# anthemion end” must stand there once/,
  );
  expect(() => withOwned(PART, document, 'x')).toThrow(/once each/);
});
