import type { SwitchConfig } from '../config/switchConfig.ts';
import type { Finding, Severity } from '../finding.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import type { ReadSwitch } from '../network/readSwitch.ts';
import { sameContent } from '../numbers/content.ts';
import type { DesignRule, RulePart, RuleScope } from './rule.ts';
import { DESIGN_RULES } from './rules/index.ts';

export interface RuleVerdict {
  readonly id: string;
  readonly title: string;
  readonly severity: Severity;
  readonly source: string;
  /** Absent in proofs of older releases. */
  readonly scope?: RuleScope;
  readonly findings: number;
}
/** What a rule says of itself, and how much it found. */
export const verdictOf = (
  { id, title, severity, source, scope }: Omit<RuleVerdict, 'findings'>,
  findings: number,
): RuleVerdict => ({
  id,
  title,
  severity,
  source,
  ...(scope === undefined ? {} : { scope }),
  findings,
});

/** What every rule found in a network. */
export interface Judged {
  readonly findings: Finding[];
  readonly rules: RuleVerdict[];
  readonly network: NetworkModel;
  /** Findings by rule. */
  readonly byRule: ReadonlyMap<string, readonly Finding[]>;
}

const addressesOf = ({ config }: ReadSwitch) =>
  config.ports
    .filter((p) => p.addresses.length > 0 || p.ipv6Addresses)
    .map((p) => [p.name, p.addresses, p.ipv6Addresses, p.vrf]);
/** What two networks of the same sessions and routes differ in. */
interface Changed {
  readonly parts: ReadonlySet<RulePart>;
  readonly hosts: ReadonlySet<string>;
}
/** In what they differ; null = they are other networks altogether. */
function changedParts(before: NetworkModel, after: NetworkModel): Changed | null {
  if (before.sessions !== after.sessions || before.underlay !== after.underlay || before.unheard !== after.unheard)
    return null;
  const out = new Set<RulePart>();
  const hosts = new Set<string>();
  after.switches.forEach((now, i) => {
    const was = before.switches[i]!;
    if (was.unread !== now.unread && !sameContent(was.unread, now.unread)) out.add('unread');
    if (was.config === now.config) return;
    hosts.add(now.host);
    const parts = new Set([...Object.keys(was.config), ...Object.keys(now.config)]) as ReadonlySet<keyof SwitchConfig>;
    for (const part of parts) if (!out.has(part) && !sameContent(was.config[part], now.config[part])) out.add(part);
    if (!sameContent(addressesOf(was), addressesOf(now))) out.add('port addresses');
  });
  // What tenants have of one another goes through them, and rules that ask for that do not say so.
  if (out.has('routeMaps')) return null;
  if (!sameContent(before.legs, after.legs)) out.add('legs');
  if (!sameContent(before.trunks, after.trunks)) out.add('trunks');
  return { parts: out, hosts };
}

/** Parts of a switch that nothing of other switches hangs on but what their own ports meet. */
const OF_ONE: ReadonlySet<RulePart> = new Set(['ports', 'port addresses', 'bridge', 'lags', 'legs']);
/**
 * Switches of which a rule that judges them one by one may find something else than before; null = all. Ports with a cable
 * neither come nor go here: then it is another network.
 */
function touchedBy({ parts, hosts }: Changed, { plan, switches }: NetworkModel): ReadonlySet<string> | null {
  if ([...parts].some((p) => !OF_ONE.has(p))) return null;
  const out = new Set(hosts);
  for (const { host, config } of switches)
    if (hosts.has(host))
      for (const p of config.ports) {
        const far = plan.end(host, p.name);
        if (far) out.add(far.host);
      }
  return out;
}

/**
 * Judges a network by every design rule.
 * @param last what was found in one of nearly the same: rules that read nothing that changed are not judged again
 */
export function judgeNetwork(network: NetworkModel, last?: Judged | null): Judged {
  const changed = last ? changedParts(last.network, network) : null;
  const touched = changed && touchedBy(changed, network);
  const judged = (rule: DesignRule): readonly Finding[] => {
    const before = last?.byRule.get(rule.id);
    if (!changed || !before) return rule.judge(network);
    if (!rule.reads.some((part) => changed.parts.has(part))) return before;
    if (!rule.judgeHost || !touched) return rule.judge(network);
    const kept = before.filter((f) => !touched.has(f.host!));
    const anew = [...touched].flatMap((host) => rule.judgeHost!(network, host));
    if (kept.length === 0 && anew.length === 0) return [];
    const order = (f: Finding): number => network.index.get(f.host!)!;
    return [...kept, ...anew].sort((a, b) => order(a) - order(b));
  };
  const byRule = new Map(DESIGN_RULES.map((rule) => [rule.id, judged(rule)] as const));
  const rules = DESIGN_RULES.map((rule) => verdictOf(rule, byRule.get(rule.id)!.length));
  return { findings: [...byRule.values()].flat(), rules, network, byRule };
}
