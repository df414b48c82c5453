import type { BfdProfile } from '../../config/bfd.ts';
import type { Block, TopLines } from './blocks.ts';
import type { Draft } from './draft.ts';
import { whole } from './words.ts';

const line = (key: string, value: number | undefined): string => (value === undefined ? '' : `\n  ${key} ${value}`);

export function bfdBlock(profiles: readonly BfdProfile[]): string {
  if (profiles.length === 0) return '';
  let out = '\nbfd';
  for (const p of profiles)
    out +=
      `\n profile ${p.name}` +
      line('detect-multiplier', p.multiplier) +
      line('transmit-interval', p.transmit) +
      line('receive-interval', p.receive) +
      '\n exit';
  return `${out}\nexit\n!`;
}

const FIELDS = {
  'detect-multiplier': 'multiplier',
  'transmit-interval': 'transmit',
  'receive-interval': 'receive',
} as const;

const profileBlock: Block<Draft<BfdProfile>> = {
  name: 'bfd profile',
  read: (w, _line, about, reading) => {
    if (!Object.hasOwn(FIELDS, w[0]!)) return false;
    const field = FIELDS[w[0] as keyof typeof FIELDS];
    const n = whole(w[1], 1, 60000);
    if (n === null) return 'a number of milliseconds, or a small multiplier';
    about[field] = n;
    return reading.at(['bfdProfiles', about.name]);
  },
};

const block: Block<null> = {
  name: 'bfd',
  read: (w, _line, _about, reading) => {
    if (w[0] !== 'profile' || w[1] === undefined) return false;
    const profile: Draft<BfdProfile> = { name: w[1] };
    reading.draft.bfdProfiles.push(profile);
    return reading.open(profileBlock, profile, ['bfdProfiles', w[1]]);
  },
};

export const bfdLines: TopLines = { bfd: (_w, _line, reading) => reading.open(block, null, ['bfdProfiles']) };
