import type { FabricIntent, NetworkSpeakers } from '../intent/intent.ts';
import { policiesBehind, policyKey, type RoutePolicy } from '../intent/policies.ts';
import type { IpFamily } from '../numbers/address.ts';
import { familyOfText } from '../numbers/prefix.ts';
import type { VlanId } from '../numbers/vni.ts';
import { onceFor } from '../onceFor.ts';
import { maskOf } from '../secrets/secretRef.ts';
import type { Carriage } from './carriage.ts';

/** Servers of a network that speak BGP to its gateway, as the switches that carry it see them. */
export interface SeatSpeakers extends NetworkSpeakers {
  readonly vrf: string;
  readonly vlan: VlanId;
  /** The lists and maps of the fabric that they are held to, all the way down. */
  readonly policies: readonly RoutePolicy[];
  /** What stands in a text for their password. */
  readonly mask?: string;
}
const NOBODY: readonly SeatSpeakers[] = [];

/** The family a range is of. */
export const familyFrom = ({ from }: Pick<NetworkSpeakers, 'from'>): IpFamily => familyOfText(from);

/** Who may call the switches that carry so much. */
export function speakersOn(intent: FabricIntent): (carriage: Carriage) => readonly SeatSpeakers[] {
  if (intent.speakers.length === 0) return () => NOBODY;
  return onceFor((carriage: Carriage) =>
    intent.speakers.flatMap((s): SeatSpeakers[] => {
      const network = carriage.byName.get(s.network);
      if (!network || network.vrf === '') return [];
      const secret = intent.secrets.find((x) => x.name === s.password);
      const maps = [s.mapIn, s.mapOut].flatMap((name) =>
        name === undefined ? [] : policyKey({ is: 'route-map', name }),
      );
      return [
        {
          ...s,
          vrf: network.vrf,
          vlan: network.vlan,
          policies: policiesBehind(intent.policies, maps),
          ...(secret ? { mask: maskOf(secret.digest) } : {}),
        },
      ];
    }),
  );
}

/** The group they are in on a switch: `vlan40-10.40.0.0-26`; a colon would make an address of it. */
export const groupFor = ({ vlan, from }: Pick<SeatSpeakers, 'vlan' | 'from'>): string =>
  `vlan${vlan}-${from.replace(/[:/]/g, '-')}`;
/** Names of the lists of what they may tell, and of what they are told. */
export const listFromThem = (s: Pick<SeatSpeakers, 'vlan' | 'from'>): string => `FROM-${groupFor(s)}`;
export const listToThem = (s: Pick<SeatSpeakers, 'vlan' | 'from'>): string => `TO-${groupFor(s)}`;
/** Who calls by IPv6 could speak IPv4 as well: a router lets its callers speak what it speaks by itself (FRR 8.4.4). */
export const NOTHING_LIST = 'NOTHING';
