import type {
  FilterChain,
  FilterField,
  FilterMatch,
  FilterRule,
  FilterSet,
  FilterTable,
} from '../../config/filters.ts';
import { formatIpv4 } from '../../numbers/ipv4.ts';
import { SET_TYPES } from './nftValues.ts';

const FIELDS: Readonly<Record<FilterField, string>> = {
  family: 'meta protocol',
  protocol: 'meta l4proto',
  source: 'ip saddr',
  target: 'ip daddr',
  source6: 'ip6 saddr',
  target6: 'ip6 daddr',
  sourcePort: 'th sport',
  targetPort: 'th dport',
  icmpType: 'icmp type',
  icmp6Type: 'icmpv6 type',
  in: 'iifname',
  inMember: 'meta sdifname',
  out: 'oifname',
  state: 'ct state',
};
const IS_ADDRESS = new Set<FilterField | FilterSet['of']>(['source', 'target', 'addresses']);
const IS_NAME = new Set<FilterField | FilterSet['of']>(['in', 'inMember', 'out', 'interfaces']);

function valueWords(
  of: FilterField | FilterSet['of'],
  { ranges = [], words = [] }: Pick<FilterMatch, 'ranges' | 'words'>,
): string[] {
  const number = (n: number): string => (IS_ADDRESS.has(of) ? formatIpv4(n) : String(n));
  return [
    ...ranges.map(({ from, to }) => (from === to ? number(from) : `${number(from)}-${number(to)}`)),
    ...words.map((w) => (IS_NAME.has(of) ? `"${w}"` : w)),
  ];
}
function matchLine(m: FilterMatch): string {
  const values = m.set === undefined ? valueWords(m.field, m) : [`@${m.set}`];
  const list = values.length === 1 ? values[0]! : `{ ${values.join(', ')} }`;
  return `${FIELDS[m.field]} ${m.not ? '!= ' : ''}${list}`;
}
function ruleLine({ matches, verdict }: FilterRule): string {
  const decides =
    verdict === undefined ? 'counter' : 'chain' in verdict ? `${verdict.does} ${verdict.chain}` : verdict.does;
  return `    ${[...matches.map(matchLine), decides].join(' ')}\n`;
}
function setBlock(set: FilterSet): string {
  const type = Object.entries(SET_TYPES).find(([, of]) => of === set.of)![0];
  const values = valueWords(set.of, set);
  const interval = set.ranges?.some((r) => r.from !== r.to) ? '    flags interval\n' : '';
  const elements = values.length === 0 ? '' : `    elements = { ${values.join(', ')} }\n`;
  return `  set ${set.name} {\n    type ${type}\n${interval}${elements}  }\n`;
}
function chainBlock({ name, base, rules }: FilterChain): string {
  const head = base ? `    type filter hook ${base.hook} priority ${base.priority}; policy ${base.policy};\n` : '';
  return `  chain ${name} {\n${head}${rules.map(ruleLine).join('')}  }\n`;
}

/** The whole document: what was loaded before is taken away, and the kernel takes all of it or nothing. */
export function writeFilters(tables: readonly FilterTable[]): string {
  const blocks = tables.map(
    (t) => `\ntable ${t.layer} ${t.name} {\n${t.sets.map(setBlock).join('')}${t.chains.map(chainBlock).join('')}}\n`,
  );
  return `#!/usr/sbin/nft -f\nflush ruleset\n${blocks.join('')}`;
}
