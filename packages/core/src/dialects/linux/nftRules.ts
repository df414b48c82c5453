import type { FilterField, FilterLayer, FilterMatch, FilterVerdict } from '../../config/filters.ts';
import type { NftToken } from './nftTokens.ts';
import { listOf, readComparison, readValues } from './nftValues.ts';

/** What a rule needs that stands elsewhere in its file. */
export interface NftScope {
  readonly layer: FilterLayer;
  /** Values of a `define` by its name. */
  readonly defined: ReadonlyMap<string, readonly NftToken[]>;
  /** Field that members of a set of the table are values of; null = its kind is not known. Undefined = there is no such set. */
  readonly setField: (name: string) => FilterField | null | undefined;
}
/** A rule as far as it is understood; a verdict map makes several of one line. */
export interface ReadRule {
  readonly matches: readonly FilterMatch[];
  readonly verdict?: FilterVerdict;
}
export interface ReadLine {
  readonly rules: readonly ReadRule[];
  /** The word from which on it is not understood; null = it is whole. */
  readonly strange: string | null;
}
/** The file is refused for this reason. */
export interface Refusal {
  readonly refused: string;
}

/** Words of what is looked at → field, with what else they ask for. */
interface Subject {
  readonly field: FilterField;
  readonly implies?: readonly FilterMatch[];
}
const only = (field: FilterField, value: number | string): FilterMatch =>
  typeof value === 'string' ? { field, words: [value] } : { field, ranges: [{ from: value, to: value }] };
const TCP = only('protocol', 6);
const UDP = only('protocol', 17);
const SUBJECTS: Readonly<Record<string, Subject>> = {
  'meta nfproto': { field: 'family' },
  'meta protocol': { field: 'family' },
  'ether type': { field: 'family' },
  'meta l4proto': { field: 'protocol' },
  'ip protocol': { field: 'protocol', implies: [only('family', 'ip')] },
  'ip saddr': { field: 'source' },
  'ip daddr': { field: 'target' },
  'ip6 saddr': { field: 'source6' },
  'ip6 daddr': { field: 'target6' },
  'tcp sport': { field: 'sourcePort', implies: [TCP] },
  'tcp dport': { field: 'targetPort', implies: [TCP] },
  'udp sport': { field: 'sourcePort', implies: [UDP] },
  'udp dport': { field: 'targetPort', implies: [UDP] },
  'th sport': { field: 'sourcePort' },
  'th dport': { field: 'targetPort' },
  'icmp type': { field: 'icmpType' },
  'icmpv6 type': { field: 'icmp6Type' },
  iifname: { field: 'in' },
  'meta iifname': { field: 'in' },
  oifname: { field: 'out' },
  'meta oifname': { field: 'out' },
  'meta sdifname': { field: 'inMember' },
  // By number, which only the loopback keeps.
  iif: { field: 'in' },
  'meta iif': { field: 'in' },
  oif: { field: 'out' },
  'meta oif': { field: 'out' },
  'ct state': { field: 'state' },
};
/** Words that read a header, which nft takes only where what is said before of protocol and family does not speak against it. */
const HEADERS: Readonly<Record<string, { readonly protocol?: number; readonly family?: string }>> = {
  tcp: { protocol: 6 },
  udp: { protocol: 17 },
  icmp: { protocol: 1 },
  icmpv6: { protocol: 58 },
  ip: { family: 'ip' },
  ip6: { family: 'ip6' },
};
const BY_NUMBER = /^(meta )?[io]if$/;
const PLAIN_VERDICTS = ['accept', 'drop', 'return', 'continue'] as const;
const isPlainVerdict = (word: string): word is (typeof PLAIN_VERDICTS)[number] =>
  (PLAIN_VERDICTS as readonly string[]).includes(word);
const COMPARES = new Set(['<', '<=', '>', '>=']);

/** Reads the words of one rule. */
export function readRule(tokens: readonly NftToken[], scope: NftScope): ReadLine | Refusal {
  const words = substituted(tokens, scope);
  if ('refused' in words) return words;
  return new RuleReader(words, scope).read();
}

/** Puts values in where a name of a `define` stands. */
function substituted(tokens: readonly NftToken[], { defined }: NftScope): NftToken[] | Refusal {
  const out: NftToken[] = [];
  for (const t of tokens) {
    if (t.quoted || !t.text.startsWith('$')) {
      out.push(t);
      continue;
    }
    const value = defined.get(t.text.slice(1));
    if (!value) return { refused: `${t.text} is not defined` };
    // A list within a list is one list.
    const inList = out.at(-1)?.text === '{' || out.at(-1)?.text === ',';
    const isList = value[0]?.text === '{';
    out.push(...(inList && isList ? value.slice(1, -1) : value));
  }
  return out;
}

