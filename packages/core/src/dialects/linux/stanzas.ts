import type { Place } from '../../config/switchConfig.ts';
import { PORT_NAMING } from '../../hardware/dialects.ts';
import type { LineRecorder, UnreadLine } from '../dialect.ts';
import type { ConfigDraft } from './draft.ts';
import type { Harmless } from './blocks.ts';
import { strangeWord } from './interfaceWords.ts';
import { feedsIn } from './keptBlocks.ts';
import { KnownStanzas, wholeStanza, type KnownStanza } from './knownStanzas.ts';
import { blankIn, LineWalk } from './lines.ts';

const FILE = 'interfaces';

/** A word of a stanza: reads its value into the item; answers null for good, why the value is wrong, or why it does not matter. */
export interface Word<T> {
  read(item: T, value: string, line: number): string | Harmless | null;
  /** The field of the item it speaks of; absent = of the item itself. */
  readonly field?: string;
}
export const word = <T>(field: string | undefined, read: Word<T>['read']): Word<T> =>
  field === undefined ? { read } : { read, field };

const { longest } = PORT_NAMING.linux;
/** Why the kernel makes no interface of a name, or null (IFNAMSIZ, dev_valid_name). */
const noName = (name: string): string | null =>
  name.length > longest
    ? `a name has at most ${longest} characters, this one ${name.length}: the kernel makes no such interface`
    : /[/:]/.test(name)
      ? 'a name holds no / and no : there: the kernel makes no such interface'
      : null;

/** A kind of interface of ifupdown2. */
export interface StanzaKind<T> {
  /** A stanza with one of these words is of this kind. */
  readonly marks: readonly string[];
  /** Why nothing of that name is made, or null. */
  refuses?(name: string): string | null;
  /** A new item in the draft, for a stanza of that name. */
  open(name: string, draft: ConfigDraft): T;
  readonly words: Readonly<Record<string, Word<T>>>;
  /** Called when all its lines were read. */
  close?(item: T, name: string): void;
  place(item: T): Place;
  /** Does the line that opens it speak of no place? */
  readonly everywhere?: boolean;
  /**
   * Is it one that many switches have alike, and that nothing else of a text adds to? Then it is kept, and not read again
   * where it stands word for word.
   */
  alike?(item: T): boolean;
  /** Puts one that was kept into a draft. */
  take?(item: T, draft: ConfigDraft): void;
  /** The word whose value alone is each switch’s own in stanzas that are alike; and one of them with another value, null = it takes none such. */
  readonly own?: { readonly word: string; with(item: T, value: string): T | null };
}

/** What a word may mean: by kind of stanza, and which kind it makes a stanza. */
interface KnownWord {
  readonly rank: number;
  readonly byKind: readonly (Word<object> | undefined)[];
}
/** A stanza: lines from one index to another, and those that are said of the same name further down. */
interface Stanza {
  readonly name: string;
  readonly number: number;
  /** Least rank of its words. */
  rank: number;
  readonly from: number;
  to: number;
  more: Stanza | null;
  /** Does a line above it say that it is brought up? */
  readonly brought: boolean;
  /** Its words as they stand, where they stand in one piece. */
  readonly text: string | null;
}

/** Reads `interfaces`: kinds in the order in which their marks count, the last for all that have none. */
export class InterfacesReader {
  private readonly kinds: readonly StanzaKind<object>[];
  private readonly words = new Map<string, KnownWord>();
  private readonly loopback: number;
  private readonly known: KnownStanzas;

  constructor(loopback: StanzaKind<object>, kinds: readonly StanzaKind<object>[]) {
    this.kinds = [...kinds, loopback];
    this.loopback = kinds.length;
    this.known = new KnownStanzas(kinds.flatMap(({ own }, rank) => (own ? { ...own, rank } : [])));
    const keys = new Set(this.kinds.flatMap((k) => [...k.marks, ...Object.keys(k.words)]));
    for (const key of keys) {
      const mark = kinds.findIndex((k) => k.marks.includes(key));
      this.words.set(key, {
        rank: mark < 0 ? kinds.length - 1 : mark,
        byKind: this.kinds.map((k) => (Object.hasOwn(k.words, key) ? k.words[key] : undefined)),
      });
    }
  }

