/** Documents of one switch by name, e.g. `frr.conf`. */
export type ConfigFiles = Readonly<Record<string, string>>;

export type { DocumentKind } from '../hardware/dialects.ts';
