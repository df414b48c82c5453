import { guardText, isSuspicious, type GuardedLine } from './textGuard.ts';

/**
 * A word of letters, digits and a few marks: within a line that begins with a word of ours it can be nothing that is
 * guarded, neither code nor a program nor a secret (whose mask has a colon in it).
 */
export const isPlain = (word: string): boolean => /^[\w./-]+$/.test(word);

/** A document while it is written. What words of people went into is looked at again; what is numbers alone is not. */
export class Sheet {
  readonly file: string;
  private text: string;
  private words: string;

  /** Begins with a head, in which there are words. */
  constructor(file: string, head: string) {
    this.file = file;
    this.text = head;
    this.words = head;
  }

  /**
   * Adds lines that hold names or descriptions.
   * @param words those of the lines in which they are, where the others hold nothing but plain words (`isPlain`)
   */
  say(lines: string, words = lines): void {
    this.text += lines;
    this.words += words;
  }

  /** Adds lines that hold nothing but numbers and addresses that were computed, or were looked at before. */
  count(lines: string): void {
    this.text += lines;
  }

  /** The whole text, and what of it must not reach a switch as it is. */
  finish(): { readonly text: string; readonly guarded: readonly GuardedLine[] } {
    const { text } = this;
    return { text, guarded: isSuspicious(this.file, this.words) ? guardText(this.file, text) : [] };
  }
}
