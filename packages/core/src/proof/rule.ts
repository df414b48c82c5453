import type { Place, SwitchConfig } from '../config/switchConfig.ts';
import type { CompiledFabric } from '../compile/compileFabric.ts';
import type { Finding, FindingSubject, Severity } from '../finding.ts';
import type { FabricIntent } from '../intent/intent.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import type { Values } from '../pools/drawValues.ts';

/**
 * What a rule looks at: what is meant; which switches that makes and how they are joined; a switch by itself, with those it is
 * cabled to; the network that all of them make.
 */
export const RULE_SCOPES = ['intent', 'layout', 'switch', 'network'] as const;
export type RuleScope = (typeof RULE_SCOPES)[number];

/** What every judgement that ships with Anthemion says of itself. */
interface RuleSaid {
  readonly id: string;
  /** What holds when the rule holds, as a short sentence. */
  readonly title: string;
  readonly severity: Severity;
  /** RFC or reason behind it. */
  readonly source: string;
  readonly scope: RuleScope;
}

/** A fabric as it is meant, with what was drawn for it and made of it. */
export interface JudgedFabric {
  readonly intent: FabricIntent;
  readonly values: Values;
  readonly compiled: CompiledFabric;
}
/** A judgement of what is meant: what no text shows, or shows too late. */
export interface FabricRule extends RuleSaid {
  readonly scope: 'intent' | 'layout';
  readonly judge: (fabric: JudgedFabric) => Finding[];
}

/** A judgement of texts. It sees only what was read back from them, and the cables. */
export interface DesignRule extends RuleSaid {
  readonly scope: 'switch' | 'network';
  /**
   * What of a network it reads beyond links, sessions, routes and EVPN: where nothing of that has changed, and nothing of
   * those, what it found before stands.
   */
  readonly reads: readonly RulePart[];
  readonly judge: (network: NetworkModel) => Finding[];
  /**
   * Where what it finds of a switch follows from that switch alone, and from those it is cabled to: its findings there.
   * Then `judge` is this of all switches in turn, and of a change only those are judged again.
   */
  readonly judgeHost?: (network: NetworkModel, host: string) => Finding[];
}

/** A rule that judges each switch by itself. */
export const hostByHost = (
  rule: Omit<DesignRule, 'judge' | 'judgeHost' | 'scope'> & {
    readonly judgeHost: NonNullable<DesignRule['judgeHost']>;
  },
): DesignRule => ({
  ...rule,
  scope: 'switch',
  judge: (network) => network.switches.flatMap(({ host }) => rule.judgeHost(network, host)),
});

/**
 * Parts of a configuration (of ports also their names, addresses and VRFs alone), lines that were not read, what servers are
 * connected for, bridges that are joined.
 */
export type RulePart = keyof SwitchConfig | 'port addresses' | 'unread' | 'legs' | 'trunks';

/** Where a finding of a rule stands. */
export interface RuleSpot {
  readonly host: string;
  readonly configPlace?: Place;
  /** `vlan:210`, `vrf:tides`, …: translated to intent objects by the proof. */
  readonly subjects?: readonly FindingSubject[];
}

/** Makes a finding of a rule. */
export function found(
  rule: Pick<DesignRule, 'id' | 'severity'>,
  spot: RuleSpot,
  message: string,
  cure: string,
): Finding {
  return { rule: rule.id, severity: rule.severity, message, cure, ...spot };
}
