import type { BgpPeer, EvpnVni, RemoteAs } from '../../../config/switchConfig.ts';
import { parseIpv4 } from '../../../numbers/ipv4.ts';
import { isMask } from '../../../secrets/secretRef.ts';
import {
  AS_IPV4,
  isOfIpv4,
  readRedistribution,
  readTargets,
  whole,
  type Block,
  type Draft,
  type Mark,
  type Reading,
} from './blocks.ts';

interface FamilyDraft {
  active: string[];
  ownAsAllowed: Record<string, number>;
  connected?: { routeMap?: string };
  maximumPaths?: number;
}
export interface VrfDraft {
  vrf: string;
  asn: number;
  routerId?: string;
  connected?: { routeMap?: string };
  maximumPaths?: number;
  advertiseIpv4: boolean;
  rd?: string;
  imports: string[];
  exports: string[];
}
export interface BgpDraft {
  asn: number;
  routerId?: string;
  defaultIpv4: boolean;
  policyRequired: boolean;
  /** Whether policy is asked for, where the text says so itself. */
  policySaid: boolean | null;
  multipathRelax: boolean;
  peers: Map<string, Draft<BgpPeer>>;
  ipv4: FamilyDraft;
  evpn: FamilyDraft & {
    advertiseAllVni: boolean;
    vnis: { vni: number; rd?: string; imports: string[]; exports: string[] }[];
  };
  vrfs: VrfDraft[];
}

