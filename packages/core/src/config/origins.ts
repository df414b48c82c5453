import { describeEdit, subjectsOf, type Edit } from '../intent/edits/index.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { endAt, farEnd, type Layout } from '../layout/links.ts';
import { hasServers, type Seat } from '../layout/seats.ts';
import {
  asnKey,
  kindOfRole,
  linkKey,
  loopbackKey,
  networkVniKey,
  subnetKey,
  vrfVniKey,
  vtepKey,
  type ValueKey,
} from '../pools/demands.ts';
import type { LedgerEntry, Values } from '../pools/drawValues.ts';
import type { PoolRole } from '../intent/intent.ts';
import type { Subject } from '../subject.ts';
import type { SwitchConfig } from './switchConfig.ts';

/** What put a configuration line there. */
export interface Origin {
  /** Intent object behind the line, e.g. `network:echo-store`. */
  readonly subject: Subject;
  /** What to call it beside the line. */
  readonly label: string;
  /** The drawn or chosen value in the line, where there is one. */
  readonly value?: { readonly key: ValueKey; readonly text: string; readonly pool: string };
  /** Edit of the open change that caused it, 1-based, with its sentence. */
  readonly edit?: { readonly number: number; readonly sentence: string };
}

export interface OriginContext {
  readonly intent: FabricIntent;
  readonly layout: Layout;
  readonly seat: Seat;
  readonly config: SwitchConfig;
  readonly values: Values;
  readonly ledger: readonly LedgerEntry[];
  readonly edits: readonly Edit[];
}

interface Cause {
  readonly subject: Subject;
  readonly label: string;
  readonly key?: ValueKey;
  readonly role?: PoolRole;
}

