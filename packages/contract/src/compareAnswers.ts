import type { Between, ConfigFiles } from '@anthemion/core';

/** A text a switch was seen to run, once for each time it became another. */
export interface BackupAnswer {
  readonly id: number;
  /** When it was first read. */
  readonly at: string;
  /** Where the switch sat then; empty = nowhere. */
  readonly fabric: string;
  readonly seat: string;
  readonly host: string;
  /** The revisions that mean just this text; null = none does: it was made by hand, or was there before. */
  readonly revisions: { readonly first: number; readonly last: number } | null;
}
export interface BackupTextAnswer extends Omit<BackupAnswer, 'revisions'> {
  readonly serial: string;
  readonly files: ConfigFiles;
}

/** How a switch stands between two moments; a switch that one of them does not have, or of which it has no text, is said. */
export type BetweenStand = 'same' | 'differs' | 'only left' | 'only right' | 'no text left' | 'no text right';
export interface SwitchBetween {
  readonly seat: string;
  readonly host: string;
  readonly stand: BetweenStand;
  readonly added: number;
  readonly removed: number;
}
/** A fabric at two moments. */
export interface FabricBetween {
  /** What to call the moments: `revision 3`, `what is live`. */
  readonly left: string;
  readonly right: string;
  /** The edits that lead from left to right; null = a moment is not one of intent, or of before this release’s. */
  readonly edits: readonly string[] | null;
  /** Those that differ first. */
  readonly switches: readonly SwitchBetween[];
}
/** One side of a comparison of texts. */
export interface TextSide {
  readonly seat: string;
  readonly host: string;
  /** What to call it. */
  readonly title: string;
  /** When it was read, or went live; null = it is not of a time. */
  readonly at: string | null;
  readonly files: ConfigFiles | null;
}
/** Texts of two moments, or of two switches. */
export interface TextsBetween {
  readonly left: TextSide;
  readonly right: TextSide;
  /** In what they differ, in meaning; null = a side has no text. */
  readonly says: readonly Between[] | null;
}
