import type { StaticRoute } from '../../config/static.ts';
import type { VrfConfig } from '../../config/vrfs.ts';
import { otherIpv6 } from './bgpShared.ts';
import { failed, harmless, unmodelled, type Block, type TopLines } from './blocks.ts';
import type { Draft } from './draft.ts';
import { isPlain, type Sheet } from './sheet.ts';
import { readRoute, staticLine } from './static.ts';
import { word, type StanzaKind } from './stanzas.ts';
import { whole } from './words.ts';

const vrfStanza = ({ name }: VrfConfig): string => `\n\nauto ${name}\niface ${name}\n    vrf-table auto`;

const vrfBlock = (v: VrfConfig, routes: readonly StaticRoute[]): string => {
  let out = `\nvrf ${v.name}`;
  if (v.l3Vni !== undefined) out += `\n vni ${v.l3Vni}`;
  for (const r of routes) out += `\n ${staticLine(r)}`;
  return `${out}\nexit-vrf\n!`;
};

export const writeOutsideVni = (vni: number | undefined, sheet: Sheet): void => {
  if (vni !== undefined) sheet.count(`\nvni ${vni}`);
};
export const writeVrfDevice = (v: VrfConfig, sheet: Sheet): void =>
  sheet.say(vrfStanza(v), isPlain(v.name) ? '' : vrfStanza(v));
/** A VRF with the routes that are written down in it. */
export function writeVrf(v: VrfConfig, routes: readonly StaticRoute[], sheet: Sheet): void {
  const block = vrfBlock(v, routes);
  sheet.say(block, isPlain(v.name) && routes.length === 0 ? '' : block);
}

/** Names of ifupdown2's own routing tables (3.0). */
const TABLES = /^(default|local|main|unspec)$/;

export const vrfKind: StanzaKind<Draft<VrfConfig>> = {
  marks: ['vrf-table'],
  refuses: (name) =>
    TABLES.test(name)
      ? `${name} is a routing table of the system: ifupdown2 makes no VRF of it, and all in it is dead`
      : null,
  open: (name, draft) => {
    const vrf: Draft<VrfConfig> = { name };
    draft.vrfs.push(vrf);
    return vrf;
  },
  words: { 'vrf-table': word(undefined, () => null) },
  place: (v) => ['vrfs', v.name],
};

const OF_NEXT_HOPS = 'next hops are next door, and resolved without a default route';

const vrf: Block<Draft<VrfConfig>> = {
  name: 'vrf',
  exit: 'exit-vrf',
  read: (w, line, about, reading) => {
    const said = w[0] === 'no' ? w.slice(1) : w;
    if ((said[0] === 'ip' || said[0] === 'ipv6') && said[1] === 'route') return readRoute(w, line, reading, about.name);
    if (/^ipv?6?$/.test(said[0]!) && said[1] === 'nht') return harmless(OF_NEXT_HOPS);
    if (said[0] === 'ipv6' && /^(protocol|router-id)$/.test(said[1] ?? '')) return otherIpv6(line);
    if (w[0] !== 'vni') return false;
    const vni = whole(w[1], 1, 16777215);
    if (vni === null) return 'a VNI is 1–16777215';
    const { vrfs, outsideL3Vni } = reading.draft;
    if (about.l3Vni !== undefined && about.l3Vni !== vni)
      return failed(`VRF ${about.name} has L3 VNI ${about.l3Vni} already`);
    if (vni === outsideL3Vni || vrfs.some((v) => v !== about && v.l3Vni === vni))
      return failed('it is the L3 VNI of another VRF already');
    about.l3Vni = vni;
    return reading.at(['vrfs', about.name, 'l3Vni']);
  },
};

export const vrfLines: TopLines = {
  vrf: (w, _line, reading) => {
    const name = w[1];
    if (name === undefined) return 'the VRF has no name';
    const known = reading.draft.vrfs.find((v) => v.name === name);
    if (!known) reading.needs('interfaces', `interfaces has no VRF device ${name}`);
    reading.draft.openVrf = known ?? { name };
    return reading.open(vrf, reading.draft.openVrf, ['vrfs', name]);
  },
  vni: (w, line, reading) => {
    // Zebra may stand in a VRF still, which only bgpd's and bfdd's lines have left.
    const { openVrf } = reading.draft;
    if (openVrf) {
      const read = vrf.read(w, line, openVrf, reading);
      return read === true ? { as: 'vrf', strays: true } : read;
    }
    const vni = whole(w[1], 1, 16777215);
    if (vni === null) return 'a VNI is 1–16777215';
    if (reading.draft.outsideL3Vni !== undefined) return failed('the default VRF has an L3 VNI already');
    reading.draft.outsideL3Vni = vni;
    return {
      ...unmodelled('outside of its block it is the L3 VNI of the default VRF, and no VNI of a VLAN any more'),
      doubts: null,
    };
  },
};
