/** Documents of one switch by name, e.g. `frr.conf`. */
export type ConfigFiles = Readonly<Record<string, string>>;

/** A document that a dialect writes. */
export interface DocumentKind {
  /** Within a dialect, e.g. `frr.conf`. */
  readonly name: string;
  /** Where it lives on the switch. */
  readonly path: string;
}
