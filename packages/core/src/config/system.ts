import type { ConfigSection } from './section.ts';

/** What the switch is called. */
export interface SystemPart {
  readonly hostname: string;
}

export const system: ConfigSection<SystemPart> = {
  blank: { hostname: '' },
  derive: ({ seat }) => ({ hostname: seat.host }),
  members: {},
  words: { hostname: 'host name' },
  causeOf: () => ({ subject: 'fabric', label: 'name of the seat' }),
};
