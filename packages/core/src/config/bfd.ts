import { settingCause, type ConfigSection } from './section.ts';

export interface BfdProfile {
  readonly name: string;
  readonly multiplier?: number;
  /** Milliseconds. */
  readonly transmit?: number;
  readonly receive?: number;
}
export interface BfdPart {
  readonly bfdProfiles: readonly BfdProfile[];
}

/** The profile of all sessions of a fabric, and of those with routers outside that ask for it. */
export const FABRIC_BFD: BfdProfile = { name: 'FABRIC', multiplier: 3, transmit: 300, receive: 300 };
const ON = [FABRIC_BFD];

export const bfd: ConfigSection<BfdPart> = {
  blank: { bfdProfiles: [] },
  derive: ({ fabric, routing, neighbours, speakers }) => ({
    bfdProfiles: routing && (fabric.settings.bfd || [...neighbours, ...speakers].some((n) => n.bfd === true)) ? ON : [],
  }),
  members: { bfdProfiles: { key: (p: BfdProfile) => p.name, word: 'BFD profile' } },
  words: { multiplier: 'multiplier', transmit: 'transmit interval', receive: 'receive interval' },
  causeOf: () => settingCause('bfd', 'BFD'),
};