  read(text: string, draft: ConfigDraft, unread: UnreadLine[], record?: LineRecorder): void {
    const { stanzas, lines } =
      (record ? null : this.stanzasOf(text, unread, true)) ?? this.stanzasOf(text, unread, false)!;
    for (const s of stanzas)
      if ('kept' in s) this.kinds[s.kept.rank]!.take!(s.item, draft);
      else this.readStanza(s, lines, draft, unread, record);
  }

  private readStanza(s: Stanza, lines: Lines, draft: ConfigDraft, unread: UnreadLine[], record?: LineRecorder): void {
    let { rank } = s;
    for (let part = s.more; part; part = part.more) rank = Math.min(rank, part.rank);
    if (s.name === 'lo') rank = this.loopback;
    const kind = this.kinds[rank]!;
    const dead = this.isBrought(s) ? (noName(s.name) ?? kind.refuses?.(s.name) ?? null) : NOT_BROUGHT;
    if (dead !== null) {
      unread.push({ file: FILE, line: s.number, text: `iface ${s.name}`, why: dead });
      return;
    }
    const said = unread.length;
    const item = kind.open(s.name, draft);
    const read: { readonly field: string | undefined; readonly number: number }[] = [];
    for (let part: Stanza | null = s; part; part = part.more)
      for (let i = part.from; i < part.to; i++) {
        const known = lines.words[i]?.byKind[rank];
        const why = known ? known.read(item, lines.values[i]!, lines.numbers[i]!) : '';
        if (why !== null) unread.push(this.unreadLine(lines, i, why, kind.place(item), rank));
        else if (record) read.push({ field: known!.field, number: lines.numbers[i]! });
      }
    kind.close?.(item, s.name);
    if (!record) {
      const clean = unread.length === said && !s.more;
      // Each of its lines is one of the stanza: it holds no other, and no comment.
      if (clean && s.text !== null && kind.alike?.(item) && feedsIn(s.text) === s.to - s.from)
        this.known.keep(s.text, rank, s.name, item);
      return;
    }
    const place = kind.place(item) as readonly string[];
    const head = (kind.everywhere ? [] : place) as readonly string[] as Place;
    record(head, FILE, s.number);
    record(head, FILE, s.number - 1);
    for (const { field, number } of read)
      record((field === undefined ? place : [...place, field]) as readonly string[] as Place, FILE, number);
  }

  private isBrought(s: Stanza): boolean {
    for (let part: Stanza | null = s; part; part = part.more) if (part.brought) return true;
    return false;
  }

  /** `why` is empty where the kind does not know the word. */
  private unreadLine(lines: Lines, i: number, why: string | Harmless, place: Place, rank: number): UnreadLine {
    const known = lines.words[i];
    const key = lines.strange.get(i) ?? [...this.words].find(([, w]) => w === known)![0];
    const said = { file: FILE, line: lines.numbers[i]!, text: `${key} ${lines.values[i]}`.trim() };
    if (typeof why === 'object') return { ...said, why: why.harmless, harmless: true };
    if (why !== '') return { ...said, why, doubts: place };
    // What makes an interface of another kind: what ifupdown2 then makes of the two is not known.
    if (known && known.rank !== rank && known.rank < this.loopback - 1)
      return { ...said, why: `${key} makes another kind of interface than its stanza is`, doubts: [] };
    const { why: strange, harmless, doubts, doubtful } = strangeWord(key);
    return {
      ...said,
      why: strange,
      ...(harmless ? { harmless } : {}),
      ...(doubtful ? { doubts: doubts ?? place } : {}),
    };
  }