function causeOf(path: string, c: OriginContext): Cause {
  const { intent, seat, config } = c;
  const [head = '', name = '', field = '', more = ''] = path.split('.');
  const rack: Subject = seat.rack === undefined ? 'spines' : `rack:${seat.rack}`;
  const pattern: Cause = { subject: rack, label: seat.rack === undefined ? 'fabric pattern' : `rack ${seat.rack}` };
  const setting = (key: string, label: string): Cause => ({ subject: `setting:${key}`, label });
  const loopback: Cause = { ...pattern, label: 'loopback of the seat', key: loopbackKey(seat.id), role: 'loopback' };
  const asn: Cause = {
    ...pattern,
    label: 'AS number of the seat',
    key: asnKey(intent, seat),
    role: hasServers(seat) ? 'leafAsn' : 'spineAsn',
  };
  const ofVlan = (vlan: number | undefined, asksVni: boolean): Cause => {
    const network = intent.networks.find((n) => n.vlan === vlan);
    if (network)
      return {
        subject: `network:${network.name}`,
        label: `network ${network.name}`,
        key: asksVni ? networkVniKey(network.name) : subnetKey(network.name),
        role: asksVni ? 'vni' : 'subnet',
      };
    const vrf = intent.vrfs.find((v) => v.transitVlan === vlan);
    return vrf
      ? { subject: `vrf:${vrf.name}`, label: `VRF ${vrf.name}`, key: vrfVniKey(vrf.name), role: 'vni' }
      : pattern;
  };
  const plain = ({ key: _k, role: _r, ...cause }: Cause): Cause => cause;
  const server = (port: string): Cause => {
    const found = intent.ports.find(
      (p) => p.rack === seat.rack && p.port === port && (p.side === 'both' || p.side === (seat.side ?? 'a')),
    );
    return found
      ? { subject: `port:${found.rack}.${found.side}.${found.port}`, label: `server ${found.server}` }
      : pattern;
  };
  switch (head) {
    case 'loopbacks':
      return name === 'address' ? loopback : pattern;
    case 'hostname':
      return { subject: 'fabric', label: 'name of the seat' };
    case 'system':
      return { subject: 'fabric', label: 'linux dialect' };
    case 'ports': {
      const link = c.layout.linksOf.get(seat.id)?.find((l) => endAt(l, seat.id).port === name);
      if (!link) return server(name);
      if (field === 'address') return { ...pattern, label: 'link address', key: linkKey(link.id), role: 'link' };
      return field === 'mtu'
        ? setting('linkMtu', 'link MTU')
        : {
            ...pattern,
            label: `cable to ${c.layout.seatById.get(farEnd(link, seat.id).seat)!.host}`,
          };
    }
    case 'lags':
      return server(config.lags.find((l) => l.name === name)?.members[0] ?? '');
    case 'vxlans': {
      const cause = ofVlan(config.vxlans.find((v) => v.name === name)?.vlan, true);
      if (field === 'vxlan-local-tunnelip') return { ...plain(cause), key: vtepKey(seat.id), role: 'vtep' };
      return field === 'vxlan-id' || field === '' ? cause : plain(cause);
    }
    case 'bridge':
      return { subject: rack, label: 'networks of the rack' };
    case 'svis': {
      const cause = ofVlan(config.svis.find((s) => s.name === name)?.vlan, false);
      return field === 'address' && cause.role === 'subnet' ? cause : plain(cause);
    }
    case 'vrfs':
      return {
        subject: `vrf:${name}`,
        label: `VRF ${name}`,
        ...(field === 'l3Vni' ? { key: vrfVniKey(name), role: 'vni' as const } : {}),
      };
    case 'bfdProfiles':
      return setting('bfd', 'BFD');
    case 'prefixLists':
    case 'routeMaps':
      return { subject: 'pool:loopback', label: 'loopback and VTEP pools' };
    case 'bgp': {
      if (name === 'routerId') return loopback;
      if (name === '') return asn;
      if (name === 'evpn' && field === 'vnis') {
        const vni = config.vxlans.find((v) => v.vni === Number(more));
        return ofVlan(vni?.vlan, true);
      }
      if (name === 'vrfs')
        return {
          subject: `vrf:${field}`,
          label: `VRF ${field}`,
          ...(more === 'route-target' ? { key: vrfVniKey(field), role: 'vni' as const } : {}),
        };
      if (name === 'peers') {
        if (more === 'timers') return setting('keepalive', 'BGP timers');
        if (more === 'bfd') return setting('bfd', 'BFD');
        return field === 'FABRIC'
          ? { subject: 'fabric', label: 'fabric pattern' }
          : { ...pattern, label: 'cable to a neighbour' };
      }
      if (more === 'ownAsAllowed' || field === 'ownAsAllowed') return setting('asnScheme', 'AS numbers per rack');
      return { subject: 'fabric', label: 'fabric pattern' };
    }
    default:
      return pattern;
  }
}

/** Why a place of a switch's configuration is as it is: intent object, value and pool, and the edit that brought it. */
export function originOf(path: string, context: OriginContext): Origin {
  const cause = causeOf(path, context);
  const text = cause.key === undefined ? undefined : context.values.get(cause.key);
  const entry = context.ledger.find((e) => e.key === cause.key && e.fabric === context.intent.name);
  // The last edit wins; a network's lines also come from the edit that carried it here.
  const number = context.edits.findLastIndex((e) => subjectsOf(e).includes(cause.subject));
  const laid = number >= 0 ? number : context.edits.findIndex((e) => e.kind === 'layFabric');
  return {
    subject: cause.subject,
    label: cause.label,
    ...(text === undefined || cause.key === undefined
      ? {}
      : {
          value: {
            key: cause.key,
            text,
            pool:
              entry?.pool ??
              (cause.role && kindOfRole(cause.role) === entry?.kind ? context.intent.pools[cause.role] : ''),
          },
        }),
    ...(laid < 0 ? {} : { edit: { number: laid + 1, sentence: describeEdit(context.edits[laid]!) } }),
  };
}
