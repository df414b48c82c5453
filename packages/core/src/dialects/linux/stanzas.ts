import type { Place } from '../../config/switchConfig.ts';
import type { LineRecorder, UnreadLine } from '../dialect.ts';
import type { ConfigDraft } from './draft.ts';
import { blankIn, eachLine } from './lines.ts';

const FILE = 'interfaces';

/** A word of a stanza: reads its value into the item; answers null for good, or why the value is wrong. */
export interface Word<T> {
  read(item: T, value: string): string | null;
  /** The field of the item it speaks of; absent = of the item itself. */
  readonly field?: string;
}
export const word = <T>(field: string | undefined, read: Word<T>['read']): Word<T> =>
  field === undefined ? { read } : { read, field };

/** A kind of interface of ifupdown2. */
export interface StanzaKind<T> {
  /** A stanza with one of these words is of this kind. */
  readonly marks: readonly string[];
  /** A new item in the draft, for a stanza of that name. */
  open(name: string, draft: ConfigDraft): T;
  readonly words: Readonly<Record<string, Word<T>>>;
  /** Called when all its lines were read. */
  close?(item: T, name: string): void;
  place(item: T): Place;
  /** Does the line that opens it speak of no place? */
  readonly everywhere?: boolean;
}

/** What a word may mean: by kind of stanza, and which kind it makes a stanza. */
interface KnownWord {
  readonly rank: number;
  readonly byKind: readonly (Word<object> | undefined)[];
}
/** The lines of a stanza, side by side. */
interface Stanza {
  readonly name: string;
  readonly number: number;
  /** Least rank of its words. */
  rank: number;
  readonly words: (KnownWord | undefined)[];
  readonly values: string[];
  readonly numbers: number[];
  /** Words that no kind knows, by their index. */
  strange: Map<number, string> | null;
}

/** Reads `interfaces`: kinds in the order in which their marks count, the last for all that have none. */
export class InterfacesReader {
  private readonly kinds: readonly StanzaKind<object>[];
  private readonly words = new Map<string, KnownWord>();
  private readonly loopback: number;

  constructor(loopback: StanzaKind<object>, kinds: readonly StanzaKind<object>[]) {
    this.kinds = [...kinds, loopback];
    this.loopback = kinds.length;
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
    for (const stanza of this.stanzasOf(text, unread)) this.readStanza(stanza, draft, unread, record);
  }

  private readStanza(s: Stanza, draft: ConfigDraft, unread: UnreadLine[], record?: LineRecorder): void {
    const rank = s.name === 'lo' ? this.loopback : s.rank;
    const kind = this.kinds[rank]!;
    const item = kind.open(s.name, draft);
    const fields: (string | undefined | null)[] | null = record ? [] : null;
    for (let i = 0; i < s.words.length; i++) {
      const known = s.words[i]?.byKind[rank];
      const why = known ? known.read(item, s.values[i]!) : '';
      fields?.push(why === null ? known!.field : null);
      if (why !== null) unread.push(this.unreadLine(s, i, why));
    }
    kind.close?.(item, s.name);
    if (!record || !fields) return;
    const place = kind.place(item) as readonly string[];
    const head = (kind.everywhere ? [] : place) as readonly string[] as Place;
    record(head, FILE, s.number);
    record(head, FILE, s.number - 1);
    fields.forEach((field, i) => {
      if (field !== null)
        record((field === undefined ? place : [...place, field]) as readonly string[] as Place, FILE, s.numbers[i]!);
    });
  }

  /** `why` is empty where the kind does not know the word. */
  private unreadLine(s: Stanza, i: number, why: string): UnreadLine {
    const known = s.words[i];
    const key = s.strange?.get(i) ?? [...this.words].find(([, w]) => w === known)![0];
    return {
      file: FILE,
      line: s.numbers[i]!,
      text: `${key} ${s.values[i]}`.trim(),
      why: why === '' ? `${key} is not a word for this kind of interface` : why,
    };
  }

  /** The stanzas of a text; what is said of one name in two places is one stanza. */
  private stanzasOf(text: string, unread: UnreadLine[]): Stanza[] {
    const out: Stanza[] = [];
    const byName = new Map<string, Stanza>();
    let current: Stanza | null = null;
    eachLine(text, (line, number) => {
      if (line.charCodeAt(0) === 35) return;
      const space = blankIn(line, 0);
      const key = line.slice(0, space);
      const value = space === line.length ? '' : line.slice(space + 1).trimStart();
      const known = this.words.get(key);
      if (known && current) {
        current.words.push(known);
        current.values.push(value);
        current.numbers.push(number);
        if (known.rank < current.rank) current.rank = known.rank;
      } else if (key === 'auto' || key === 'allow-hotplug') current = null;
      else if (key === 'iface') {
        const name = value.slice(0, blankIn(value, 0));
        const before = byName.get(name);
        current = before ?? {
          name,
          number,
          rank: this.loopback - 1,
          words: [],
          values: [],
          numbers: [],
          strange: null,
        };
        if (!before) {
          byName.set(name, current);
          out.push(current);
        }
      } else if (key === 'source' || !current)
        unread.push({ file: FILE, line: number, text: line, why: 'it stands outside a stanza' });
      else {
        (current.strange ??= new Map()).set(current.words.length, key);
        current.words.push(undefined);
        current.values.push(value);
        current.numbers.push(number);
      }
    });
    return out;
  }
}
