/** A block of text that was read before. */
export interface KeptBlock<T> {
  readonly made: T;
  /** Line feeds in its text, without a line that was cut out. */
  readonly lines: number;
}

const copyOf = <T>(plain: T): T => JSON.parse(JSON.stringify(plain)) as T;
const MOST_BYTES = 8 * 2 ** 20;

/** A block of text around the line in which switches differ, and what that line says. */
export interface CutBlock {
  readonly before: string;
  readonly own: string;
  readonly after: string;
}
/** One in which nothing is anybody’s own. */
export const uncut = (text: string): CutBlock => ({ before: text, own: '', after: '' });

/**
 * Cuts a line out of a block, the first that begins so.
 * @param mark how it begins, the line feed before it and its indentation included
 * @returns null where there is none
 */
export function cutOwn(block: string, mark: string): CutBlock | null {
  const at = block.indexOf(mark);
  if (at < 0) return null;
  const feed = block.indexOf('\n', at + mark.length);
  const end = feed < 0 ? block.length : feed;
  return { before: block.slice(0, at), own: block.slice(at + mark.length, end), after: block.slice(end) };
}

/**
 * Plain values that were made of blocks of text, by the text but for a line that is cut out, as much as fits; then it begins
 * anew. Of blocks that begin alike the last one is kept.
 */
export class KeptBlocks<T> {
  private readonly blocks = new Map<string, KeptBlock<T> & { readonly after: string }>();
  private bytes = 0;

  get({ before, after }: CutBlock): KeptBlock<T> | undefined {
    const known = this.blocks.get(before);
    return known?.after === after ? known : undefined;
  }

  /** Keeps copies: parts of a text would hold the whole of it in memory. */
  keep({ before, after }: CutBlock, made: T): void {
    this.bytes += 2 * (before.length + after.length);
    if (this.bytes > MOST_BYTES) {
      this.blocks.clear();
      this.bytes = 2 * (before.length + after.length);
    }
    this.blocks.set(copyOf(before), {
      made: copyOf(made),
      lines: feedsIn(before) + feedsIn(after),
      after: copyOf(after),
    });
  }
}

/** Longer ones are none that many switches have. */
const LONGEST = 2000;
/**
 * A block of a text, up to where its end is written; null = that is not near. Nothing beyond is looked at: where no block of a
 * long text is ended, each would be looked for to the end of all.
 */
export function blockFrom(text: string, from: number, end: string): string | null {
  const near = text.slice(from, from + LONGEST);
  const at = near.indexOf(end);
  return at < 0 ? null : near.slice(0, at);
}

/** How many line feeds there are in a text. */
export function feedsIn(text: string): number {
  let feeds = 0;
  for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) feeds++;
  return feeds;
}
