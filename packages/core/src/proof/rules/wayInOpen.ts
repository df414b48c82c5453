import { lagKey, lagWords } from '../../config/interfaces.ts';
import type { Place } from '../../config/switchConfig.ts';
import type { Finding } from '../../finding.ts';
import { found, hostByHost } from '../rule.ts';

/** Names Linux gives the port beside the front ports, over which a switch is managed. */
const MANAGEMENT = /^(eth|mgmt|ma)\d*$/;

/**
 * A rollout is confirmed over a new connection, so text that closes the way in is taken back by itself; this rule says it
 * before anything is sent.
 */
export const wayInOpen = hostByHost({
  id: 'way-in-open',
  title: 'The way in over which a switch is managed stays open',
  severity: 'error',
  source: 'a switch that cannot be reached cannot be confirmed, and goes back',
  reads: ['bridge', 'lags', 'ports'],
  judgeHost: ({ views }, host) => {
    const out: Finding[] = [];
    const { config, portByName, vlansOfPort } = views.get(host)!;
    const addressed = (name: string): boolean => {
      const { addresses = [], ipv6Addresses = [] } = portByName.get(name) ?? {};
      return addresses.length + ipv6Addresses.length > 0;
    };
    const say = (configPlace: Place, message: string): void =>
      void out.push(
        found(wayInOpen, { host, configPlace }, message, 'Leave the management port to itself, with its address.'),
      );
    for (const port of config.ports) {
      if (!MANAGEMENT.test(port.name)) continue;
      if (port.bridging) say(['ports', port.name, 'bridging'], `${host} bridges ${port.name}, its management port.`);
      else if (![port.name, ...(vlansOfPort.get(port.name) ?? [])].some(addressed))
        say(['ports', port.name], `${host} brings ${port.name}, its management port, up without an address.`);
    }
    for (const member of config.bridge?.ports ?? [])
      if (MANAGEMENT.test(member)) say(['bridge', 'ports'], `${host} bridges ${member}, its management port.`);
    const bundled = (members: readonly string[], place: Place, words: string): void => {
      for (const member of members)
        if (MANAGEMENT.test(member)) say(place, `${host} puts ${member}, its management port, into ${words}.`);
    };
    for (const lag of config.lags) bundled(lag.members, ['lags', lagKey(lag), 'members'], lagWords(lag));
    for (const { name, members = [] } of config.ports) bundled(members, ['ports', name, 'members'], name);
    return out;
  },
});