  /**
   * The stanzas of a text; what is said of one name in two places is one stanza. Null = there is such a one, and with what
   * was kept that cannot be read.
   */
  private stanzasOf(
    text: string,
    unread: UnreadLine[],
    fromKept: boolean,
  ): { readonly stanzas: (Stanza | KnownStanza)[]; readonly lines: Lines } | null {
    const lines = new Lines();
    const said = unread.length;
    const anew = (): null => {
      unread.length = said;
      return null;
    };
    const out: (Stanza | KnownStanza)[] = [];
    /** Of each name the last; null = known. */
    const byName = new Map<string, Stanza | null>();
    const brought = new BroughtUp();
    let current = null as Stanza | null;
    /** The stanza above, if it was known. */
    let last = null as KnownStanza | null;
    const walk = new LineWalk(text);
    while (walk.next()) {
      const { from, to, number } = walk;
      if (text.charCodeAt(from) === 35) continue;
      const space = blankIn(text, from, to);
      const key = text.slice(from, space);
      const value = space === to ? '' : text.slice(space + 1, to).trimStart();
      const known = this.words.get(key);
      if (known && current) {
        current.to = lines.add(known, value, number);
        if (known.rank < current.rank) current.rank = known.rank;
      } else if (key === 'auto' || key === 'allow-hotplug') {
        current = null;
        brought.add(value);
      } else if (key === 'iface') {
        const name = value.slice(0, blankIn(value, 0, value.length));
        const whole = fromKept ? wholeStanza(text, from) : null;
        let seen = whole !== null && brought.has(name) ? this.known.find(whole, from + whole.length) : null;
        if (last && seen) last.kept.next = seen.kept;
        last = null;
        // With it those behind it, as they stood there the last time: each after a blank line and its line `auto`.
        for (; seen; seen = this.known.behind(seen, text)) {
          if (byName.has(seen.kept.name)) return anew();
          byName.set(seen.kept.name, null);
          out.push(seen);
          walk.skip(seen.to + 1, seen.kept.lines + (last ? 3 : 0));
          last = seen;
        }
        current = null;
        if (last) continue;
        const before = byName.get(name);
        if (fromKept && before !== undefined) return anew();
        const at = lines.values.length;
        current = {
          name,
          number,
          rank: this.loopback - 1,
          from: at,
          to: at,
          more: null,
          brought: brought.has(name),
          text: whole,
        };
        if (before) before.more = current;
        else out.push(current);
        byName.set(name, current);
      } else if (key === 'source' || !current)
        unread.push({
          file: FILE,
          line: number,
          text: text.slice(from, to),
          why: 'it stands outside a stanza',
          // What is no keyword of ifupdown2 is refused there, and the rest of the file counts (its networkinterfaces.py).
          ...(KEYWORDS.test(key) ? { doubts: [] } : {}),
        });
      else {
        lines.strange.set(lines.values.length, key);
        current.to = lines.add(undefined, value, number);
      }
    }
    return { stanzas: out, lines };
  }
}

/** First words by which ifupdown2 takes a line that stands for itself. */
const KEYWORDS = /^(source|source-directory|template|vlan|rename|mapping|allow-.*|no-auto-down|no-scripts)$/;
const NOT_BROUGHT = 'no line “auto” above it names it, so ifupdown2 never brings it up';

/** Names on the lines `auto` so far: one by one, `p[1-4]`, or `all`. What stands above them is not brought up by them. */
class BroughtUp {
  private readonly names = new Set<string>();
  private all = false;

  add(value: string): void {
    // Mostly one name, and letters and digits alone.
    if (!SEVERAL.test(value)) {
      this.all ||= value === 'all';
      this.names.add(value);
      return;
    }
    for (const name of value.split(/\s+/)) {
      this.all ||= name === 'all';
      const range = /^([\w.]+)\[(\d+)-(\d+)\]([.\w]*)/.exec(name);
      if (!range) this.names.add(name);
      else
        for (let n = Number(range[2]); n <= Math.min(Number(range[3]), Number(range[2]) + MOST_IN_RANGE); n++)
          this.names.add(`${range[1]}${n}${range[4]}`);
    }
  }
  has(name: string): boolean {
    return this.all || this.names.has(name);
  }
}
const MOST_IN_RANGE = 4096;
const SEVERAL = /[\s[]/;

/** The lines of all stanzas of a text, side by side. */
class Lines {
  readonly words: (KnownWord | undefined)[] = [];
  readonly values: string[] = [];
  readonly numbers: number[] = [];
  /** Words that no kind knows, by their index. */
  readonly strange = new Map<number, string>();

  /** @returns the index after it */
  add(word: KnownWord | undefined, value: string, number: number): number {
    this.words.push(word);
    this.values.push(value);
    return this.numbers.push(number);
  }
}
