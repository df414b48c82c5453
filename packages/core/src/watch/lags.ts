import { downPorts } from '../network/interfaces.ts';
import { naturally } from '../numbers/order.ts';
import { draft, type Draft } from './cause.ts';
import type { WatchedSwitch } from './seen.ts';

/** A LAG that is routed and has lost cables. */
export interface LagCause {
  readonly cause: Draft;
  readonly host: string;
  readonly lag: string;
  /** None of its cables is left. */
  readonly isDark: boolean;
}

/**
 * LAGs that are routed, to routers outside, of whose open ports some say that they have no signal. What is spoken over them goes
 * on while one has: so nobody else would say it.
 */
export function lagCauses(switches: readonly WatchedSwitch[]): LagCause[] {
  return switches.flatMap(({ host, seen, meant, runs, out }): LagCause[] => {
    if (!seen || !meant || out) return [];
    const down = downPorts(meant);
    // What somebody shut by hand is said of that.
    const byHand = new Set(runs?.ports.flatMap((p) => (p.shut ? [p.name] : [])));
    return meant.ports.flatMap(({ name, members = [] }): LagCause[] => {
      const open = members.filter((m) => !down.has(m) && !byHand.has(m));
      const dark = open.filter((m) => seen.signal.get(m) === false).sort(naturally);
      if (dark.length === 0) return [];
      const left = open.length - dark.length;
      const cause = draft({
        key: `lag:${host} ${name}`,
        kind: 'cable',
        hosts: [host],
        title:
          left === 0
            ? `No cable of ${name} of ${host} has signal`
            : `${name} of ${host} has ${left} of ${open.length} cables left`,
        details: [`no signal on ${dark.join(', ')}`],
      });
      return [{ cause, host, lag: name, isDark: left === 0 }];
    });
  });
}
