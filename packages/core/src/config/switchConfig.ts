import type { PathIn } from './place.ts';
import type { SwitchConfig } from './sections.ts';

export type { SwitchConfig } from './sections.ts';

/** Where in a SwitchConfig, e.g. `['ports', 'p7', 'mtu']`. */
export type Place = PathIn<SwitchConfig>;

/** The place around a place. */
export const around = (place: Place): Place => (place as readonly string[]).slice(0, -1) as readonly string[] as Place;

/** A place as one string, for maps; a name in it may hold anything but a line feed. */
export const placeKey = (place: Place): string => (place as readonly string[]).join('\n');
