/** Walks over the lines of a text that are not empty. */
export class LineWalk {
  readonly text: string;
  /** Where the line stands, without the blanks around it. */
  from = 0;
  to = 0;
  /** 1-based. */
  number = 0;
  /** How many blanks stand before it. */
  indent = 0;
  private start = 0;

  constructor(text: string) {
    this.text = text;
  }

  /** Goes to the next line; false = there is none. */
  next(): boolean {
    const { text } = this;
    while (this.start < text.length) {
      const { start } = this;
      let end = text.indexOf('\n', start);
      if (end < 0) end = text.length;
      this.number++;
      this.start = end + 1;
      let from = start;
      let to = end;
      while (from < to && isSpace(text.charCodeAt(from))) from++;
      while (to > from && isSpace(text.charCodeAt(to - 1))) to--;
      if (from === to) continue;
      this.from = from;
      this.to = to;
      this.indent = from - start;
      return true;
    }
    return false;
  }

  /** Leaves out what is known: so many lines, up to there. */
  skip(to: number, lines: number): void {
    this.start = to;
    this.number += lines;
  }
}

const isBlank = (c: number): boolean => c === 32 || c === 9;
/** Blanks, and what else the language takes for white space: a bare CR, a no-break space … */
const isSpace = (c: number): boolean =>
  c <= 32 ? isBlank(c) || (c > 9 && c < 14) : c > 127 && RARE.test(String.fromCharCode(c));
const RARE = /\s/;

/** Index of the first blank from there on, or the end. */
export function blankIn(text: string, from: number, to: number): number {
  for (let i = from; i < to; i++) if (isBlank(text.charCodeAt(i))) return i;
  return to;
}

/** Puts the words of a line into a list, in the place of what was there. */
export function wordsInto(words: string[], text: string, start: number, end: number): void {
  words.length = 0;
  for (let from = start; from < end;) {
    const to = blankIn(text, from, end);
    if (to > from) words.push(text.slice(from, to));
    from = to + 1;
  }
}
