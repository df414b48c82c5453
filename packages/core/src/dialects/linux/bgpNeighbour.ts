import type { BgpPeer, RemoteAs } from '../../config/bgp.ts';
import { formatAddress, parseAddress } from '../../numbers/address.ts';
import { isMask } from '../../secrets/secretRef.ts';
import { failed, harmless, unmodelled, type FrrReading, type Lost, type Reading } from './blocks.ts';
import { placeIn, type Draft, type PeerSort, type SpeakerDraft } from './draft.ts';
import { whole } from './words.ts';

/** Lines of one neighbour or group. */
export function neighbourLines(p: BgpPeer): string {
  const n = `\n neighbor ${p.name}`;
  let out = '';
  if (p.kind === 'group') out = `${n} peer-group`;
  const by = p.kind === 'interface' ? `${n} interface` : n;
  if (p.remoteAs !== undefined) out += `${by} remote-as ${p.remoteAs}`;
  if (p.kind !== 'group' && p.group !== undefined) out += `${by} peer-group ${p.group}`;
  if (p.description !== undefined) out += `${n} description ${p.description}`;
  if (p.keepalive !== undefined) out += `${n} timers ${p.keepalive} ${p.hold}`;
  if (p.connect !== undefined) out += `${n} timers connect ${p.connect}`;
  if (p.bfd) out += `${n} bfd`;
  if (p.bfdProfile !== undefined) out += `${n} bfd profile ${p.bfdProfile}`;
  if (p.password !== undefined) out += `${n} password ${p.password}`;
  if (p.shutdown) out += `${n} shutdown`;
  if (p.passive) out += `${n} passive`;
  if (p.multihop !== undefined) out += `${n} ebgp-multihop ${p.multihop}`;
  if (p.ttlSecurity !== undefined) out += `${n} ttl-security hops ${p.ttlSecurity}`;
  if (p.localAs !== undefined) out += `${n} local-as ${p.localAs}`;
  if (p.updateSource !== undefined) out += `${n} update-source ${p.updateSource}`;
  return out;
}

/** A neighbour as a line calls it: addresses of IPv6 in one form, however they are written. */
export function peerName(said: string): string {
  const address = said.includes(':') ? parseAddress(said) : null;
  return address ? formatAddress(address) : said;
}

/** The neighbour a line speaks of, which its first line makes; or why there is none. */
function peerOf(b: SpeakerDraft, name: string, says: string | undefined): Draft<BgpPeer> | Lost {
  const known = b.peers.get(name);
  if (known) return known;
  const viaInterface = says === 'interface';
  const isAddress = parseAddress(name) !== null;
  const opening = viaInterface || says === 'remote-as' || (says === 'peer-group' && isAddress);
  if (!opening) return failed(`${name} is not defined above as a neighbour or group`);
  if (isAddress && b.own().has(name)) return failed('it is an address of the switch itself');
  if (!viaInterface && !isAddress) return failed(`${name} is neither an address nor an interface neighbour`);
  const peer: Draft<BgpPeer> = { name, kind: viaInterface ? 'interface' : 'address' };
  b.peers.set(name, peer);
  return peer;
}

const sortOf = (said: RemoteAs | undefined, own: number): PeerSort => {
  if (said === undefined) return 'unsaid';
  return said === 'internal' || said === own ? 'internal' : 'external';
};
/**
 * Does FRR 8.4.4 take a neighbour into a group? Where the group has a number, always; where it says “external” or
 * “internal”, or else by its first member, those of the other sort are refused; who says nothing itself may always join.
 */
function mayJoin(b: SpeakerDraft, peer: Draft<BgpPeer>, group: Draft<BgpPeer>): boolean {
  const sort = sortOf(peer.remoteAs, b.asn);
  const known = b.firstMembers?.get(group.name);
  if (known === undefined) (b.firstMembers ??= new Map()).set(group.name, peer.name);
  // What the first member says by now counts, not what it said when it joined.
  const first = known === undefined ? sort : sortOf(b.peers.get(known)?.remoteAs, b.asn);
  if (sort === 'unsaid' || typeof group.remoteAs === 'number') return true;
  return sort === (group.remoteAs ?? first);
}

