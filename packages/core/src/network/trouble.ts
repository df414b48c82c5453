import type { Place } from '../config/switchConfig.ts';

/** What stops something, where. */
export interface Trouble {
  readonly words: string;
  readonly host: string;
  /** What in the configuration of that switch is wrong or missing; the line is found by it. */
  readonly configPlace?: Place;
}
