import type { Place } from '../../config/switchConfig.ts';
import type { LineRecorder, UnreadLine } from '../dialect.ts';
import type { ConfigDraft } from './draft.ts';
import { eachLine, wordsOf } from './lines.ts';

const FILE = 'frr.conf';

/** Read, and it speaks of IPv4 unicast: FRR takes lines of that family in the router itself as well. */
export const AS_IPV4 = { as: 'ipv4 unicast' } as const;
/** A block that a line opens, and what it speaks of. */
export interface Opened {
  readonly block: Block<never>;
  readonly about: unknown;
}
/** `true` = read; a string = understood but wrong; `false` = not a line of this block. */
export type Reading = boolean | string;
export type Answer = Reading | Opened | typeof AS_IPV4;

/** What readers of lines have at hand. */
export interface FrrReading {
  readonly draft: ConfigDraft;
  /** Says which place the line speaks of. */
  at(place: Place): true;
  /** As `at`, for a line that opens a block. */
  open<T>(block: Block<T>, about: T, place: Place): Opened;
  /** Says that something is wrong with the line, though it is read. */
  doubt(why: string): void;
}
export type LineReader<T> = (words: readonly string[], line: string, about: T, reading: FrrReading) => Answer;

/** A kind of block of FRR's configuration, which reads its own lines. */
export interface Block<T> {
  /** As people call it: `router bgp`. */
  readonly name: string;
  /** Word that closes it beside `exit`. */
  readonly exit?: string;
  /** Of the EVPN family: what it does not know may count for IPv4 unicast. */
  readonly evpn?: true;
  readonly read: LineReader<T>;
}

/** Lines outside of all blocks, by their first word. */
export type TopLines = Readonly<
  Record<string, (words: readonly string[], line: string, reading: FrrReading) => Answer>
>;

const TAKEN_AS_IPV4 = 'EVPN does not take it: FRR puts it, and the lines after it, into IPv4 unicast without a word';

/** An open block: what it speaks of, and its place. */
interface Frame {
  readonly block: Block<unknown>;
  readonly about: unknown;
  readonly place: Place;
}

/** Reads FRR's integrated configuration; blocks nest as vtysh nests them, whatever the indentation. */
export class FrrReader {
  private readonly top: Block<null>;

  constructor(sections: readonly TopLines[]) {
    const byWord = new Map<string, TopLines[string][]>();
    for (const lines of sections)
      for (const [word, read] of Object.entries(lines)) byWord.set(word, [...(byWord.get(word) ?? []), read]);
    this.top = {
      name: 'the file itself',
      read: (words, line, _about, reading) => {
        for (const read of byWord.get(words[0]!) ?? []) {
          const answer = read(words, line, reading);
          if (answer !== false) return answer;
        }
        return false;
      },
    };
  }

  read(text: string, draft: ConfigDraft, unread: UnreadLine[], record?: LineRecorder): void {
    let place: Place = [];
    let doubt: string | null = null;
    const reading: FrrReading = {
      draft,
      at: (p) => {
        place = p;
        return true;
      },
      open: (block, about, p) => {
        place = p;
        return { block: block as Block<never>, about };
      },
      doubt: (why) => void (doubt = why),
    };
    const stack: Frame[] = [{ block: this.top as Block<unknown>, about: null, place: [] }];
    /** A line ended a block of EVPN unseen; the lines after it still look as if they stood in it. */
    let cutShort = false;
    eachLine(text, (line, number) => {
      const first = line.charCodeAt(0);
      // `!` or `#`.
      if (first === 33 || first === 35) return;
      if (line === 'exit' || line === 'quit') {
        const closed = stack.length > 1 ? stack.pop() : undefined;
        if (closed) record?.(closed.place, FILE, number);
        cutShort = false;
        return;
      }
      if (line.startsWith('exit-')) {
        // It closes the block it belongs to and all within; where none is open, it says nothing.
        const at = stack.findLastIndex((f) => f.block.exit === line);
        if (at > 0) {
          record?.(stack[at]!.place, FILE, number);
          stack.length = at;
        } else if (!cutShort) unread.push({ file: FILE, line: number, text: line, why: 'no such block is open here' });
        cutShort = false;
        return;
      }
      if (line === 'end') {
        stack.length = 1;
        return;
      }
      const words = wordsOf(line);
      let why = 'no block here knows it';
      let read = false;
      // As vtysh does: a line that the innermost block does not know is tried in the one above it.
      for (let depth = stack.length - 1; depth >= 0; depth--) {
        const frame = stack[depth]!;
        const answer = frame.block.read(words, line, frame.about, reading);
        if (answer === false) continue;
        if (typeof answer === 'string') {
          why = answer;
          break;
        }
        read = true;
        // A block of EVPN that ends without being closed: what was written in it counts elsewhere from here on.
        const left = depth < stack.length - 1 ? stack.splice(depth + 1) : [];
        const leavesEvpn = left.some((f) => f.block.evpn);
        record?.(place, FILE, number);
        if (answer === true) cutShort ||= leavesEvpn && depth > 0;
        else if ('as' in answer) {
          cutShort ||= leavesEvpn;
          if (cutShort) unread.push({ file: FILE, line: number, text: line, why: TAKEN_AS_IPV4 });
        } else {
          cutShort = false;
          stack.push({ block: answer.block as unknown as Block<unknown>, about: answer.about, place });
        }
        break;
      }
      if (!read) unread.push({ file: FILE, line: number, text: line, why });
      if (doubt !== null) unread.push({ file: FILE, line: number, text: line, why: doubt });
      doubt = null;
    });
  }
}
