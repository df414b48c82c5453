import { blockFrom, cutOwn, feedsIn, KeptBlocks, uncut } from './keptBlocks.ts';

/** A word whose value alone is each switch’s own in stanzas of a kind that are alike. */
export interface OwnWord {
  /** Of the kind, among all kinds. */
  readonly rank: number;
  readonly word: string;
  /** The item with another value; null = it takes none such. */
  with(item: object, value: string): object | null;
}
/** What is kept of a stanza: what was made of it, and its text around what is the switch’s own. */
interface Kept {
  readonly rank: number;
  readonly name: string;
  readonly item: object;
  /** From its line `auto` to what is its own, or to its end. */
  readonly head: string;
  /** Behind what is its own; null = nothing is. */
  readonly tail: string | null;
  /** How many lines it has below its line `iface`. */
  readonly lines: number;
  /** The one that stood behind it last. */
  next: Kept | null;
}
/** A stanza in a text that was read before, or one that is alike but for what is the switch’s own. */
export interface KnownStanza {
  readonly kept: Kept;
  readonly item: object;
  /** Where its last line ends. */
  readonly to: number;
}

/** Does another stanza begin behind one that ends there, after a blank line? */
const isWhole = (text: string, to: number): boolean =>
  text.startsWith('\n\n', to) && (text.startsWith('auto ', to + 2) || text.startsWith('iface ', to + 2));

/** A stanza from its line `iface` to its last, without the line feed of that, if another begins behind it; else null. */
export function wholeStanza(text: string, from: number): string | null {
  const stanza = blockFrom(text, from, '\n\n');
  return stanza !== null && isWhole(text, from + stanza.length) ? stanza : null;
}

/** Stanzas that stand word for word in many texts: they are read once. */
export class KnownStanzas {
  /** With how the line of the word begins, the line feed before it included. */
  private readonly owned: readonly (OwnWord & { readonly mark: string })[];
  private readonly blocks = new KeptBlocks<Kept>();

  constructor(owned: readonly OwnWord[]) {
    this.owned = owned.map((o) => ({ ...o, mark: `\n    ${o.word} ` }));
  }

  /** @param text from its line `iface` to its last, without the line feed of that */
  keep(text: string, rank: number, name: string, item: object): void {
    const mark = this.owned.find((o) => o.rank === rank)?.mark;
    const cut = mark === undefined ? null : cutOwn(text, mark);
    // Said twice, it is the last that counts.
    if (cut?.after.includes(mark!)) return;
    const head = `auto ${name}\n${cut ? cut.before + mark! : text}`;
    const lines = feedsIn(text);
    this.blocks.keep(cut ?? uncut(text), { rank, name, item, head, tail: cut && cut.after, lines, next: null });
  }

  /** The stanza that stood behind one the last time, if it stands there again: most do, and need not be looked up. */
  behind({ kept: { next }, to: from }: KnownStanza, text: string): KnownStanza | null {
    if (!next || !text.startsWith(next.head, from + 2)) return null;
    const end = from + 2 + next.head.length;
    if (next.tail === null) return isWhole(text, end) ? { kept: next, item: next.item, to: end } : null;
    const feed = text.indexOf('\n', end);
    const to = feed + next.tail.length;
    if (feed < 0 || !text.startsWith(next.tail, feed) || !isWhole(text, to)) return null;
    return this.told(next, text.slice(end, feed), to);
  }

  /**
   * One that was read before, wherever it stood.
   * @param whole from its line `iface` on, as `wholeStanza` has it
   */
  find(whole: string, to: number): KnownStanza | null {
    const own = this.owned.flatMap(({ mark }) => cutOwn(whole, mark) ?? [])[0];
    const kept = this.blocks.get(own ?? uncut(whole))?.made;
    if (!kept) return null;
    return own ? this.told(kept, own.own, to) : { kept, item: kept.item, to };
  }

  /** One with what is its own. */
  private told(kept: Kept, own: string, to: number): KnownStanza | null {
    const item = this.owned.find((o) => o.rank === kept.rank)?.with(kept.item, own);
    return item ? { kept, item, to } : null;
  }
}
