import {
  filterTableKey,
  type FilterChain,
  type FilterHook,
  type FilterLayer,
  type FilterRule,
  type FilterSet,
  type FilterTable,
} from '../../config/filters.ts';
import type { Place } from '../../config/switchConfig.ts';
import type { LineRecorder, UnreadLine } from '../dialect.ts';
import type { Draft } from './draft.ts';
import { readRule, type NftScope } from './nftRules.ts';
import { nftTokens, type NftToken } from './nftTokens.ts';
import { FIELD_OF_SET, listOf, readValues, SET_TYPES } from './nftValues.ts';

export const FILE = 'nftables.conf';

/** Priorities that have a name (nft(8)), and what they are in a bridge. */
const PRIORITIES: Readonly<Record<string, number>> = {
  raw: -300,
  mangle: -150,
  dstnat: -100,
  filter: 0,
  security: 50,
  srcnat: 100,
};
const BRIDGE_PRIORITIES: Readonly<Record<string, number>> = { dstnat: -300, filter: -200, out: 100, srcnat: 300 };
const HOOKS: readonly FilterHook[] = ['prerouting', 'input', 'forward', 'output', 'postrouting'];
const LAYERS: readonly FilterLayer[] = ['inet', 'ip', 'ip6', 'bridge'];
/** Names that nft takes for words of its own: a chain or a set cannot bear them. */
const RESERVED =
  /^(fwd|dup|set|map|element|chain|rule|table|type|hook|priority|policy|flush|add|delete|log|limit|counter|quota|accept|drop|reject|return|jump|goto|continue|queue|meta|mark|ip|ip6|tcp|udp|icmp|arp|ether|vlan|ct|state|in|to|and|or|not|last|reset|list|include|define|timeout|flags|size|comment|elements|interval|constant|dynamic)$/;

/** So many chains follow one another at most behind one with a hook (the kernel’s stack of jumps). */
const MOST_CHAINS = 15;

type TableDraft = Draft<Omit<FilterTable, 'sets' | 'chains'>> & { sets: FilterSet[]; chains: Draft<FilterChain>[] };

/** What ends the reading: the file is refused whole. */
class Refused extends Error {
  readonly token: NftToken | undefined;
  constructor(why: string, token: NftToken | undefined) {
    super(why);
    this.token = token;
  }
}

/** Reads `nftables.conf`; nft takes a file whole or not at all. */
class FilterReader {
  private readonly tokens: readonly NftToken[];
  private readonly lines: readonly string[];
  private readonly unread: UnreadLine[] = [];
  private readonly spots: { readonly place: Place; readonly line: number }[] = [];
  private readonly tables: TableDraft[] = [];
  private readonly defined = new Map<string, readonly NftToken[]>();
  private at = 0;

  constructor(text: string) {
    this.tokens = nftTokens(text);
    this.lines = text.split('\n');
  }

  read(unread: UnreadLine[], record?: LineRecorder): FilterTable[] {
    try {
      while (this.skipEnds()) this.statement();
      this.checkJumps();
    } catch (e) {
      if (!(e instanceof Refused)) throw e;
      const why = `${e.message}: nft refuses the file, and nothing of it counts`;
      unread.push({ ...this.lineOf(e.token ?? this.tokens.at(-1)), why });
      return [];
    }
    unread.push(...this.unread);
    if (record) for (const { place, line } of this.spots) record(place, FILE, line);
    return this.tables;
  }

  private get token(): NftToken | undefined {
    return this.tokens[this.at];
  }
  private word(ahead = 0): string {
    return this.tokens[this.at + ahead]?.text ?? '';
  }
  private lineOf(token: NftToken | undefined): { file: string; line: number; text: string } {
    const line = token?.line ?? 1;
    return { file: FILE, line, text: (this.lines[line - 1] ?? '').trim() };
  }
  private doubt(token: NftToken | undefined, why: string, doubts: readonly string[]): void {
    this.unread.push({ ...this.lineOf(token), why, doubts: doubts as Place });
  }
  private note(place: readonly string[], token: NftToken | undefined): void {
    this.spots.push({ place: place as Place, line: token?.line ?? 1 });
  }
  private isEnd(text: string): boolean {
    return text === '\n' || text === ';';
  }
  /** Goes over ends of lines; false = the text is at its end. */
  private skipEnds(): boolean {
    while (this.token && this.isEnd(this.word())) this.at++;
    return this.token !== undefined;
  }
  /**
   * Words up to the end of a statement; braces hold several lines together.
   * @param closes may a brace end it: what stands last in a set
   */
  private statementWords(closes = false): NftToken[] {
    const out: NftToken[] = [];
    let depth = 0;
    for (; this.token; this.at++) {
      const { text, quoted } = this.token;
      if (!quoted && depth === 0 && this.isEnd(text)) return out;
      if (!quoted && text === '{') depth++;
      if (!quoted && text === '}') {
        if (depth === 0 && closes && out.at(-1)?.text === '}') return out;
        if (depth === 0) throw new Refused('a line must end before a block does', this.token);
        depth--;
      }
      out.push(this.token);
    }
    if (depth > 0) throw new Refused('a block is not closed', out[0]);
    return out;
  }
  /** Goes to what stands in a block; `inside` reads one thing of it. */
  private block(inside: () => void): void {
    const open = this.token;
    if (this.word() !== '{') throw new Refused('a block is expected here', this.token);
    this.at++;
    while (this.skipEnds() && this.word() !== '}') inside();
    if (!this.token) throw new Refused('a block is not closed', open);
    this.at++;
    if (this.token && !this.isEnd(this.word())) throw new Refused('a line must end after a block', this.token);
  }

