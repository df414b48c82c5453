import { bfd } from './bfd.ts';
import { bgp } from './bgp.ts';
import { bridging } from './bridging.ts';
import { interfaces } from './interfaces.ts';
import { overlay } from './overlay.ts';
import { policy } from './policy.ts';
import type { ConfigSection } from './section.ts';
import type { SeatInputs } from './seatInputs.ts';
import type { SwitchConfig } from './switchConfig.ts';
import { system } from './system.ts';
import { vrfs } from './vrfs.ts';

/** Every section that has parts of its own, in the order in which a SwitchConfig has them. */
export const SECTIONS = { system, interfaces, bridging, overlay, vrfs, bfd, policy, bgp } as const;

/** Which section each part of a SwitchConfig belongs to; a part without one does not compile. */
export const SECTION_OF: Readonly<Record<keyof SwitchConfig, ConfigSection<object>>> = {
  hostname: system,
  loopbacks: interfaces,
  ports: interfaces,
  lags: interfaces,
  svis: interfaces,
  bridge: bridging,
  vxlans: overlay,
  vrfs,
  bfdProfiles: bfd,
  prefixLists: policy,
  routeMaps: policy,
  bgp,
};

/** The whole configuration of a seat. */
export const deriveConfig = (inputs: SeatInputs): SwitchConfig => ({
  ...system.derive(inputs),
  ...interfaces.derive(inputs),
  ...bridging.derive(inputs),
  ...overlay.derive(inputs),
  ...vrfs.derive(inputs),
  ...bfd.derive(inputs),
  ...policy.derive(inputs),
  ...bgp.derive(inputs),
});

/** A switch that has its name and nothing else. */
export const blankConfig = (hostname: string): SwitchConfig => ({
  ...interfaces.blank,
  ...bridging.blank,
  ...overlay.blank,
  ...vrfs.blank,
  ...bfd.blank,
  ...policy.blank,
  ...bgp.blank,
  hostname,
});
