import type { Place } from '../../config/switchConfig.ts';
import type { LineRecorder, UnreadLine } from '../dialect.ts';
import type { ConfigDraft } from './draft.ts';
import { withoutSecret } from './secretWords.ts';
import { blockFrom, cutOwn, KeptBlocks, uncut, type CutBlock } from './keptBlocks.ts';
import { LineWalk, wordsInto } from './lines.ts';

const FILE = 'frr.conf';

/** Read as a line of another block, and whether that is to be said in any case. */
export interface Elsewhere {
  readonly as: string;
  readonly strays: boolean;
}
/** FRR takes lines of IPv4 unicast in the router itself as well. */
export const AS_IPV4: Elsewhere = { as: 'address-family ipv4 unicast', strays: false };
/** A block that a line opens, and what it speaks of. */
export interface Opened {
  readonly block: Block<never>;
  readonly about: unknown;
  /** Why nothing is made of it. */
  readonly lost?: string;
}
/** A line of this block that nothing is made of: the daemon takes it, or refuses it after all. It leads out of blocks within all the same. */
export interface Lost {
  readonly why: string;
  readonly taken: boolean;
  /** What may be otherwise because of it, where that is not what it stands in; null = nothing, what becomes of it is read. */
  readonly doubts?: Place | null;
  /** The block within this one that the daemon puts it into. */
  readonly as?: string;
}
/** The daemon takes the line here; this reader has no place for it. */
export const unmodelled = (why: string): Lost => ({ why, taken: true });
/** The line is one of this block, and the daemon refuses what it says. */
export const failed = (why: string): Lost => ({ why, taken: false });
/**
 * The daemon takes the line here, and no answer of the network model hangs on it.
 * @param because ends the sentence “it changes nothing here, because …”
 */
export const harmless = (because: string): Harmless => ({ harmless: because });
export interface Harmless {
  readonly harmless: string;
  /** The block within this one that the daemon puts it into. */
  readonly as?: string;
}
/** `true` = read; a string = written so that no daemon knows it; `false` = not a line of this block. */
export type Reading = boolean | string | Lost | Harmless;
export type Answer = Reading | Opened | Elsewhere;

/** What readers of lines have at hand. The list of words is used again for the next line: keep none of it. */
export interface FrrReading {
  readonly draft: ConfigDraft;
  /** Says which place the line speaks of. */
  at(place: Place): true;
  /** As `at`, for a line that opens a block. */
  open<T>(block: Block<T>, about: T, place: Place): Opened;
  /** Says that what the line speaks of is missing in another document; the line is read all the same. */
  needs(document: string, why: string): void;
}
export type LineReader<T> = (words: readonly string[], line: string, about: T, reading: FrrReading) => Answer;

/** A kind of block of FRR's configuration, which reads its own lines. */
export interface Block<T> {
  /** As people call it: `router bgp`. */
  readonly name: string;
  /** Word that closes it beside `exit`. */
  readonly exit?: string;
  /** Of a router: it takes what is said of neighbours. */
  readonly routes?: true;
  /** Of the EVPN family: what it does not know may count for IPv4 unicast. */
  readonly evpn?: true;
  readonly read: LineReader<T>;
  readonly alike?: AlikeBlock<T>;
}
/** What many switches have alike in a block, but for one line: it is kept, and not read again where it stands word for word. */
export interface AlikeBlock<T> {
  /** How the line begins that is each switch’s own, the line feed before it and its indentation included; absent = there is none. */
  readonly own?: string;
  /** Is nothing said of it yet? */
  isNew(about: T): boolean;
  /** Plain values of what was read; null = this one is not to be kept. */
  keep(about: T, draft: ConfigDraft, text: string): object | null;
  /** Says what was kept of another, with what is its own; false = that cannot be. */
  take(about: T, kept: object, own: string, draft: ConfigDraft): boolean;
}

/** Lines outside of all blocks, by their first word. */
export type TopLines = Readonly<
  Record<string, (words: readonly string[], line: string, reading: FrrReading) => Answer>
>;

/** Told where each line was taken: the blocks from the outermost in, `router bgp › address-family ipv4 unicast`; null = nowhere. */
export type LandingRecorder = (line: number, block: string | null) => void;
/** Lines outside of all blocks that zebra takes: they lead it out of a VRF, which other daemons' lines do not. */
const ZEBRA = /^(interface|ip|ipv6|access-list|route-map|hostname) /;

/**
 * Lines that FRR knows in blocks alone which this reader knows too, each tried in every block (frrLandings.json): where none
 * of these is open they are refused.
 */