/** Verdicts read so far come with what they hang on: a map of verdicts has one for each of its values. */
class RuleReader {
  private readonly tokens: readonly NftToken[];
  private readonly scope: NftScope;
  private at = 0;
  private readonly matches: FilterMatch[] = [];
  /** Protocols and families that were asked for so far, one by one. */
  private protocols: readonly number[] | null = null;
  private families: readonly string[] | null;

  constructor(tokens: readonly NftToken[], scope: NftScope) {
    this.tokens = tokens;
    this.scope = scope;
    this.families = scope.layer === 'ip' || scope.layer === 'ip6' ? [scope.layer] : null;
  }

  read(): ReadLine | Refusal {
    while (this.at < this.tokens.length) {
      const from = this.at;
      const done = this.verdict() ?? this.mapped();
      if (done) return this.ended(done);
      if (this.skipped()) continue;
      const condition = this.condition();
      if (condition === true) continue;
      if (condition !== false) return condition;
      return { rules: [this.rule(this.lastVerdict())], strange: this.tokens[from]!.text };
    }
    return { rules: [this.rule(undefined)], strange: null };
  }

  private word(ahead = 0): string {
    return this.tokens[this.at + ahead]?.text ?? '';
  }
  private rule(verdict: FilterVerdict | undefined): ReadRule {
    return { matches: this.matches, ...(verdict ? { verdict } : {}) };
  }

  /** After a verdict nothing may stand but a comment. */
  private ended(line: ReadLine): ReadLine | Refusal {
    if (this.word() === 'comment') this.at += 2;
    return this.at >= this.tokens.length ? line : { refused: `“${this.word()}” stands after what decides` };
  }

  private verdict(): ReadLine | null {
    const word = this.word();
    const one = (verdict: FilterVerdict | undefined): ReadLine => ({ rules: [this.rule(verdict)], strange: null });
    if (isPlainVerdict(word)) {
      this.at++;
      return one(word === 'continue' ? undefined : { does: word });
    }
    if ((word === 'jump' || word === 'goto') && this.word(1) !== '') {
      this.at += 2;
      return one({ does: word, chain: this.word(-1) });
    }
    if (word !== 'reject') return null;
    // Not every kernel can answer from a bridge.
    if (this.scope.layer === 'bridge') return null;
    // What is answered does not change that it does not pass.
    if (this.word(1) === 'with') {
      const comment = this.tokens.findIndex((t, i) => i > this.at && t.text === 'comment');
      if (this.word(2) === 'tcp') this.imply(TCP);
      this.at = comment < 0 ? this.tokens.length : comment;
    } else this.at++;
    return one({ does: 'reject' });
  }

  /** `tcp dport vmap { 22 : accept, … }`: one rule for each value. */
  private mapped(): ReadLine | null {
    const found = this.subject();
    if (!found || this.word(found.words) !== 'vmap' || this.word(found.words + 1) !== '{') return null;
    const open = this.at + found.words + 1;
    const close = this.tokens.findIndex((t, i) => i > open && t.text === '}');
    if (close < 0) return null;
    const rules: ReadRule[] = [];
    const implied = [...this.matches, ...(found.subject.implies ?? [])];
    const parts: NftToken[][] = [[]];
    for (const t of this.tokens.slice(open + 1, close))
      if (t.text === ',') parts.push([]);
      else if (t.text !== '\n') parts.at(-1)!.push(t);
    for (const part of parts) {
      if (part.length === 0) continue;
      // “22 : accept” and “22:accept” are one.
      const said = part.map((t) => t.text).join(' ');
      const [, key, does, chain] = /^(\S+?) ?: ?(accept|drop|return|continue|jump|goto)(?: (\S+))?$/.exec(said) ?? [];
      const values = key === undefined || key.startsWith('@') ? null : readValues(found.subject.field, [key]);
      if (!values || (chain === undefined) === (does === 'jump' || does === 'goto')) return null;
      const verdict: FilterVerdict | undefined =
        does === 'continue'
          ? undefined
          : chain === undefined
            ? { does: does as 'accept' | 'drop' | 'return' }
            : { does: does as 'jump' | 'goto', chain };
      rules.push({
        matches: [...implied, { field: found.subject.field, ...values }],
        ...(verdict ? { verdict } : {}),
      });
    }
    this.at = close + 1;
    return { rules, strange: null };
  }

  /** Words that count and change nothing. */
  private skipped(): boolean {
    const word = this.word();
    if (word === 'comment') this.at += 2;
    else if (word === 'counter') {
      this.at++;
      if (this.word() === 'name') this.at += 2;
      else if (this.word() === 'packets') this.at += 4;
    } else if (word === 'log') {
      this.at++;
      while (/^(prefix|level|group|flags|snaplen|queue-threshold)$/.test(this.word())) {
        this.at += this.word() === 'flags' && /^(tcp|ip)$/.test(this.word(1)) ? 3 : 2;
        while (this.word() === ',') this.at += 2;
      }
    } else return false;
    return true;
  }

