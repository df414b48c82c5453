import type { Place, SwitchConfig } from '../config/switchConfig.ts';
import type { Finding } from '../finding.ts';
import type { PortNames } from '../hardware/portNames.ts';
import type { DialectName } from '../hardware/dialects.ts';
import type { Snippet } from '../intent/intent.ts';
import type { SecretRef } from '../secrets/secretRef.ts';
import type { ConfigFiles, DocumentKind } from './documents.ts';

/** Told for every line the parser understands: which place it speaks of; none = the dialect writes it everywhere. */
export type LineRecorder = (place: Place, file: string, line: number) => void;

/** A line the parser does not understand, or understands and knows to be wrong. */
export interface UnreadLine {
  readonly file: string;
  /** 1-based. */
  readonly line: number;
  readonly text: string;
  readonly why: string;
  /**
   * What it may change, seen from the place it stands in: answers that hang on it are uncertain; the empty place is the
   * whole switch. Absent = nothing: it is refused, or what becomes of it is known and read.
   */
  readonly doubts?: Place;
  /** It is understood, and nothing that is computed hangs on it, for the reason in `why`. */
  readonly harmless?: true;
  /** The document in which something it speaks of is missing; by itself the line is right. */
  readonly needs?: string;
  /** The block a daemon puts it into, which is not the one it stands in; it is read as what it says there. */
  readonly landed?: string;
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
  readonly name: DialectName;
  /** The documents it writes, in the order in which they are written to a switch. */
  readonly documents: readonly DocumentKind[];
  /** Documents it understands where they are there, beside those that it writes. */
  readonly reads: readonly string[];
  /** What the switches it speaks to call their ports; configurations have the labels. */
  readonly ports: PortNames;
  /** Was it tried with that version of a switch's software, as the switch says it? */
  readonly triedWith: (version: string) => boolean;
  /** Snippets see the secrets by name, as masks. */
  readonly render: (
    config: SwitchConfig,
    snippets?: readonly Snippet[],
    secrets?: readonly SecretRef[],
  ) => RenderedConfig;
  /**
   * @param last what was read of this switch before, null = nothing yet: documents that are the same as then are not read again
   */
  readonly parse: (files: ConfigFiles, record?: LineRecorder, last?: ParsedConfig | null) => ParsedConfig;
  /** What of the texts has the switch’s routing started anew, so that all it does for others stops for a while; mostly nothing. */
  readonly restartedFor: (before: ConfigFiles, after: ConfigFiles) => readonly string[];
}
