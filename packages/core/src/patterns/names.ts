import { problem, type Finding } from '../finding.ts';
import { braced, strangeIn, wordsIn } from './braces.ts';

/**
 * How switches are named, by tier. Braces hold `prefix` (of the fabric), `rack`, `side` (a, b or nothing), `pod`, `plane` or
 * `number`; a number is written with two digits, or as many as stand after a colon: `{rack:3}`.
 */
export interface NameSchemes {
  readonly leafName: string;
  readonly spineName: string;
  readonly superSpineName: string;
}
export const DEFAULT_NAMES: NameSchemes = {
  leafName: '{prefix}-lf-{rack}{side}',
  // A pod stands before the number where there are pods.
  spineName: '{prefix}-sp-{pod}-{number}',
  superSpineName: '{prefix}-ss-{plane}-{number}',
};
export type NameKey = keyof NameSchemes;
/** What a name is made of; what is absent is left out, with the hyphen before it. */
export interface NameParts {
  readonly prefix: string;
  readonly rack?: number;
  readonly side?: 'a' | 'b';
  readonly pod?: number;
  readonly plane?: number;
  readonly number?: number;
}

const BRACES = /(-?)\{(?<word>[a-z]+)(?::(\d))?\}/g;
const WORDS = ['prefix', 'rack', 'side', 'pod', 'plane', 'number'] as const;
type NameWord = (typeof WORDS)[number];
const isWord = (word: string): word is NameWord => (WORDS as readonly string[]).includes(word);
const USUAL_DIGITS = 2;

/** The name a scheme gives. */
export const nameBy = (scheme: string, parts: NameParts): string =>
  scheme.replace(BRACES, (_, hyphen: string, word: string, digits?: string) => {
    const value = isWord(word) ? parts[word] : undefined;
    if (value === undefined) return '';
    return `${hyphen}${typeof value === 'number' ? String(value).padStart(Number(digits ?? USUAL_DIGITS), '0') : value}`;
  });

/** What each tier's names must tell apart. */
const NEEDED: Readonly<Record<NameKey, readonly NameWord[]>> = {
  leafName: ['rack', 'side'],
  spineName: ['number'],
  superSpineName: ['plane', 'number'],
};
const TIER_WORD: Readonly<Record<NameKey, string>> = {
  leafName: 'switches of racks',
  spineName: 'spines',
  superSpineName: 'super-spines',
};
const HOST = /^[a-z](?:[a-z0-9-]*[a-z0-9])?$/;
const MOST_LETTERS = 40;

/** The parts that a switch of a tier has, with the largest numbers. */
const mostOf = (key: NameKey, prefix: string, pods: boolean, side: 'a' | 'b' | undefined): NameParts => ({
  prefix,
  ...(key === 'leafName' ? { rack: 9999, ...(side ? { side } : {}) } : { number: 64 }),
  ...(pods && key !== 'superSpineName' ? { pod: 64 } : {}),
  ...(key === 'superSpineName' || (key === 'spineName' && pods) ? { plane: 64 } : {}),
});
/** A scheme without the words that these parts leave out: what stood on both sides of one stands together. */
const withoutAbsent = (scheme: string, parts: NameParts): string =>
  scheme.replace(BRACES, (all, _, word: string) => (isWord(word) && parts[word] !== undefined ? all : ''));
const NUMBERS_BESIDE =
  /(\d|\{(rack|pod|plane|number)(:\d)?\})\{(rack|pod|plane|number)|\{(rack|pod|plane|number)(:\d)?\}\d/;

/** What speaks against name schemes: with those that pass no two switches of a fabric have one name. */
export function checkNames(schemes: NameSchemes, namePrefix: string, pods: boolean): Finding[] {
  const out: Finding[] = [];
  const refuse = (key: NameKey, message: string, cure: string): void =>
    void out.push(problem('names-differ', `/settings/${key}`, message, cure));
  const skeletons = new Map<string, NameKey>();
  for (const key of Object.keys(NEEDED) as NameKey[]) {
    const scheme = schemes[key];
    const strange = strangeIn(scheme, BRACES, WORDS);
    if (strange !== null) {
      refuse(key, `{${strange}} is not known in a name.`, `Write ${braced(WORDS)}.`);
      continue;
    }
    const words = wordsIn(scheme, BRACES);
    const needed = [...NEEDED[key], ...(key === 'spineName' && pods ? (['pod'] as const) : [])];
    const lacking = needed.find((w) => !words.includes(w));
    if (lacking !== undefined) {
      refuse(key, `Two ${TIER_WORD[key]} would get one name without {${lacking}}.`, `Put {${lacking}} into it.`);
      continue;
    }
    const sides = key === 'leafName' ? ([undefined, 'a', 'b'] as const) : [undefined];
    const most = sides.map((side) => mostOf(key, namePrefix, pods, side));
    if (most.some((parts) => NUMBERS_BESIDE.test(withoutAbsent(scheme, parts)))) {
      refuse(key, 'Two numbers stand beside each other and read as one.', 'Put a hyphen or a letter between them.');
      continue;
    }
    const odd = most
      .map((parts) => nameBy(scheme, parts))
      .find((name) => !HOST.test(name) || name.length > MOST_LETTERS);
    if (odd !== undefined) {
      refuse(
        key,
        `${odd} is no name for a switch.`,
        `Begin with a letter; use small letters, digits and hyphens, at most ${MOST_LETTERS}.`,
      );
      continue;
    }
    // Names of two tiers are unlike where they differ in more than their numbers.
    for (const parts of most) {
      const name = nameBy(scheme, parts);
      const skeleton = name.replace(/\d+/g, '#');
      const other = skeletons.get(skeleton);
      if (other !== undefined && other !== key)
        refuse(
          key,
          `A name like ${name} could be one of the ${TIER_WORD[other]} too.`,
          'Put a word into it that tells them apart.',
        );
      else skeletons.set(skeleton, key);
    }
  }
  return out;
}
