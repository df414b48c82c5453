import type { CableAnswer, ChangeState, Outcome, RolloutState, SwitchHealth } from '@anthemion/contract';
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
export const healthMood: Readonly<Record<SwitchHealth, Mood>> = {
  'as meant': 'bloom',
  waiting: 'dewed',
  drifted: 'fallen',
  unread: 'bud',
  'out of service': 'folded',
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
export const cableMood: Readonly<Record<CableAnswer['state'], Mood>> = {
  'as planned': 'bloom',
  miscabled: 'fallen',
  'not seen': 'fallen',
  unread: 'bud',
};