/** Readers of `router bgp` and of `router bgp … vrf`, with the blocks within. */
export function bgpReaders(mark: Mark) {
  const vniBlock = (v: Draft<EvpnVni> & { imports: string[]; exports: string[] }): Block => ({
    path: `bgp.evpn.vnis.${v.vni}`,
    exit: 'exit-vni',
    read: (w) => {
      const r = readTargets(w, v);
      if (r === true) mark(`bgp.evpn.vnis.${v.vni}.${w[0]}`);
      return r;
    },
  });

  const familyBlock = (b: BgpDraft, which: 'ipv4' | 'evpn'): Block => ({
    path: `bgp.${which}`,
    exit: 'exit-address-family',
    read: (w) => {
      const family = b[which];
      if (w[0] === 'neighbor' && w[1] !== undefined) {
        if (w[2] === 'activate') {
          if (!b.peers.has(w[1])) return `${w[1]} is not defined above as a neighbour or group`;
          if (!family.active.includes(w[1])) family.active.push(w[1]);
          return mark(`bgp.${which}.active`);
        }
        if (w[2] === 'allowas-in') {
          const n = w[3] === undefined ? 3 : whole(w[3], 1, 10);
          if (n === null) return 'allowas-in takes 1–10';
          family.ownAsAllowed[w[1]] = n;
          return mark(`bgp.${which}.ownAsAllowed`);
        }
        // A line about the neighbour itself: the router knows it, or nobody.
        return false;
      }
      if (w[0] === 'no' && w[1] === 'neighbor' && w[3] === 'activate') {
        family.active = family.active.filter((a) => a !== w[2]);
        return mark(`bgp.${which}.active`);
      }
      if (which === 'ipv4') {
        const r = readRedistribution(w, family);
        if (r !== false) return r === true ? mark('bgp.ipv4.connected') : r;
        if (w[0] === 'maximum-paths') {
          const n = whole(w[1], 1, 256);
          if (n === null) return 'maximum-paths takes 1–256';
          family.maximumPaths = n;
          return mark('bgp.ipv4.maximumPaths');
        }
      } else {
        if (w[0] === 'advertise-all-vni') {
          b.evpn.advertiseAllVni = true;
          return mark('bgp.evpn.advertiseAllVni');
        }
        if (w[0] === 'vni') {
          const vni = whole(w[1], 1, 16777215);
          if (vni === null) return 'a VNI is 1–16777215';
          let v = b.evpn.vnis.find((x) => x.vni === vni);
          if (!v) b.evpn.vnis.push((v = { vni, imports: [], exports: [] }));
          return vniBlock(v);
        }
      }
      return false;
    },
  });

  function readNeighbour(b: BgpDraft, w: readonly string[]): Reading {
    const name = w[1];
    if (name === undefined) return 'the neighbour has no name';
    let rest = w.slice(2);
    if (rest[0] === 'peer-group' && rest.length === 1) {
      b.peers.set(name, { name, kind: 'group' });
      return mark(`bgp.peers.${name}`);
    }
    let peer = b.peers.get(name);
    const viaInterface = rest[0] === 'interface';
    if (viaInterface) rest = rest.slice(1);
    if (!peer) {
      const opening = viaInterface || rest[0] === 'remote-as' || (rest[0] === 'peer-group' && parseIpv4(name) !== null);
      if (!opening) return `${name} is not defined above as a neighbour or group`;
      if (!viaInterface && parseIpv4(name) === null) return `${name} is neither an address nor an interface neighbour`;
      peer = { name, kind: viaInterface ? 'interface' : 'address' };
      b.peers.set(name, peer);
      if (viaInterface && rest.length === 0) return mark(`bgp.peers.${name}`);
    }
    const at = `bgp.peers.${name}`;
    switch (rest[0]) {
      case 'remote-as': {
        const said: RemoteAs | null =
          rest[1] === 'external' || rest[1] === 'internal' ? rest[1] : whole(rest[1], 1, 4294967295);
        if (said === null) return 'an AS number is 1–4294967295';
        peer.remoteAs = said;
        return mark(`${at}.remoteAs`);
      }
      case 'peer-group':
        if (rest[1] === undefined || b.peers.get(rest[1])?.kind !== 'group')
          return `there is no peer group ${rest[1] ?? ''} above`;
        peer.group = rest[1];
        return mark(`${at}.group`);
      case 'description':
        peer.description = rest.slice(1).join(' ');
        return mark(`${at}.description`);
      case 'timers': {
        if (rest[1] === 'connect') {
          const n = whole(rest[2], 1, 65535);
          if (n === null) return 'the connect timer is 1–65535 s';
          peer.connect = n;
          return mark(`${at}.connect`);
        }
        const keepalive = whole(rest[1], 0, 65535);
        const hold = whole(rest[2], 0, 65535);
        if (keepalive === null || hold === null) return 'timers are two numbers of seconds';
        peer.keepalive = keepalive;
        peer.hold = hold;
        return mark(`${at}.timers`);
      }
      case 'bfd':
        peer.bfd = true;
        if (rest[1] === 'profile') {
          if (rest[2] === undefined) return 'the profile has no name';
          peer.bfdProfile = rest[2];
        }
        return mark(`${at}.bfd`);
      case 'password':
        if (rest.length !== 2 || !isMask(rest[1]!)) return 'the password stands here in plain words';
        peer.password = rest[1]!;
        return mark(`${at}.password`);
      case 'shutdown':
        peer.shutdown = true;
        return mark(`${at}.shutdown`);
      default:
        return `“${rest.join(' ')}” is not modelled`;
    }
  }

  const bgpBlock = (b: BgpDraft): Block => ({
    path: 'bgp',
    read: (w, line) => {
      if (isOfIpv4(w)) {
        const r = familyBlock(b, 'ipv4').read(w, line);
        return r === true ? { as: AS_IPV4 } : r;
      }
      if (w[0] === 'neighbor') return readNeighbour(b, w);
      if (line.startsWith('address-family ipv4 unicast') || line === 'address-family ipv4')
        return familyBlock(b, 'ipv4');
      if (line === 'address-family l2vpn evpn') return familyBlock(b, 'evpn');
      if (w[0] === 'bgp' && w[1] === 'router-id') {
        if (parseIpv4(w[2] ?? '') === null) return 'a router id is written like an IPv4 address';
        b.routerId = w[2]!;
        return mark('bgp.routerId');
      }
      if (line === 'no bgp default ipv4-unicast') {
        b.defaultIpv4 = false;
        return mark('bgp.defaultIpv4');
      }
      if (line === 'bgp bestpath as-path multipath-relax') {
        b.multipathRelax = true;
        return mark('bgp.multipathRelax');
      }
      if (line === 'no bgp ebgp-requires-policy' || line === 'bgp ebgp-requires-policy') {
        b.policySaid = w[0] !== 'no';
        return mark('bgp.policyRequired');
      }
      if (line === 'bgp log-neighbor-changes' || line.startsWith('bgp graceful-restart')) return mark('bgp');
      return false;
    },
  });

  const bgpVrfBlock = (v: VrfDraft): Block => ({
    path: `bgp.vrfs.${v.vrf}`,
    read: (w, line) => {
      const at = `bgp.vrfs.${v.vrf}`;
      if (w[0] === 'bgp' && w[1] === 'router-id') {
        if (parseIpv4(w[2] ?? '') === null) return 'a router id is written like an IPv4 address';
        v.routerId = w[2]!;
        return mark(`${at}.routerId`);
      }
      const ipv4: Block = {
        path: `${at}.ipv4`,
        exit: 'exit-address-family',
        read: (w2) => {
          const r = readRedistribution(w2, v);
          if (r !== false) return r === true ? mark(`${at}.connected`) : r;
          if (w2[0] !== 'maximum-paths') return false;
          const n = whole(w2[1], 1, 256);
          if (n === null) return 'maximum-paths takes 1–256';
          v.maximumPaths = n;
          return mark(`${at}.maximumPaths`);
        },
      };
      if (line === 'address-family ipv4 unicast') return ipv4;
      if (isOfIpv4(w)) {
        const r = ipv4.read(w, line);
        return r === true ? { as: AS_IPV4 } : r;
      }
      if (line === 'address-family l2vpn evpn')
        return {
          path: `${at}.evpn`,
          exit: 'exit-address-family',
          read: (w2, line2) => {
            if (line2 === 'advertise ipv4 unicast') {
              v.advertiseIpv4 = true;
              return mark(`${at}.advertiseIpv4`);
            }
            const r = readTargets(w2, v);
            if (r === true) mark(`${at}.${w2[0]}`);
            return r;
          },
        };
      return false;
    },
  });

  return { bgpBlock, bgpVrfBlock };
}