const ONLY_IN_BLOCKS =
  /^(advertise-all-vni$|advertise ipv4 |rd \d|route-target (import|export|both) |match (ip|community|large-community|extcommunity|peer|as-path|metric|local-preference|tag|origin|interface) |set (ip|local-preference|metric|weight|community|large-community|extcommunity|as-path|origin|tag) |on-match |call |detect-multiplier |transmit-interval |receive-interval |profile \S+$|evpn mh |import vrf |ip ospf |ipv6 (ospf6|address) )/;
/** Lines that FRR knows in routers alone. */
const ONLY_IN_ROUTERS =
  /^(no )?(neighbor \S+ (remote-as|peer-group|interface|activate|timers|bfd|description|password|shutdown|allowas-in|route-map|prefix-list)\b|address-family |redistribute |maximum-paths |bgp (router-id|bestpath|default) )/;

/** An open block: what it speaks of, its place, and how far its first line is indented. */
interface Frame {
  readonly block: Block<unknown>;
  readonly about: unknown;
  readonly place: Place;
  readonly indent: number;
  /** Of one that may be kept: where it begins, and how many lines were unread there. */
  readonly began?: { readonly from: number; readonly said: number };
}
/** The name of a block with those around it. */
const pathOf = (stack: readonly Frame[], depth: number): string =>
  stack
    .slice(1, depth + 1)
    .map((f) => f.block.name)
    .join(' › ');

/** The place a line of a block may change: of what is said of a neighbour, that neighbour. */
function doubtful(place: Place, words: readonly string[]): Place {
  const [first, second] = place as readonly string[];
  const name = words[0] === 'no' ? words[2] : words[1];
  const neighbour = words.includes('neighbor') && name !== undefined;
  return neighbour && first === 'bgp' && second !== 'vrfs' ? ['bgp', 'peers', name] : place;
}

const inside = (path: string, block: string): string => (path === '' ? block : `${path} › ${block}`);

const cutIn = (block: string, own: string | undefined): CutBlock | null =>
  own === undefined ? uncut(block) : cutOwn(block, own);

/** Reads FRR's integrated configuration; blocks nest as vtysh nests them, whatever the indentation. */
export class FrrReader {
  private readonly top: Block<null>;
  private readonly kept = new KeptBlocks<object>();

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

