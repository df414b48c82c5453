import type { BfdPart } from './bfd.ts';
import type { BgpPart } from './bgp.ts';
import type { BridgingPart } from './bridging.ts';
import type { InterfacesPart } from './interfaces.ts';
import type { OverlayPart } from './overlay.ts';
import type { PathIn } from './place.ts';
import type { PolicyPart } from './policy.ts';
import type { SystemPart } from './system.ts';
import type { VrfsPart } from './vrfs.ts';

/**
 * Complete, vendor-neutral configuration of one switch: the centre of the house. Derivation makes it, each dialect
 * renders it and parses text back into it, the network model reads it. A section a file; lists are in natural order of
 * what their members are called by. What something is named on a switch is the dialect's affair.
 */
export interface SwitchConfig
  extends SystemPart, InterfacesPart, BridgingPart, OverlayPart, VrfsPart, BfdPart, PolicyPart, BgpPart {}

/** Where in a SwitchConfig, e.g. `['ports', 'p7', 'mtu']`. */
export type Place = PathIn<SwitchConfig>;

/** The place around a place. */
export const around = (place: Place): Place => (place as readonly string[]).slice(0, -1) as readonly string[] as Place;

/** A place as one string, for maps; a name in it may hold anything but a line feed. */
export const placeKey = (place: Place): string => (place as readonly string[]).join('\n');
