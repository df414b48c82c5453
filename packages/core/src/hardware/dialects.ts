/** Dialects that switch models name. */
export const DIALECT_NAMES = ['linux'] as const;
export type DialectName = (typeof DIALECT_NAMES)[number];

/** A document that a dialect writes. */
export interface DocumentKind {
  /** Within a dialect, e.g. `frr.conf`. */
  readonly name: string;
  /** Where it lives on the switch. */
  readonly path: string;
  /**
   * Absent = the whole document is ours. Else only what stands between two marks is, written as comments with this sign;
   * all else in it is kept byte for byte.
   */
  readonly region?: '#' | '!';
}

/** What each dialect writes, in the order in which it is written to a switch. */
export const DOCUMENTS: Readonly<Record<DialectName, readonly DocumentKind[]>> = {
  linux: [
    { name: 'interfaces', path: '/etc/network/interfaces' },
    { name: 'frr.conf', path: '/etc/frr/frr.conf' },
  ],
};
/** What each dialect understands beside, where a folder of switches has it: nothing of an intent writes it yet. */
export const DOCUMENTS_READ: Readonly<Record<DialectName, readonly string[]>> = {
  linux: ['nftables.conf'],
};
/** Every document there is by name, each once. */
export const DOCUMENT_NAMES: readonly string[] = [
  ...new Set(Object.values(DOCUMENTS).flatMap((of) => of.map((d) => d.name))),
];
