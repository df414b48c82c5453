/** A block of text that was read before. */
export interface KeptBlock<T> {
  readonly made: T;
  /** Line feeds in its text. */
  readonly lines: number;
}

const copyOf = <T>(plain: T): T => JSON.parse(JSON.stringify(plain)) as T;
const MOST_BYTES = 8 * 2 ** 20;

/** Plain values that were made of blocks of text, by the text, as much as fits; then it begins anew. */
export class KeptBlocks<T> {
  private readonly blocks = new Map<string, KeptBlock<T>>();
  private bytes = 0;

  get(text: string): KeptBlock<T> | undefined {
    return this.blocks.get(text);
  }

  /** Keeps copies: parts of a text would hold the whole of it in memory. */
  keep(text: string, made: T): void {
    this.bytes += 2 * text.length;
    if (this.bytes > MOST_BYTES) {
      this.blocks.clear();
      this.bytes = 2 * text.length;
    }
    this.blocks.set(copyOf(text), { made: copyOf(made), lines: feedsIn(text) });
  }
}

/** How many line feeds there are in a text. */
export function feedsIn(text: string): number {
  let feeds = 0;
  for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) feeds++;
  return feeds;
}
