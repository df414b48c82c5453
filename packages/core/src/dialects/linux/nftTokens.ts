/** A word, a mark or the end of a line of `nftables.conf`. */
export interface NftToken {
  /** `\n` at the end of a line; quotes of a quoted word are taken off. */
  readonly text: string;
  /** 1-based. */
  readonly line: number;
  readonly quoted?: true;
}

const MARKS = new Set(['{', '}', '(', ')', ',', ';', '=', '<', '>', '!', '&', '|', '^']);
const isWord = (c: string): boolean => c !== '"' && c !== '#' && !MARKS.has(c) && !/\s/.test(c);

/** Cuts a text into tokens; comments are left out, and a line that ends in `\` goes on. Linear. */
export function nftTokens(text: string): NftToken[] {
  const out: NftToken[] = [];
  let line = 1;
  for (let at = 0; at < text.length; at++) {
    const c = text[at]!;
    if (c === '\n') out.push({ text: '\n', line: line++ });
    else if (c === '#') {
      const end = text.indexOf('\n', at);
      at = (end < 0 ? text.length : end) - 1;
    } else if (c === '\\' && text[at + 1] === '\n') {
      line++;
      at++;
    } else if (c === '"') {
      const end = text.indexOf('"', at + 1);
      const word = text.slice(at + 1, end < 0 ? undefined : end);
      out.push({ text: word, line, quoted: true });
      line += word.split('\n').length - 1;
      at = end < 0 ? text.length : end;
    } else if (MARKS.has(c)) {
      const two = text.slice(at, at + 2);
      const mark = two === '!=' || two === '==' || two === '<=' || two === '>=' ? two : c;
      out.push({ text: mark, line });
      at += mark.length - 1;
    } else if (isWord(c)) {
      let end = at + 1;
      while (end < text.length && isWord(text[end]!)) end++;
      out.push({ text: text.slice(at, end), line });
      at = end - 1;
    }
  }
  return out;
}
