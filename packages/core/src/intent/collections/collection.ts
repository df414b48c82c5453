import type { AnySchema } from 'yup';
import { FEC_WORDS, FECS, isSpeed, speedWords, SPEEDS, type Drive } from '../../hardware/drive.ts';
import { naturally } from '../../numbers/order.ts';
import type { ObjectKind, Subject } from '../../subject.ts';
import type { FabricIntent } from '../intent.ts';

/** One object names another, and what becomes of the first when the other is removed. */
export interface Reference {
  readonly to: Subject;
  /** `holds`: the removal is refused; `goes`: this object goes with it; `forgets`: it stays and names the other no more. */
  readonly ends: 'holds' | 'goes' | 'forgets';
}

/** Something an object says of itself. */
export interface Field<Item> {
  /** Member of the object, and its place in an edit; empty where the object is a bare value. */
  readonly key: string;
  /** As the interface calls it. */
  readonly label: string;
  readonly value: (item: Item) => unknown;
  /** As people write it; empty = it says nothing. */
  readonly text: (item: Item) => string;
  /** What holds where it says nothing: `drawn`; absent = `none`. */
  readonly empty?: string;
  /** Reads what `text` writes; null = it is not written so. Absent = it does not come in from a table. */
  readonly read?: (text: string) => unknown;
  /** How it is written, where `read` refuses: “Write a whole number.” */
  readonly form?: string;
}

/**
 * One kind of object in an intent: what it is called, how it is found, what it names. Difference, inverse, rebase, conflicts,
 * tables in and out, and what goes with a removal are functions over these, so a new kind is one row of `COLLECTIONS`.
 */
export interface Collection<Item = unknown, K extends ObjectKind = ObjectKind> {
  readonly kind: K;
  /** For people, in the middle of a sentence: `rack pattern`. */
  readonly word: string;
  /** The part of the intent that holds it. */
  readonly part: keyof FabricIntent;
  /** Schema of one object. */
  readonly schema: AnySchema;
  /** How the intent keeps them. */
  readonly kept: 'list' | 'record';
  /** Intents that older releases wrote do not have it. */
  readonly lately?: boolean;
  readonly items: (intent: FabricIntent) => Iterable<readonly [key: string, item: Item]>;
  /** The object as people name it, its kind included: `network echo-store`, `server soundings-101 on rack 1 p1`. */
  readonly named: (key: string, item: Item | undefined) => string;
  readonly fields: readonly Field<Item>[];
  /** What an object names. */
  readonly refers: (item: Item, key: string) => readonly Reference[];
  /** The object without naming another that goes; only where one of its references `forgets`. */
  readonly forget?: (item: Item, gone: Subject) => Item;
  /** What to do with objects of this kind that hold something: `Free its ports first.` */
  readonly freeing: string;
  /** With an object put in the place of the one of its key, in the order the document keeps. */
  readonly put: (intent: FabricIntent, key: string, item: Item) => FabricIntent;
  readonly take: (intent: FabricIntent, key: string) => FabricIntent;
}

type ListPart = {
  readonly [P in keyof FabricIntent]-?: FabricIntent[P] extends readonly unknown[] ? P : never;
}[keyof FabricIntent];
type ItemOf<P extends ListPart> = FabricIntent[P][number];
type Described<Item, K extends ObjectKind> = Pick<
  Collection<Item, K>,
  'kind' | 'word' | 'schema' | 'fields' | 'freeing' | 'lately'
> &
  Partial<Pick<Collection<Item, K>, 'named' | 'refers' | 'forget'>>;

/** Objects kept as a list of the intent, each with a key of its own, in the order of their keys. */
export function listOf<P extends ListPart, K extends ObjectKind>(
  part: P,
  keyOf: (item: ItemOf<P>) => string,
  about: Described<ItemOf<P>, K>,
): Collection<ItemOf<P>, K> {
  type Item = ItemOf<P>;
  const list = (intent: FabricIntent) => intent[part] as readonly Item[];
  return {
    named: (key) => `${about.word} ${key}`,
    refers: () => [],
    ...about,
    part,
    kept: 'list',
    items: function* (intent) {
      for (const item of list(intent)) yield [keyOf(item), item];
    },
    put: (intent, key, item) => {
      const others = list(intent).filter((i) => keyOf(i) !== key);
      // They are in order: one that comes in is not a reason to order all anew.
      const after = others.findLastIndex((i) => naturally(keyOf(i), key) <= 0);
      return { ...intent, [part]: others.toSpliced(after + 1, 0, item) };
    },
    take: (intent, key) => ({ ...intent, [part]: list(intent).filter((i) => keyOf(i) !== key) }),
  };
}

/** What is there once, or under fixed names: settings, pool roles, the spines. It is changed and never removed. */
export function recordOf<Item, K extends ObjectKind>(
  part: keyof FabricIntent,
  read: (intent: FabricIntent) => object,
  write: (intent: FabricIntent, key: string, item: Item) => FabricIntent,
  about: Described<Item, K> & { readonly labels: Readonly<Record<string, string>> },
): Collection<Item, K> {
  return {
    named: (key) => about.labels[key] ?? about.word,
    refers: () => [],
    ...about,
    part,
    kept: 'record',
    items: (intent) => Object.entries(read(intent)),
    put: write,
    take: (intent) => intent,
  };
}

/** A field that is written as it is; `empty` is the word for nothing. */
export const words = <Item, K extends keyof Item & string>(key: K, label: string, empty?: string): Field<Item> => ({
  key,
  label,
  value: (item) => item[key],
  text: (item) => (item[key] === undefined ? '' : String(item[key])),
  read: (text) => (text === empty ? undefined : text),
  ...(empty === undefined ? {} : { empty }),
});

/** Is a port open? */
export const open = <Item extends { readonly shut?: boolean }>(): Field<Item> => ({
  key: 'shut',
  label: 'open',
  value: (p) => p.shut === true,
  text: (p) => (p.shut ? 'shut' : 'open'),
  read: (text) => (/^(shut|closed|no)$/i.test(text) ? true : /^(open|yes)$/i.test(text) ? false : null),
  form: 'Write open or shut.',
});
/** How a port is driven. */
export const driven = <Item extends Drive>(): Field<Item>[] => [
  {
    key: 'speed',
    label: 'speed',
    empty: 'as the port has it',
    value: (p) => p.speed,
    text: (p) => (p.speed === undefined ? '' : speedWords(p.speed)),
    read: (text) => {
      const speed = Number(/^(\d{1,3}) ?(?:g|gb\/s)?$/i.exec(text)?.[1] ?? Number.NaN);
      return isSpeed(speed) ? speed : null;
    },
    form: `Write one of ${SPEEDS.join(', ')}, in Gb/s.`,
  },
  {
    key: 'fec',
    label: 'FEC',
    empty: 'as the cable has it',
    value: (p) => p.fec,
    text: (p) => (p.fec === undefined ? '' : FEC_WORDS[p.fec]),
    read: (text) => FECS.find((f) => [f, FEC_WORDS[f].toLowerCase()].includes(text.toLowerCase())) ?? null,
    form: `Write ${FECS.map((f) => FEC_WORDS[f]).join(', ')}.`,
  },
];

/** A field that holds a whole number. */
export const whole = <Item, K extends keyof Item & string>(key: K, label: string, empty?: string): Field<Item> => ({
  ...words<Item, K>(key, label, empty),
  read: (text) => (text === empty ? undefined : /^\d{1,10}$/.test(text) ? Number(text) : null),
  form: 'Write a whole number.',
});
