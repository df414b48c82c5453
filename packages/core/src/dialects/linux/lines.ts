/** Calls with every line that is not empty, without blanks at its ends, its number from 1, and how many stood before it. */
export function eachLine(text: string, take: (line: string, number: number, indent: number) => void): void {
  let number = 0;
  let start = 0;
  while (start < text.length) {
    let end = text.indexOf('\n', start);
    if (end < 0) end = text.length;
    number++;
    let from = start;
    let to = end;
    while (from < to && isBlank(text.charCodeAt(from))) from++;
    while (to > from && isBlank(text.charCodeAt(to - 1))) to--;
    // Blanks that are rare, such as a bare CR or a no-break space, are taken off by the language’s own means.
    if (from < to) {
      const line = text.slice(from, to);
      const kept = isPlain(line.charCodeAt(0)) && isPlain(line.charCodeAt(line.length - 1)) ? line : line.trim();
      if (kept !== '') take(kept, number, from - start);
    }
    start = end + 1;
  }
}

const isBlank = (c: number): boolean => c === 32 || c === 9;
const isPlain = (c: number): boolean => c > 32 && c < 127;

/** Index of the first blank from there on, or the length. */
export function blankIn(line: string, from: number): number {
  for (let i = from; i < line.length; i++) if (isBlank(line.charCodeAt(i))) return i;
  return line.length;
}

/** The words of a line. */
export function wordsOf(line: string): string[] {
  const out: string[] = [];
  for (let from = 0; from < line.length;) {
    const to = blankIn(line, from);
    if (to > from) out.push(line.slice(from, to));
    from = to + 1;
  }
  return out;
}