  private statement(): void {
    const first = this.token!;
    switch (first.text) {
      case 'table':
        this.table();
        return;
      case 'flush':
      case 'delete':
      case 'destroy':
        // What was loaded before is taken away: of that nothing is known here.
        this.statementWords();
        return;
      case 'define': {
        const [, name, mark, ...value] = this.statementWords();
        if (name && mark?.text === '=' && value.length > 0)
          this.defined.set(
            name.text,
            value.filter((t) => t.text !== '\n'),
          );
        else throw new Refused('a name, “=” and a value are expected', first);
        return;
      }
      case 'include':
        this.statementWords();
        this.doubt(first, 'what another file says is not known here', ['filters']);
        return;
      default:
        this.statementWords();
        this.doubt(first, 'it is not understood', ['filters']);
    }
  }

  private named(token: NftToken | undefined, what: string): string {
    if (!token || token.text === '{' || this.isEnd(token.text)) throw new Refused(`${what} has no name`, token);
    if (RESERVED.test(token.text)) throw new Refused(`${what} cannot be called “${token.text}”, a word of nft`, token);
    return token.text;
  }

  private table(): void {
    const first = this.token!;
    this.at++;
    const family = this.word(1) === '{' ? 'ip' : this.word();
    if (this.word(1) !== '{') this.at++;
    const name = this.named(this.token, 'a table');
    this.at++;
    const layer = LAYERS.find((l) => l === family);
    if (layer === undefined) {
      this.skipBlock();
      const own = family === 'netdev' || family === 'arp';
      if (!own) throw new Refused(`“${family}” is no family of nft`, first);
      this.doubt(first, `tables of family ${family} are not understood`, ['filters']);
      return;
    }
    let table = this.tables.find((t) => t.layer === layer && t.name === name);
    if (!table) this.tables.push((table = { layer, name, sets: [], chains: [] }));
    const place = ['filters', filterTableKey(table)];
    this.note(place, first);
    const into = table;
    const unknownSets = new Set<string>();
    this.block(() => {
      const what = this.token!;
      switch (what.text) {
        case 'chain':
          this.chain(into, place, unknownSets);
          return;
        case 'set':
          this.set(into, place, unknownSets);
          return;
        case 'comment':
          this.statementWords();
          return;
        case 'map':
        case 'counter':
        case 'quota':
        case 'limit':
          // What refers to one is judged by itself.
          this.at += 2;
          this.skipBlock();
          return;
        default:
          this.statementWords();
          this.doubt(what, 'it is not understood', place);
      }
    });
  }
  private skipBlock(): void {
    this.block(() => void this.statementWords());
  }

  private set(table: TableDraft, place: readonly string[], unknown: Set<string>): void {
    const first = this.token!;
    this.at++;
    const name = this.named(this.token, 'a set');
    this.at++;
    let of: FilterSet['of'] | undefined;
    let elements: NftToken[] = [];
    let plain = true;
    this.block(() => {
      const [word, ...rest] = this.statementWords(true);
      const said = rest.filter((t) => t.text !== '\n').map((t) => t.text);
      if (word!.text === 'type')
        of = said.length === 1 && Object.hasOwn(SET_TYPES, said[0]!) ? SET_TYPES[said[0]!] : undefined;
      else if (word!.text === 'flags') plain &&= !/dynamic|timeout/.test(said.join());
      else if (word!.text === 'elements') elements = rest;
      else if (!/^(auto-merge|comment|size|policy|gc-interval)$/.test(word!.text)) plain = false;
    });
    const inside = elements.flatMap((t) => (t.text.startsWith('$') && !t.quoted ? this.valueOf(t) : [t]));
    const flat = inside.filter((t) => !['=', '{', '}'].includes(t.text));
    const words = listOf(flat);
    const values = of !== undefined && words ? readValues(FIELD_OF_SET[of], words) : null;
    this.note([...place, 'sets', name], first);
    if (of === undefined || !values || !plain) unknown.add(name);
    else table.sets.push({ name, of, ...values });
  }
  private valueOf(token: NftToken): readonly NftToken[] {
    const value = this.defined.get(token.text.slice(1));
    if (!value) throw new Refused(`${token.text} is not defined`, token);
    return value;
  }

