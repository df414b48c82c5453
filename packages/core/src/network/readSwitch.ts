import type { SwitchConfig } from '../config/switchConfig.ts';
import type { UnreadLine } from '../dialects/dialect.ts';

/** A switch as its text says it is. */
export interface ReadSwitch {
  readonly host: string;
  readonly config: SwitchConfig;
  readonly unread: readonly UnreadLine[];
}
