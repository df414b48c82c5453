import { sviKey, type SviConfig } from '../../config/interfaces.ts';
import type { Finding } from '../../finding.ts';
import { gatewaysOfSvi } from '../../network/interfaces.ts';
import type { NetworkModel } from '../../network/networkModel.ts';
import { found, type DesignRule, type RuleSpot } from '../rule.ts';
import { Usual } from '../usual.ts';

interface Gateway {
  readonly host: string;
  readonly svi: SviConfig;
  readonly vni: number;
  /** Of IPv4, in one order; empty = it has IPv6 alone. */
  readonly ipv4: string;
  /** The same of IPv6. */
  readonly ipv6: string;
  readonly mac: string | undefined;
}
const together = (addresses: readonly string[]): string =>
  addresses.length < 2 ? (addresses[0] ?? '') : [...addresses].sort().join(' and ');
const ipv6Of = (svi: SviConfig): string =>
  svi.ipv6Addresses === undefined && svi.virtual === undefined
    ? ''
    : together([...(svi.ipv6Addresses ?? []), ...(svi.virtual?.ipv6Addresses ?? [])]);
function gatewaysOf({ views }: NetworkModel): readonly Gateway[] {
  const out: Gateway[] = [];
  for (const [host, view] of views)
    for (const svi of view.config.svis) {
      const ipv4 = together(gatewaysOfSvi(svi));
      const vni = view.vniOfVlan.get(svi.vlan);
      const ipv6 = ipv6Of(svi);
      if ((ipv4 !== '' || ipv6 !== '') && vni !== undefined)
        out.push({ host, svi, vni, ipv4, ipv6, mac: svi.virtual?.mac ?? svi.mac });
    }
  return out;
}
const vrfWords = (vrf: string | undefined): string => (vrf === undefined ? 'no VRF' : `VRF ${vrf}`);

export const gatewayEqual: DesignRule = {
  id: 'gateway-equal',
  title: 'An anycast gateway is the same on every switch',
  severity: 'error',
  scope: 'network',
  source: 'RFC 9135 §4.1: one address, one length, one MAC, in one VRF',
  reads: ['bridge', 'outsideL3Vni', 'svis', 'vrfs', 'vxlans'],
  judge: (network) => {
    const gateways = gatewaysOf(network);
    const ipv4s = new Usual<number, string>();
    const ipv6s = new Usual<number, string>();
    const macs = new Usual<number, string | undefined>();
    const vrfs = new Usual<number, string | undefined>();
    for (const { host, svi, vni, ipv4, ipv6, mac } of gateways) {
      ipv4s.add(vni, ipv4, host);
      ipv6s.add(vni, ipv6, host);
      macs.add(vni, mac, host);
      vrfs.add(vni, svi.vrf, host);
    }
    const out: Finding[] = [];
    for (const { host, svi, vni, ipv4, ipv6, mac } of gateways) {
      const say = (field: 'addresses' | 'ipv6Addresses' | 'mac' | 'vrf', what: string, cure: string): void => {
        const spot: RuleSpot = { host, configPlace: ['svis', sviKey(svi), field], subjects: [`vlan:${svi.vlan}`] };
        out.push(found(gatewayEqual, spot, `VLAN ${svi.vlan}: ${host} has ${what}.`, cure));
      };
      const otherIpv4 = ipv4s.against(vni, ipv4);
      if (otherIpv4)
        say(
          'addresses',
          `${ipv4 === '' ? 'no gateway of IPv4' : `gateway ${ipv4}`}, ${otherIpv4.host} has ${otherIpv4.value || 'none of IPv4'}`,
          'Give every switch the same address and length.',
        );
      const otherIpv6 = ipv6s.against(vni, ipv6);
      if (otherIpv6)
        say(
          'ipv6Addresses',
          `${ipv6 === '' ? 'no gateway of IPv6' : `gateway ${ipv6}`}, ${otherIpv6.host} has ${otherIpv6.value || 'none of IPv6'}`,
          'Give every switch the same address and length.',
        );
      const otherMac = macs.against(vni, mac);
      if (otherMac)
        say(
          'mac',
          `gateway MAC ${mac ?? 'of the port'}, ${otherMac.host} has ${otherMac.value ?? 'that of the port'}`,
          'Give every switch the same MAC.',
        );
      const otherVrf = vrfs.against(vni, svi.vrf);
      if (otherVrf)
        say(
          'vrf',
          `its gateway in ${vrfWords(svi.vrf)}, ${otherVrf.host} in ${vrfWords(otherVrf.value)}`,
          `Put it into ${vrfWords(otherVrf.value)}, or servers there reach nobody of their VRF.`,
        );
    }
    return out;
  },
};