export function readNeighbour(b: SpeakerDraft, w: readonly string[], reading: FrrReading): Reading {
  if (w[1] === undefined) return 'the neighbour has no name';
  const name = peerName(w[1]);
  if (w[2] === 'peer-group' && w.length === 3) {
    b.peers.set(name, { name, kind: 'group' });
    return reading.at(placeIn(b, 'peers', name));
  }
  const peer = peerOf(b, name, w[2]);
  if ('why' in peer) return peer;
  let rest = w.slice(w[2] === 'interface' ? 3 : 2);
  if (w[2] === 'interface' && rest[0] === 'v6only') rest = rest.slice(1);
  const at = (field: keyof BgpPeer): true => reading.at(placeIn(b, 'peers', name, field));
  switch (rest[0]) {
    case undefined:
      return w[2] === 'interface' ? reading.at(placeIn(b, 'peers', name)) : 'it says nothing of the neighbour';
    case 'remote-as': {
      const said: RemoteAs | null =
        rest[1] === 'external' || rest[1] === 'internal' ? rest[1] : whole(rest[1], 1, 4294967295);
      if (said === null) return 'an AS number is 1–4294967295';
      const group = peer.group === undefined ? undefined : b.peers.get(peer.group);
      if (group?.remoteAs !== undefined) return failed(`its group ${group.name} has AS ${group.remoteAs}`);
      peer.remoteAs = said;
      // Members get it, whatever they said before.
      if (peer.kind === 'group') for (const p of b.peers.values()) if (p.group === name) delete p.remoteAs;
      return at('remoteAs');
    }
    case 'peer-group':
      if (rest[1] === undefined || b.peers.get(rest[1])?.kind !== 'group')
        return failed(`there is no peer group ${rest[1] ?? ''} above`);
      if (!mayJoin(b, peer, b.peers.get(rest[1])!))
        return failed('members of a peer group must be all internal or all external');
      peer.group = rest[1];
      // The number of the group takes the place of a number; “external” and “internal” stay (seen on FRR 8.4.4).
      if (typeof peer.remoteAs === 'number' && typeof b.peers.get(rest[1])!.remoteAs === 'number') delete peer.remoteAs;
      return at('group');
    case 'description':
      peer.description = rest.slice(1).join(' ');
      return at('description');
    case 'timers': {
      if (rest[1] === 'connect') {
        const n = whole(rest[2], 1, 65535);
        if (n === null) return 'the connect timer is 1–65535 s';
        peer.connect = n;
        return at('connect');
      }
      const [keepalive, hold] = [whole(rest[1], 0, 65535), whole(rest[2], 0, 65535)];
      if (keepalive === null || hold === null) return 'timers are two numbers of seconds';
      peer.keepalive = keepalive;
      peer.hold = hold;
      return at('keepalive');
    }
    case 'bfd':
      peer.bfd = true;
      if (rest[1] !== 'profile') return at('bfd');
      if (rest[2] === undefined) return 'the profile has no name';
      peer.bfdProfile = rest[2];
      return at('bfdProfile');
    case 'password':
      if (rest.length !== 2 || !isMask(rest[1]!))
        return {
          ...unmodelled('the password stands here in plain words'),
          doubts: placeIn(b, 'peers', name, 'password'),
        };
      peer.password = rest[1]!;
      return at('password');
    case 'shutdown':
      peer.shutdown = true;
      return at('shutdown');
    case 'passive':
      peer.passive = true;
      return at('passive');
    case 'ebgp-multihop': {
      const hops = rest[1] === undefined ? 255 : whole(rest[1], 1, 255);
      if (hops === null) return 'hops are 1–255';
      if (peer.kind === 'interface') return harmless('a neighbour on an interface is next door in any case');
      if (peer.ttlSecurity !== undefined) return failed('it cannot be had together with ttl-security');
      peer.multihop = hops;
      return at('multihop');
    }
    case 'ttl-security': {
      const hops = whole(rest[2], 1, 254);
      if (rest[1] !== 'hops' || hops === null) return 'ttl-security takes hops 1–254';
      if (peer.kind === 'interface' && hops > 1) return failed('a neighbour on an interface is one hop away');
      if (peer.multihop !== undefined) return failed('it cannot be had together with ebgp-multihop');
      peer.ttlSecurity = hops;
      return at('ttlSecurity');
    }
    case 'local-as': {
      const asn = whole(rest[1], 1, 4294967295);
      if (asn === null) return 'an AS number is 1–4294967295';
      if (rest.length > 2) return unmodelled(`“${rest.join(' ')}” is not modelled`);
      if (asn === b.asn) return failed('it is the AS number of the router itself');
      peer.localAs = asn;
      return at('localAs');
    }
    case 'update-source':
      if (rest[1] === undefined) return 'it does not say from where';
      peer.updateSource = rest[1];
      return at('updateSource');
    default:
      return HARMLESS[rest[0]] === undefined
        ? unmodelled(`“${rest.join(' ')}” is not modelled`)
        : harmless(HARMLESS[rest[0]]!);
  }
}

/** Words about a neighbour on which no session and no route hangs, and why. */
const HARMLESS: Readonly<Record<string, string>> = {
  'advertisement-interval': 'routes come somewhat later, and the same',
  'disable-connected-check': 'it widens what may be a neighbour, and takes none away',
  'enforce-multihop': 'it widens what may be a neighbour, and takes none away',
  'graceful-restart': 'it counts while a daemon starts anew',
  'graceful-restart-helper': 'it counts while a daemon starts anew',
  'graceful-restart-disable': 'it counts while a daemon starts anew',
};
/** Fields that a line `no neighbor X WORD` takes back, by the word. */
const TAKEN_BACK: Readonly<Record<string, readonly (keyof BgpPeer)[]>> = {
  description: ['description'],
  password: ['password'],
  shutdown: ['shutdown'],
  passive: ['passive'],
  bfd: ['bfd', 'bfdProfile'],
  'ebgp-multihop': ['multihop'],
  'ttl-security': ['ttlSecurity'],
  'local-as': ['localAs'],
  'update-source': ['updateSource'],
};

/** `no neighbor …`: takes back what was said of it, or the neighbour itself. */
export function readNoNeighbour(b: SpeakerDraft, w: readonly string[], reading: FrrReading): Reading {
  const [, , said = '', what] = w;
  const name = peerName(said);
  const peer = b.peers.get(name);
  if (!peer) return failed(`${name} is not defined above as a neighbour or group`);
  if (what === undefined || what === 'remote-as') {
    if (what === 'remote-as' && peer.kind === 'group') {
      delete peer.remoteAs;
      return reading.at(placeIn(b, 'peers', name, 'remoteAs'));
    }
    if (peer.kind === 'group') return unmodelled('taking back a whole group is not modelled');
    b.peers.delete(name);
    for (const family of [b.ipv4, b.ipv6, b.evpn]) if (family) family.active = family.active.filter((a) => a !== name);
    return reading.at(placeIn(b, 'peers'));
  }
  if (!Object.hasOwn(TAKEN_BACK, what)) return Object.hasOwn(HARMLESS, what) ? harmless(HARMLESS[what]!) : false;
  for (const field of TAKEN_BACK[what]!) delete peer[field];
  return reading.at(placeIn(b, 'peers', name));
}
