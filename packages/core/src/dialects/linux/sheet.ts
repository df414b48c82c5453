import { guardText, isSuspicious, type GuardedLine } from './textGuard.ts';

/** A document while it is written. What words of people went into is looked at again; what is numbers alone is not. */
export class Sheet {
  text: string;
  private words: string;
  readonly file: string;

  /** Begins with a head, in which there are words. */
  constructor(file: string, head: string) {
    this.file = file;
    this.text = head;
    this.words = head;
  }

  /** Adds lines that hold names or descriptions. */
  say(lines: string): void {
    this.text += lines;
    this.words += lines;
  }

  /** Adds lines that hold nothing but numbers and addresses that were computed, or were looked at before. */
  count(lines: string): void {
    this.text += lines;
  }

  /** Lines that must not reach a switch as they are. */
  guarded(): GuardedLine[] {
    return isSuspicious(this.file, this.words) ? guardText(this.file, this.text) : [];
  }
}