  private chain(table: TableDraft, above: readonly string[], unknownSets: ReadonlySet<string>): void {
    const first = this.token!;
    this.at++;
    const name = this.named(this.token, 'a chain');
    this.at++;
    let chain = table.chains.find((c) => c.name === name);
    if (!chain) table.chains.push((chain = { name, rules: [] }));
    const place = [...above, 'chains', name];
    this.note(place, first);
    const rules: FilterRule[] = [...chain.rules];
    const scope: NftScope = {
      layer: table.layer,
      defined: this.defined,
      setField: (set) => {
        if (unknownSets.has(set)) return null;
        const found = table.sets.find((s) => s.name === set);
        return found && FIELD_OF_SET[found.of];
      },
    };
    const into = chain;
    let policySaid = false;
    this.block(() => {
      const head = this.token!;
      const words = this.statementWords();
      if (head.text === 'type') this.hook(table, into, head, words, place);
      else if (head.text === 'policy') {
        const policy = words[1]?.text;
        if ((policy !== 'accept' && policy !== 'drop') || !into.base)
          throw new Refused('a policy is accept or drop, of a chain with a hook', head);
        if (policySaid) throw new Refused('a chain has one policy', head);
        policySaid = true;
        into.base = { ...into.base, policy };
        this.note([...place, 'base', 'policy'], head);
      } else if (head.text !== 'comment') {
        const read = readRule(words, scope);
        if ('refused' in read) throw new Refused(read.refused, head);
        for (const rule of read.rules) {
          const number = rules.length + 1;
          rules.push({ number, ...rule });
          const at = [...place, 'rules', String(number)];
          this.note(at, head);
          if (read.strange !== null) this.doubt(head, `“${read.strange}” is not understood`, at);
        }
      }
    });
    chain.rules = rules;
  }

  /** `type filter hook forward priority filter; policy drop`. */
  private hook(
    table: TableDraft,
    chain: Draft<FilterChain>,
    head: NftToken,
    words: readonly NftToken[],
    place: readonly string[],
  ): void {
    const said = words.map((t) => t.text);
    const [, type, , hook] = said;
    const named = table.layer === 'bridge' ? BRIDGE_PRIORITIES : PRIORITIES;
    const from = said.indexOf('priority');
    const [, base = '', sign = '+', by = '0'] =
      /^(-?\d+|[a-z]+)(?: ?([+-]) ?(\d+))?$/.exec(from < 0 ? '' : said.slice(from + 1).join(' ')) ?? [];
    const start = /^-?\d+$/.test(base) ? Number(base) : named[base];
    const known = HOOKS.find((h) => h === hook);
    if (type !== 'filter' || known === undefined || start === undefined || said.includes('device')) {
      this.doubt(head, 'a chain of this kind is not understood', place.slice(0, 2));
      return;
    }
    const priority = start + (sign === '-' ? -Number(by) : Number(by));
    chain.base = { hook: known, priority, policy: chain.base?.policy ?? 'accept' };
    this.note([...place, 'base'], head);
  }

  /** Jumps lead to chains of their table, and never in circles: the kernel refuses both. */
  private checkJumps(): void {
    for (const { chains } of this.tables) {
      const leads = new Map(
        chains.map((c) => [c.name, c.rules.flatMap(({ verdict: v }) => (v && 'chain' in v ? [v.chain] : []))]),
      );
      for (const [name, to] of leads)
        for (const next of to)
          if (!leads.has(next))
            throw new Refused(`${name} leads to ${next}, which is no chain of its table`, undefined);
      const deepest = new Map<string, number>();
      const open = new Set<string>();
      /** How many chains follow one another from here on. */
      const walk = (name: string, above: number): number => {
        if (open.has(name)) throw new Refused(`chain ${name} leads back to itself`, undefined);
        open.add(name);
        const below =
          above > MOST_CHAINS
            ? 0
            : (deepest.get(name) ?? Math.max(0, ...leads.get(name)!.map((n) => walk(n, above + 1) + 1)));
        open.delete(name);
        if (above + below > MOST_CHAINS)
          throw new Refused(`more than ${MOST_CHAINS} chains lead on from one another`, undefined);
        deepest.set(name, below);
        return below;
      };
      for (const c of chains) if (c.base) walk(c.name, 0);
    }
  }
}

/** Reads `nftables.conf` of a switch; empty = it has none, or nft would refuse it. */
export const readFilters = (text: string, unread: UnreadLine[], record?: LineRecorder): FilterTable[] =>
  new FilterReader(text).read(unread, record);
