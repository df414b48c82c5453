import { lagName, linux, type ConfigFiles, type FilterRule, type Place, type SwitchConfig } from '@anthemion/core';

/** What never is the name of an interface. */
const NOBODY = '"no-such"';
const INGRESS = /(?<![\w-])(?:meta\s+)?iifname\s+(?:(!=|==)\s*)?(\{[^}]*\}|"[^"]*"|[^\s;}]+)/g;

/** A text cut where tables of bridges begin and end. */
function byFamily(text: string): { readonly bridge: boolean; readonly text: string }[] {
  const out: { bridge: boolean; text: string }[] = [];
  let at = 0;
  for (const found of text.matchAll(/^[ \t]*table\s+bridge\b/gm)) {
    if (found.index < at) continue;
    let depth = 0;
    let end = text.indexOf('{', found.index);
    for (; end >= 0 && end < text.length; end++) {
      if (text[end] === '{') depth++;
      if (text[end] === '}' && --depth === 0) break;
    }
    if (end < 0) break;
    out.push(
      { bridge: false, text: text.slice(at, found.index) },
      { bridge: true, text: text.slice(found.index, end + 1) },
    );
    at = end + 1;
  }
  return [...out, { bridge: false, text: text.slice(at) }];
}

/**
 * Filters of a switch as they are loaded in one of its namespaces, where a VRF is one and no device: what comes in is seen
 * as the interface itself there, and on a switch as the VRF. A rewriting, not a proof. LAGs are their first port.
 * @param vrf undefined = what is outside of VRFs
 */
export function filtersFor(text: string, config: SwitchConfig, vrf: string | undefined): string {
  const inVrf = (part: string): string =>
    part
      .replace(INGRESS, (_, mark: string | undefined, values: string) => {
        const words = values.replace(/[{}"]/g, '').split(',');
        const isIt = words
          .map((w) => w.trim())
          .some((w) => (w.endsWith('*') ? vrf!.startsWith(w.slice(0, -1)) : w === vrf));
        return `iifname ${isIt === (mark !== '!=') ? '!= ' : ''}${NOBODY}`;
      })
      .replace(/\bmeta\s+sdifname\b/g, 'iifname');
  const plain = byFamily(text)
    .map((part) => (part.bridge || vrf === undefined ? part.text : inVrf(part.text)))
    .join('');
  return config.lags.reduce(
    (now, lag) => (lag.members[0] === undefined ? now : now.replaceAll(`"${lagName(lag)}"`, `"${lag.members[0]}"`)),
    plain,
  );
}

const STOPS = /\b(drop|reject)[ \t]*(#.*)?$/;
const isRule = (place: Place): boolean => place[0] === 'filters' && place[4] === 'rules' && place.length === 6;

/** A rule of a filter with its place. */
export interface PlacedRule {
  readonly place: Place;
  readonly rule: FilterRule;
}
/** The rules in a text of filters by their lines. Several of one line, as verdict maps make, are left out. */
export function rulesByLine(files: ConfigFiles): ReadonlyMap<number, PlacedRule> {
  const at = new Map<number, Place[]>();
  const { config } = linux.parse(files, (place, file, line) => {
    if (file === 'nftables.conf' && isRule(place)) at.set(line, [...(at.get(line) ?? []), place]);
  });
  return new Map(
    [...at].flatMap(([line, [place, ...more]]) => {
      const [, table, , chain, , number] = place as readonly string[];
      const rule = config.filters
        ?.find((t) => `${t.layer} ${t.name}` === table)
        ?.chains.find((c) => c.name === chain)
        ?.rules.find((r) => String(r.number) === number);
      return rule && more.length === 0 ? [[line, { place: place!, rule }] as const] : [];
    }),
  );
}
/** The same text with a counter, and its number as a name, in every line that ends with what stops a packet. */
export const counting = (files: ConfigFiles): string => {
  const rules = rulesByLine(files);
  return files['nftables.conf']!.split('\n')
    .map((text, i) =>
      rules.has(i + 1) && !/\b(counter|comment)\b/.test(text)
        ? text.replace(STOPS, `counter $1 comment "line ${i + 1}"`)
        : text,
    )
    .join('\n');
};
/** Packets that such lines counted, from what nft lists in the namespaces of a switch, one after the other. */
export function counted(listed: string): ReadonlyMap<number, number> {
  const out = new Map<number, number>();
  for (const [, packets, line] of listed.matchAll(/counter packets (\d+) bytes \d+ .*comment "line (\d+)"/g))
    out.set(Number(line), (out.get(Number(line)) ?? 0) + Number(packets));
  return out;
}
/** Ports that nobody in a rehearsal calls but its servers. */
const ONLY_SERVERS = new Set([22, 53, 80, 5432]);
/** Does a rule look at what only servers ask one another? */
export const seesOnlyServers = ({ matches }: FilterRule): boolean =>
  matches.some(
    (m) =>
      !m.not &&
      m.set === undefined &&
      (m.field === 'icmpType' ||
        (m.field === 'targetPort' && (m.ranges ?? []).every((r) => r.from === r.to && ONLY_SERVERS.has(r.from)))),
  );

/** What of filters a namespace for each VRF cannot show. */
export function filtersNotShown({ filters = [], vrfs }: SwitchConfig): string[] {
  const early = filters.some(
    (t) =>
      t.layer !== 'bridge' &&
      t.chains.some(
        (c) =>
          (c.base?.hook === 'prerouting' || c.base?.hook === 'output') &&
          c.rules.some((r) => r.matches.some((m) => m.field === 'in' || m.field === 'out')),
      ),
  );
  const bySet = filters.some((t) =>
    t.chains.some((c) => c.rules.some((r) => r.matches.some((m) => m.field === 'in' && m.set !== undefined))),
  );
  return vrfs.length === 0
    ? []
    : [
        ...(early ? ['filters by interface before a packet is in its VRF, or as it leaves one'] : []),
        ...(bySet ? ['filters by a set of interfaces in VRFs'] : []),
      ];
}
