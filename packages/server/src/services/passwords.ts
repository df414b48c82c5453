import { PASSWORD_MIN } from '@anthemion/contract';
import { problem, type Finding } from '@anthemion/core';
import { randomInt } from 'node:crypto';
import { COMMON_PHRASES, COMMON_WORDS } from './commonPasswords.ts';

/** What signs usually stand for letters. */
const STANDS_FOR: Readonly<Record<string, string>> = {
  '0': 'o',
  '1': 'i',
  '3': 'e',
  '4': 'a',
  '5': 's',
  '7': 't',
  '8': 'b',
  '@': 'a',
  $: 's',
  '!': 'i',
};
const longestFirst = [...COMMON_WORDS].sort((a, b) => b.length - a.length);
const phrases = new Set(COMMON_PHRASES);
const MOST_COMMON_WORDS = 3;

/** Two letters or digits that stand beside one another in the alphabet or among the digits, either way. */
const follows = (a: string, b: string): boolean => Math.abs(a.codePointAt(0)! - b.codePointAt(0)!) <= 1;

/** How many different steps a text makes: a row of digits, `aaaa` or `abcd` makes next to none. */
function isRow(text: string): boolean {
  let breaks = 0;
  for (let i = 1; i < text.length; i++) if (!follows(text[i - 1]!, text[i]!)) breaks++;
  return breaks <= text.length / 5;
}

/** A short piece said again and again. */
function isRepeated(text: string): boolean {
  for (let n = 1; n <= text.length / 2; n++) {
    const piece = text.slice(0, n);
    if (piece.repeat(Math.ceil(text.length / n)).startsWith(text)) return true;
  }
  return false;
}

/** Only a few common words, with digits and signs around them. */
function isCommon(letters: string): boolean {
  if (phrases.has(letters)) return true;
  const distinct = new Set<string>();
  let rest = letters;
  while (rest !== '') {
    const word = longestFirst.find((w) => rest.startsWith(w));
    if (word === undefined) return false;
    distinct.add(word);
    rest = rest.slice(word.length);
  }
  return distinct.size <= MOST_COMMON_WORDS;
}

/**
 * What speaks against a new password by NIST SP 800-63B-4 §3.1.1.2: too short, on the list of what is commonly used, or made
 * of the account’s own name. No rule says which signs it must hold, and none makes it run out.
 */
export function checkPassword(
  password: string,
  of: { readonly name: string; readonly fullName: string },
): Finding | null {
  const say = (message: string, cure: string): Finding => problem('password-new', '/password', message, cure);
  if ([...password].length < PASSWORD_MIN)
    return say(`It has fewer than ${PASSWORD_MIN} characters.`, 'Take a few words that do not belong together.');
  const low = password.normalize('NFKC').toLowerCase();
  const plain = low.replaceAll(/[^\p{L}]/gu, '');
  const spelled = [...low]
    .map((c) => STANDS_FOR[c] ?? c)
    .join('')
    .replaceAll(/[^\p{L}]/gu, '');
  if (isRow(low) || isRepeated(low) || isRepeated(plain) || isCommon(plain) || isCommon(spelled))
    return say('It is one of the passwords that are tried first.', 'Take a few words that do not belong together.');
  const names = [of.name, ...of.fullName.split(/\s+/), of.fullName.replaceAll(/\s+/g, '')]
    .map((n) => n.toLowerCase().replaceAll(/[^\p{L}]/gu, ''))
    .filter((n) => n.length >= 3);
  const without = names.sort((a, b) => b.length - a.length).reduce((text, n) => text.replaceAll(n, ''), plain);
  if (without !== plain && isCommon(without))
    return say('It is made of your own name.', 'Take a few words that do not belong together.');
  return null;
}

/** Letters and digits that are not taken for one another. */
const CLEAR = 'abcdefghjkmnpqrstuvwxyz23456789';

/** A code of groups of five, each sign of 31: 20 signs carry 99 bits. */
export const freshCode = (groups = 4): string =>
  Array.from({ length: groups }, () => Array.from({ length: 5 }, () => CLEAR[randomInt(CLEAR.length)]).join('')).join(
    '-',
  );
