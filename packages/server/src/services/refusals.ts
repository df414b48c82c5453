import { problem, type RolloutWave } from '@anthemion/core';
import type { RolloutRow } from '../store/rollouts.ts';
import { notNow, refused, type Trouble } from '../trouble.ts';

/** Why a rollout cannot begin, in words. */
export const busy = (fabric: string, r: RolloutRow): Trouble =>
  notNow(
    r.state === 'running'
      ? `Rollout ${r.id} of ${fabric} is still under way; one at a time.`
      : `Rollout ${r.id} of ${fabric} is ${r.state} and not finished: go on with it, undo it or close it first; an urgent change can break in.`,
  );

/** The rollout that may be broken into; throws where there is none, or no reason. */
export function mayBreakIn(others: readonly RolloutRow[], reason: string): RolloutRow {
  if (reason.length < 3)
    throw refused([problem('reason', '/reason', 'Breaking in takes a reason.', 'Say what cannot wait.')]);
  const [into, second] = others;
  if (!into) throw refused([problem('break-in', '/breakIn', 'There is nothing to break into.', 'Begin it plainly.')]);
  if (second) throw notNow(`Two rollouts are unfinished already (${into.id}, ${second.id}); finish or undo one first.`);
  if (into.kind !== 'send') throw notNow(`Rollout ${into.id} takes switches back; let it finish first.`);
  if (into.intent === null) throw notNow(`Rollout ${into.id} was begun by an older release: undo it first.`);
  return into;
}

export const emptySeats = (empty: readonly string[]): Trouble =>
  refused([
    problem(
      'seats-filled',
      '/change',
      `${empty.length} ${empty.length === 1 ? 'seat has' : 'seats have'} no switch: ${empty.slice(0, 5).join(', ')}.`,
      'Seat a switch in each under Seats.',
    ),
  ]);

/**
 * What has to be sent together stops traffic for a moment: that is asked for by name, never done unasked. Other links carry
 * the fabric meanwhile where the proof says so, and where they are up.
 */
export function togetherAsked(waves: readonly RolloutWave[], asked: boolean, allUp: boolean): void {
  const unasked = waves.filter((w) => w.together && !(w.carried && allUp));
  const hosts = unasked.flatMap((w) => w.hosts);
  if (hosts.length === 0 || asked) return;
  const some = hosts.length > 5 ? `${hosts.slice(0, 5).join(', ')} and ${hosts.length - 5} more` : hosts.join(', ');
  throw refused([
    problem(
      'together',
      '/together',
      `${hosts.length} switches have to be sent to together (${some}): while they load, sessions between them, or LAGs of servers that they share, are down${unasked.some((w) => w.carried) ? ', and not all others are seen up that would carry the fabric' : ''}.`,
      'Say that they may be, when the fabric can stand still for that long.',
    ),
  ]);
}
