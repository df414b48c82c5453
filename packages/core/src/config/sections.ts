import { bfd, type BfdPart } from './bfd.ts';
import { bgp, type BgpPart } from './bgp.ts';
import { bridging, type BridgingPart } from './bridging.ts';
import { filters, type FiltersPart } from './filters.ts';
import { interfaces, type InterfacesPart } from './interfaces.ts';
import { ospf, type OspfPart } from './ospf.ts';
import { overlay, type OverlayPart } from './overlay.ts';
import { policy, type PolicyPart } from './policy.ts';
import type { ConfigSection } from './section.ts';
import type { SeatInputs } from './seatInputs.ts';
import { staticRoutes, type StaticPart } from './static.ts';
import { system, type SystemPart } from './system.ts';
import { vrfs, type VrfsPart } from './vrfs.ts';

/**
 * Complete, vendor-neutral configuration of one switch: the centre of the house. Derivation makes it, each dialect
 * renders it and parses text back into it, the network model reads it. A section a file; lists are in natural order of
 * what their members are called by. What something is named on a switch is the dialect's affair.
 */
export interface SwitchConfig
  extends
    SystemPart,
    InterfacesPart,
    BridgingPart,
    OverlayPart,
    VrfsPart,
    BfdPart,
    PolicyPart,
    StaticPart,
    OspfPart,
    BgpPart,
    FiltersPart {}

/** Which section each part of a SwitchConfig belongs to: the one list of them; a part without a section does not compile. */
export const SECTION_OF: Readonly<Record<keyof SwitchConfig, ConfigSection<object>>> = {
  hostname: system,
  loopbacks: interfaces,
  ipv6Loopbacks: interfaces,
  ports: interfaces,
  lags: interfaces,
  svis: interfaces,
  bridge: bridging,
  vxlans: overlay,
  vrfs,
  outsideL3Vni: vrfs,
  bfdProfiles: bfd,
  prefixLists: policy,
  ipv6PrefixLists: policy,
  routeMaps: policy,
  communityLists: policy,
  largeCommunityLists: policy,
  extendedCommunityLists: policy,
  accessLists: policy,
  ipv6AccessLists: policy,
  asPathLists: policy,
  staticRoutes,
  ospf,
  ospfPorts: ospf,
  ospf6: ospf,
  ospf6Ports: ospf,
  bgp,
  filters,
};
/** Every section that has parts of its own, once. */
export const SECTIONS: readonly ConfigSection<object>[] = [...new Set(Object.values(SECTION_OF))];

/** All sections together: every part is of one of them. */
const together = (partOf: (section: ConfigSection<object>) => object): SwitchConfig =>
  Object.assign({}, ...SECTIONS.map(partOf)) as SwitchConfig;

/** The whole configuration of a seat. */
export const deriveConfig = (inputs: SeatInputs): SwitchConfig => together((section) => section.derive(inputs));

/** A switch that has its name and nothing else. */
export const blankConfig = (hostname: string): SwitchConfig => ({ ...together((section) => section.blank), hostname });
