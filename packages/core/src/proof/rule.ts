import type { Place, SwitchConfig } from '../config/switchConfig.ts';
import type { Finding, FindingSubject, Severity } from '../finding.ts';
import type { NetworkModel } from '../network/networkModel.ts';

/** A judgement that ships with Anthemion. It sees only what was read back from text, and the cables. */
export interface DesignRule {
  readonly id: string;
  /** What holds when the rule holds, as a short sentence. */
  readonly title: string;
  readonly severity: Severity;
  /** RFC or reason behind it. */
  readonly source: string;
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
  rule: Omit<DesignRule, 'judge' | 'judgeHost'> & { readonly judgeHost: NonNullable<DesignRule['judgeHost']> },
): DesignRule => ({
  ...rule,
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
