/** Dialects that switch models name. */
export const DIALECT_NAMES = ['linux'] as const;
export type DialectName = (typeof DIALECT_NAMES)[number];

/** A document that a dialect writes. */
export interface DocumentKind {
  /** Within a dialect, e.g. `frr.conf`. */
  readonly name: string;
  /** Where it lives on the switch. */
  readonly path: string;
  /** What a comment in it begins with. */
  readonly comment: '#' | '!';
  /** Only what stands between two marks is ours; all else in it is kept byte for byte. Absent = the whole document is ours. */
  readonly region?: true;
  /** A switch, or a folder of texts, may have nothing of it: then it says nothing. Absent = it is always there. */
  readonly optional?: true;
}

/** What each dialect writes, in the order in which it renders it: texts are kept under a digest that knows that order. */
export const DOCUMENTS: Readonly<Record<DialectName, readonly DocumentKind[]>> = {
  linux: [
    { name: 'interfaces', path: '/etc/network/interfaces', comment: '#' },
    { name: 'frr.conf', path: '/etc/frr/frr.conf', comment: '!' },
    { name: 'daemons', path: '/etc/frr/daemons', comment: '#', region: true, optional: true },
    { name: 'sysctl.conf', path: '/etc/sysctl.d/90-anthemion.conf', comment: '#', optional: true },
  ],
};
/** What each dialect understands beside, where a folder of switches has it: nothing of an intent writes it yet. */
export const DOCUMENTS_READ: Readonly<Record<DialectName, readonly string[]>> = {
  linux: ['nftables.conf'],
};
const namesWhere = (optional: boolean): string[] =>
  Object.values(DOCUMENTS).flatMap((of) => of.flatMap((d) => ((d.optional ?? false) === optional ? d.name : [])));
/** Every document there is by name, each once, as people look at them: routing first, what is told once and for all last. */
export const DOCUMENT_NAMES: readonly string[] = [...new Set([...namesWhere(false).reverse(), ...namesWhere(true)])];

/** What a dialect lets ports be called on its switches. */
interface PortNaming {
  /** The name of a port whose model says no other: what the dialect does not take in a label is put otherwise. */
  readonly made: (label: string) => string;
  /** What a name may hold. */
  readonly form: RegExp;
  readonly formWords: string;
  /** The most characters of a name. */
  readonly longest: number;
  /** What a LAG of that number is called. */
  readonly lag: (number: number) => string;
}
export const PORT_NAMING: Readonly<Record<DialectName, PortNaming>> = {
  linux: {
    // The kernel takes no `/` and no `:` (IFNAMSIZ 16), a `.` is that of a VLAN, and a number alone is an index.
    made: (label) => label.replace(/^(?=\d)/, 'p').replace(/[/:.]/g, '-'),
    form: /^[A-Za-z][A-Za-z0-9_-]*$/,
    formWords: 'letters, digits, - and _, the first one a letter',
    longest: 15,
    lag: (number) => `bond${number}`,
  },
};
