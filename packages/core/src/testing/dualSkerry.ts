import { linux } from '../dialects/linux/linux.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import { ipv6Servers, withIpv6, type Ipv6Choices } from './ipv6Of.ts';
import { networkFromTexts, skerryCables, skerryHosts, skerryTexts } from './skerryFolder.ts';

/** The plainest way to have both. */
export const PLAIN: Ipv6Choices = {
  links: 'bare',
  sessions: 'shared',
  led: 'bgp',
  told: 'mapped',
  byDefault: false,
  aggregated: false,
  filtered: false,
  written: false,
  tenants: 'told',
  tellsDefault: false,
};
/** Skerry's switches, without IPv6. */
export const skerryConfigs = networkFromTexts(skerryTexts()).switches.map((s) => s.config);

/** A change of two texts of a switch. */
type Change = (frr: string, interfaces: string) => readonly [frr: string, interfaces: string];
/** By switch. */
export type Changes = Readonly<Record<string, Change>>;
export const inFrr =
  (from: string | RegExp, to: string): Change =>
  (frr, interfaces) => [frr.replace(from, to), interfaces];
export const inInterfaces =
  (from: string | RegExp, to: string): Change =>
  (frr, interfaces) => [frr, interfaces.replace(from, to)];

/**
 * Skerry with IPv6 beside IPv4, as texts of which some are changed, read again.
 * @param filters of some switches, as nft reads them
 */
export function dualSkerry(
  choices: Partial<Ipv6Choices> = {},
  change: Changes = {},
  filters: Readonly<Record<string, string>> = {},
): NetworkModel {
  const configs = withIpv6(skerryConfigs, skerryCables, { ...PLAIN, ...choices });
  const switches = configs.map((c) => {
    const { files } = linux.render(c);
    const had = [files['frr.conf']!, files['interfaces']!] as const;
    const [frr, interfaces] = change[c.hostname]?.(...had) ?? had;
    if (change[c.hostname] && frr === had[0] && interfaces === had[1])
      throw new Error(`nothing to change on ${c.hostname}`);
    const filtered = filters[c.hostname];
    const texts = { interfaces, 'frr.conf': frr, ...(filtered === undefined ? {} : { 'nftables.conf': filtered }) };
    return { host: c.hostname, ...linux.parse(texts) };
  });
  return modelNetwork(switches, skerryCables, [...skerryHosts, ...ipv6Servers(configs, skerryHosts)]);
}