  read(text: string, draft: ConfigDraft, unread: UnreadLine[], record?: LineRecorder, landing?: LandingRecorder): void {
    let place: Place = [];
    let missing = null as Pick<UnreadLine, 'why' | 'needs'> | null;
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
      needs: (document, why) => void (missing = { why, needs: document }),
    };
    const stack: Frame[] = [{ block: this.top as Block<unknown>, about: null, place: [], indent: -1 }];
    /** A line ended a block of EVPN unseen; the lines after it still look as if they stood in it. */
    let cutShort = false;
    /** Outside of all blocks stood a line that may have opened one which this reader does not know. */
    let strangeBlock = false;
    const words: string[] = [];
    const walk = new LineWalk(text);
    while (walk.next()) {
      const { from, to, number, indent } = walk;
      const first = text.charCodeAt(from);
      // `!` or `#`.
      if (first === 33 || first === 35) continue;
      const line = text.slice(from, to);
      if (line === 'exit' || line === 'quit') {
        const closed = stack.length > 1 ? stack.pop() : undefined;
        // Seen on FRR 8.4.4: the rest of the file is lost, and bgpd, which is never told that it has ended, starts no session.
        if (!closed && !strangeBlock) {
          unread.push({
            file: FILE,
            line: number,
            text: line,
            why: 'no block is open, so it leaves the configuration: what follows is lost, and BGP, which waits for its end, starts no session',
          });
          draft.unended = true;
          return;
        }
        strangeBlock = false;
        if (closed?.block.exit === 'exit-vrf') draft.openVrf = null;
        if (closed) record?.(closed.place, FILE, number);
        if (closed && !closed.block.exit) this.keep(closed, walk, draft, unread.length);
        cutShort = false;
        continue;
      }
      if (line.startsWith('exit-')) {
        // It closes the block it belongs to and all within; where none is open, it says nothing.
        const at = stack.findLastIndex((f) => f.block.exit === line);
        if (at > 0) {
          record?.(stack[at]!.place, FILE, number);
          if (at === stack.length - 1) this.keep(stack[at]!, walk, draft, unread.length);
          stack.length = at;
          if (line === 'exit-vrf') draft.openVrf = null;
        } else if (!cutShort) unread.push({ file: FILE, line: number, text: line, why: 'no such block is open here' });
        cutShort = false;
        continue;
      }
      if (line === 'end') {
        stack.length = 1;
        continue;
      }
      wordsInto(words, text, from, to);
      let why: string | null = null;
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
        // The block it stands in by how it is indented, if that is a deeper one.
        const strays = depth < stack.length - 1 && stack.findLastIndex((f) => f.indent < indent) > depth;
        // A block of EVPN that ends without being closed: what was written in it counts elsewhere from here on.
        const leavesEvpn = depth < stack.length - 1 && stack.splice(depth + 1).some((f) => f.block.evpn);
        if (depth === 0 && ZEBRA.test(line)) draft.openVrf = null;
        if (typeof answer === 'object' && 'harmless' in answer) {
          if (indent === 0) strangeBlock = false;
          cutShort ||= leavesEvpn && depth > 0;
          unread.push({
            file: FILE,
            line: number,
            text: withoutSecret(FILE, line),
            why: answer.harmless,
            harmless: true,
          });
          landing?.(number, answer.as === undefined ? pathOf(stack, depth) : inside(pathOf(stack, depth), answer.as));
          break;
        }
        if (typeof answer !== 'object' || !('why' in answer)) record?.(place, FILE, number);
        let landed = strays ? pathOf(stack, depth) || this.top.name : undefined;
        if (answer === true || 'why' in answer || 'harmless' in answer) cutShort ||= leavesEvpn && depth > 0;
        else if ('strays' in answer) {
          cutShort ||= leavesEvpn;
          if (cutShort || answer.strays) landed = inside(pathOf(stack, depth), answer.as);
        } else {
          cutShort = false;
          if (answer.lost !== undefined) unread.push({ file: FILE, line: number, text: line, why: answer.lost });
          strangeBlock = false;
          const block = answer.block as unknown as Block<unknown>;
          const { about } = answer;
          const mayBe = !record && !landing && block.alike?.isNew(about) && !this.take(block, about, walk, draft);
          stack.push({ block, about, place, indent, ...(mayBe ? { began: { from, said: unread.length } } : {}) });
        }
        if (typeof answer === 'object' && 'why' in answer) {
          if (indent === 0) strangeBlock = answer.taken;
          const stands = answer.taken ? doubtful(frame.place, words) : null;
          const doubted = answer.doubts === undefined ? stands : answer.doubts;
          const doubts = doubted === null ? {} : { doubts: doubted };
          unread.push({ file: FILE, line: number, text: withoutSecret(FILE, line), why: answer.why, ...doubts });
          const at = answer.as === undefined ? pathOf(stack, depth) : inside(pathOf(stack, depth), answer.as);
          landing?.(number, answer.taken ? at : null);
          break;
        }
        if (landing) {
          const at = pathOf(stack, depth);
          landing(number, typeof answer === 'object' && 'strays' in answer ? inside(at, answer.as) : at);
        }
        if (landed !== undefined)
          unread.push({
            file: FILE,
            line: number,
            text: line,
            why: `FRR puts it into ${landed}, without a word`,
            landed,
          });
        break;
      }
      if (!read) {
        // Where the daemons know it though no block here does, it may stand in the innermost block or outside of all.
        const routing = stack.some((f) => f.block.routes);
        if (why === null && (ONLY_IN_BLOCKS.test(line) || (!routing && !strangeBlock && ONLY_IN_ROUTERS.test(line))))
          why = 'no block that it belongs to is open here, so it is refused';
        if (indent === 0) strangeBlock = why === null;
        const around: Place = indent === 0 ? [] : stack.at(-1)!.place;
        unread.push(
          why === null
            ? {
                file: FILE,
                line: number,
                text: withoutSecret(FILE, line),
                why: 'no block here knows it',
                doubts: doubtful(around, words),
              }
            : { file: FILE, line: number, text: line, why },
        );
        landing?.(number, null);
      }
      if (missing) unread.push({ file: FILE, line: number, text: line, ...missing });
      missing = null;
    }
  }

  /** Keeps a block that ends here, where each of its lines was read as one of its own. */
  private keep({ block, about, began }: Frame, { text, from }: LineWalk, draft: ConfigDraft, unread: number): void {
    const { alike } = block;
    if (!alike || began?.said !== unread) return;
    const whole = text.slice(began.from, from);
    const cut = cutIn(whole, alike.own);
    const made = cut && !(alike.own && cut.after.includes(alike.own)) ? alike.keep(about, draft, whole) : null;
    if (cut && made) this.kept.keep(cut, made);
  }

  /** Leaves out the lines of a block that was read before, as far as the one that closes it; false = it was not. */
  private take({ alike, exit = 'exit' }: Block<unknown>, about: unknown, walk: LineWalk, draft: ConfigDraft): boolean {
    const { text, from } = walk;
    const whole = alike && blockFrom(text, from, `${exit}\n`);
    const cut = whole ? cutIn(whole, alike.own) : null;
    const kept = cut && this.kept.get(cut);
    if (!alike || !whole || !kept || !alike.take(about, kept.made, cut.own, draft)) return false;
    // The first line was counted; the one that is its own is not among those that were kept.
    const lines = alike.own === undefined ? kept.lines - 1 : kept.lines;
    walk.skip(text.lastIndexOf('\n', from + whole.length) + 1, lines);
    return true;
  }
}
