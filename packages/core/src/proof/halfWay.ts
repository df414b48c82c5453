import { hasServers } from '../layout/seats.ts';
import type { CompiledFabric } from '../compile/compileFabric.ts';
import type { Finding } from '../finding.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import type { FabricSettings } from '../patterns/patterns.ts';

/** Settings that both ends of a session, or of a link, must be told alike. */
const TWO_ENDED = [
  'asnScheme',
  'underlay',
  'keepalive',
  'hold',
  'linkMtu',
] as const satisfies readonly (keyof FabricSettings)[];

/**
 * What becomes of sessions while a change is rolled out that both ends must share: the network in which the switches with
 * servers have their new text and the others the one before (of a fabric that has no others, all but the first).
 * Nothing where nobody sits in a seat yet, or no such setting changes.
 */
export function halfWay(
  before: { readonly intent: FabricIntent; readonly compiled: CompiledFabric },
  after: { readonly intent: FabricIntent; readonly compiled: CompiledFabric },
): Finding[] {
  const changed = TWO_ENDED.filter((key) => before.intent.settings[key] !== after.intent.settings[key]);
  if (changed.length === 0 || Object.keys(before.intent.seating).length === 0) return [];
  const old = new Map(before.compiled.switches.map((s) => [s.seat.id, s]));
  const flat = after.compiled.switches.every((s) => hasServers(s.seat));
  const mixed = after.compiled.switches.map((s, i) =>
    hasServers(s.seat) && !(flat && i === 0) ? s : (old.get(s.seat.id) ?? s),
  );
  const network = modelNetwork(
    mixed.map((s) => ({ host: s.seat.host, config: s.parsed.config, unread: s.parsed.unread })),
    after.compiled.cables,
  );
  const down = network.sessions.filter((s) => !s.up);
  const [first] = down;
  if (!first) return [];
  return [
    {
      rule: 'both-ends-together',
      severity: 'warning',
      message: `While this is rolled out, ${down.length} of ${network.sessions.length} session ends are down: switches with the new text and those still without it do not come together (${first.host} to ${first.peer}: ${first.reason}). A switch that loses its neighbours so is taken back.`,
      cure: 'Make it before the fabric carries anything; on one that does, it needs an outage that everybody agreed on.',
      subjects: changed.map((key) => `setting:${key}` as const),
    },
  ];
}
