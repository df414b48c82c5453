import { sviKey } from '../../config/interfaces.ts';
import { gatewayOfSvi } from '../../network/interfaces.ts';
import { found, type DesignRule, type RuleSpot } from '../rule.ts';

export const gatewayEqual: DesignRule = {
  id: 'gateway-equal',
  title: 'An anycast gateway is the same on every switch',
  severity: 'error',
  source: 'RFC 9135 §4.1: one address, one length, one MAC',
  judge: ({ views }) => {
    const first = new Map<number, { host: string; address: string; mac: string | undefined }>();
    const out = [];
    for (const [host, view] of views)
      for (const svi of view.config.svis) {
        const address = gatewayOfSvi(svi);
        const vni = view.vniOfVlan.get(svi.vlan);
        if (address === undefined || vni === undefined) continue;
        const mac = svi.virtual?.mac ?? svi.mac;
        const known = first.get(vni);
        if (!known) {
          first.set(vni, { host, address, mac });
          continue;
        }
        const spot = (key: 'addresses' | 'mac'): RuleSpot => ({
          host,
          configPlace: ['svis', sviKey(svi), key],
          subjects: [`vlan:${svi.vlan}`],
        });
        if (known.address !== address)
          out.push(
            found(
              gatewayEqual,
              spot('addresses'),
              `VLAN ${svi.vlan}: ${host} has gateway ${address}, ${known.host} has ${known.address}.`,
              'Give every switch the same address and length.',
            ),
          );
        if (known.mac !== mac)
          out.push(
            found(
              gatewayEqual,
              spot('mac'),
              `VLAN ${svi.vlan}: ${host} has gateway MAC ${mac ?? 'of the port'}, ${known.host} has ${known.mac ?? 'that of the port'}.`,
              'Give every switch the same MAC.',
            ),
          );
      }
    return out;
  },
};
