import type { ChangeState, Outcome, RolloutState, SwitchHealth } from '@anthemion/contract';
import type { LinkStand } from '@anthemion/core';
import type { Mood } from './StateMark.tsx';

export const changeMood: Readonly<Record<ChangeState, Mood>> = {
  Drafting: 'half-open',
  Proven: 'dewed',
  Approved: 'dewed',
  'Rolling out': 'dewed',
  Live: 'bloom',
  Withdrawn: 'folded',
  Stale: 'dewed',
};
/** How a switch is to be shown: by what was read of it; where that is as meant, also whether it is drained. */
export type SwitchStanding = SwitchHealth | 'drained';
export const healthMood: Readonly<Record<SwitchStanding, Mood>> = {
  'as meant': 'bloom',
  waiting: 'dewed',
  drifted: 'fallen',
  unread: 'bud',
  'out of service': 'folded',
  drained: 'folded',
};
export const outcomeMood: Readonly<Record<Outcome, Mood>> = {
  waits: 'bud',
  'under way': 'dewed',
  'as meant': 'bloom',
  'refused, untouched': 'fallen',
  'went back': 'fallen',
  unknown: 'fallen',
  'left out': 'folded',
};
export const rolloutMood: Readonly<Record<RolloutState, Mood>> = {
  running: 'dewed',
  paused: 'dewed',
  stopped: 'fallen',
  done: 'bloom',
  undone: 'folded',
  closed: 'half-open',
};
export const linkMood: Readonly<Record<LinkStand, Mood>> = {
  up: 'bloom',
  'no signal': 'fallen',
  'not seen': 'fallen',
  miscabled: 'fallen',
  shut: 'fallen',
  'at rest': 'folded',
  unread: 'bud',
  out: 'folded',
};

/** What one must know of first. */
export const WORST: readonly SwitchStanding[] = [
  'drifted',
  'unread',
  'waiting',
  'out of service',
  'drained',
  'as meant',
];
export const worstOf = (all: Iterable<SwitchStanding>): SwitchStanding => {
  let at = WORST.length - 1;
  for (const h of all) at = Math.min(at, WORST.indexOf(h));
  return WORST[at]!;
};
