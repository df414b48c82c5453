import type { BgpPeer } from '../../config/bgpParts.ts';
import { routersIn } from '../../config/bgpParts.ts';
import type { OspfPort } from '../../config/ospf.ts';
import type { Place } from '../../config/switchConfig.ts';
import type { Finding } from '../../finding.ts';
import type { ReadSwitch } from '../../network/readSwitch.ts';
import { groupBy } from '../../numbers/order.ts';
import { found, type DesignRule } from '../rule.ts';

/** The least a hold time may be that is not 0, which ends nothing (RFC 4271 §4.2). */
const LEAST_HOLD = 3;
const CURE = 'Let the hold time be three keepalives: 3 and 9.';

function ofPeer({ name, keepalive, hold }: BgpPeer): { readonly says: string; readonly field: string } | null {
  if (hold !== undefined && hold !== 0 && hold < LEAST_HOLD)
    return { says: `${name} has hold time ${hold}; it is 0, or ${LEAST_HOLD} and more.`, field: 'hold' };
  return keepalive === undefined || hold === undefined || hold === 0 || keepalive * 2 <= hold
    ? null
    : {
        says: `${name} has keepalive ${keepalive} and hold time ${hold}: one keepalive that is lost, or late, ends the session.`,
        field: 'keepalive',
      };
}
const ofPort = ({ hello, dead }: OspfPort): string | null =>
  hello === undefined || dead === undefined || hello * 2 <= dead
    ? null
    : `hellos every ${hello} s, and a neighbour is given up after ${dead} s: one that is lost ends it.`;

interface Said {
  readonly host: string;
  readonly place: Place;
  readonly words: string;
  readonly cure: string;
}
function saidBy({ host, config }: ReadSwitch): Said[] {
  const out: Said[] = [];
  const say = (place: readonly string[], words: string, cure: string): void =>
    void out.push({ host, place: place as Place, words, cure });
  for (const { speaker, place } of routersIn(config))
    for (const peer of speaker.peers) {
      const wrong = ofPeer(peer);
      if (wrong) say([...place, 'peers', peer.name, wrong.field], wrong.says, CURE);
    }
  for (const part of ['ospfPorts', 'ospf6Ports'] as const)
    for (const port of config[part] ?? []) {
      const words = ofPort(port);
      if (words !== null)
        say([part, port.name, 'dead'], `${port.name} has ${words}`, 'Let it be four hellos: 10 and 40.');
    }
  return out;
}

export const timersSound: DesignRule = {
  id: 'timers-sound',
  title: 'One keepalive, or hello, that is lost ends no session',
  severity: 'error',
  source: 'RFC 4271 §4.2 and §10, RFC 2328 §C.3',
  scope: 'network',
  reads: ['bgp', 'ospfPorts', 'ospf6Ports'],
  // All switches mostly say the same: that is one finding.
  judge: ({ switches }) =>
    [...groupBy(switches.flatMap(saidBy), (s) => s.words).values()].map((alike): Finding => {
      const [{ host, place, words, cure }] = alike as [Said];
      const others = new Set(alike.map((s) => s.host)).size - 1;
      const who = others === 0 ? host : `${host} and ${others} more`;
      return found(timersSound, { host, configPlace: place }, `${who}: ${words}`, cure);
    }),
};
