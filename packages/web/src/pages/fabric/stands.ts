import type { LiveAnswer, SeatLive } from '@anthemion/contract';
import type { DrainStand } from '@anthemion/core';
import type { SwitchStanding } from '../../parts/moods.ts';

/** A seat's switch as it was read last, with how it is to be shown. */
export interface SeatStand extends SeatLive {
  readonly standing: SwitchStanding;
  /** Null = it is not meant to be drained, by what is live. */
  readonly drain: DrainStand | null;
}
export function standsIn(live: LiveAnswer | null): Map<string, SeatStand> {
  const drains = new Map((live?.drained ?? []).map((d) => [d.host, d]));
  return new Map(
    (live?.seats ?? []).map((s) => {
      const drain = drains.get(s.host) ?? null;
      const standing = s.health === 'as meant' && drain?.asks === true ? 'drained' : s.health;
      return [s.seat, { ...s, standing, drain }];
    }),
  );
}