  private subject(): { readonly subject: Subject; readonly words: number; readonly said: string } | null {
    const two = `${this.word()} ${this.word(1)}`;
    const said = Object.hasOwn(SUBJECTS, two) ? two : this.word();
    return Object.hasOwn(SUBJECTS, said) ? { subject: SUBJECTS[said]!, words: said === two ? 2 : 1, said } : null;
  }
  /** Why a header cannot be read after what was asked for so far, or null. */
  private conflict(said: string): string | null {
    if (said === 'meta nfproto' && (this.scope.layer === 'ip' || this.scope.layer === 'ip6'))
      return 'the family of a packet is asked for in tables of both alone';
    const { protocol, family } = HEADERS[said.split(' ')[0]!] ?? {};
    if (protocol !== undefined && this.protocols?.some((p) => p !== protocol))
      return `“${said}” speaks of another protocol than what stands before it`;
    if (family !== undefined && this.families?.some((f) => f !== family))
      return `“${said}” speaks of another family than what stands before it`;
    if (protocol !== undefined) this.protocols = [protocol];
    if (family !== undefined) this.families = [family];
    return null;
  }
  private learn(said: string, { field, not, ranges, words }: FilterMatch): void {
    if (not) return;
    if (field === 'protocol' && ranges?.every((r) => r.from === r.to)) this.protocols = ranges.map((r) => r.from);
    if (said === 'meta nfproto' || (field === 'family' && this.scope.layer === 'bridge')) this.families = words ?? null;
  }
  private imply(match: FilterMatch): void {
    const same = (m: FilterMatch): boolean => JSON.stringify(m) === JSON.stringify(match);
    if (!this.matches.some(same)) this.matches.push(match);
  }

  /** One condition; false = it is not understood. */
  private condition(): boolean | Refusal {
    const found = this.subject();
    if (!found) return false;
    const { field, implies = [] } = found.subject;
    const against = this.conflict(found.said);
    if (against !== null) return { refused: against };
    let at = this.at + found.words;
    const text = (): string => this.tokens[at]?.text ?? '';
    const not = text() === '!=' ? ({ not: true } as const) : {};
    const mark = text();
    if (mark === '!=' || mark === '==' || COMPARES.has(mark)) at++;
    if (this.scope.layer === 'bridge' && field === 'state') return false;
    if (text().startsWith('@')) {
      const set = text().slice(1);
      const of = this.scope.setField(set);
      if (of === undefined) return { refused: `there is no set ${set} in its table` };
      if (of === null || COMPARES.has(mark)) return false;
      if (!asks(field, of)) return { refused: `set ${set} does not hold what is looked at` };
      for (const m of implies) this.imply(m);
      this.matches.push({ field, ...not, set });
      this.at = at + 1;
      return true;
    }
    const from = at;
    if (text() === '{') {
      while (at < this.tokens.length && text() !== '}') at++;
      if (text() !== '}') return { refused: 'a list is not closed' };
      at++;
    } else {
      at++;
      // States are bits, and commas put them together.
      while (text() === ',' || text() === '-' || this.tokens[at - 1]?.text === ',' || this.tokens[at - 1]?.text === '-')
        at++;
    }
    const inside = this.tokens.slice(from, at);
    const bits = inside.length > 1 && inside[0]!.text !== '{' && inside[1]!.text === ',';
    if (bits && (field !== 'state' || not.not)) return false;
    const said = listOf(inside[0]?.text === '{' ? inside.slice(1, -1) : inside);
    if (!said || said.length === 0 || said.some((w) => w === '')) return false;
    if (BY_NUMBER.test(found.said) && said.some((w) => w !== 'lo')) return false;
    const values = COMPARES.has(mark) ? readComparison(field, mark, said[0]!) : readValues(field, said);
    if (!values) return false;
    for (const m of implies) this.imply(m);
    const match: FilterMatch = { field, ...not, ...values };
    this.learn(found.said, match);
    if (not.not) this.matches.push(match);
    else this.imply(match);
    this.at = at;
    return true;
  }

  /** Of a rule that is not understood in the middle: what it ends in. */
  private lastVerdict(): FilterVerdict | undefined {
    const words = this.tokens.map((t) => t.text);
    if (words.at(-2) === 'comment') words.splice(-2);
    const last = words.at(-1)!;
    if (last === 'accept' || last === 'drop' || last === 'return') return { does: last };
    const before = words.at(-2);
    if (before === 'jump' || before === 'goto') return { does: before, chain: last };
    return words.includes('reject') ? { does: 'reject' } : undefined;
  }
}

/** May a field ask a set whose members are values of `of`? */
function asks(field: FilterField, of: FilterField): boolean {
  const kind = (f: FilterField): string =>
    f === 'target'
      ? 'source'
      : f === 'target6'
        ? 'source6'
        : f === 'sourcePort'
          ? 'targetPort'
          : f === 'out' || f === 'inMember'
            ? 'in'
            : f;
  return kind(field) === kind(of);
}
