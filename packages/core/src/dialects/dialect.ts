import type { Finding } from '../finding.ts';
import type { Snippet } from '../intent/intent.ts';
import type { SecretRef } from '../secrets/secretRef.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';

/** Files of one switch by name, e.g. `frr.conf`. */
export type ConfigFiles = Readonly<Record<string, string>>;

/** Told for every line the parser understands: which place in the SwitchConfig it speaks of. */
export type LineRecorder = (configPath: string, file: string, line: number) => void;

/** A line the parser does not understand, or understands and knows to be wrong. */
export interface UnreadLine {
  readonly file: string;
  /** 1-based. */
  readonly line: number;
  readonly text: string;
  readonly why: string;
}

export interface ParsedConfig {
  readonly config: SwitchConfig;
  readonly unread: readonly UnreadLine[];
}

export interface RenderedConfig {
  readonly files: ConfigFiles;
  readonly findings: readonly Finding[];
}

/** A way of writing SwitchConfig as text and reading it back: `parse(render(c)).config` equals `c`. */
export interface Dialect {
  readonly name: string;
  readonly fileNames: readonly string[];
  /** Where each file lives on the switch. */
  readonly paths: Readonly<Record<string, string>>;
  /** Snippets see the secrets by name, as masks. */
  readonly render: (
    config: SwitchConfig,
    snippets?: readonly Snippet[],
    secrets?: readonly SecretRef[],
  ) => RenderedConfig;
  readonly parse: (files: ConfigFiles, record?: LineRecorder) => ParsedConfig;
}
