import { upTo } from '../numbers/order.ts';
import { leavesPerRack, hasPods, type RackPattern } from '../patterns/patterns.ts';
import type { FabricIntent, Rack } from './intent.ts';

/** First run of `leaves` free positions on the spines (of a pod), 1-based. */
export function nextSlot(intent: FabricIntent, leaves: number, pod?: number): number {
  const kinds = new Map(intent.rackPatterns.map((p) => [p.name, p.kind]));
  const taken = new Set<number>();
  for (const r of intent.racks)
    if (r.pod === pod) for (let i = 0; i < leavesPerRack(kinds.get(r.pattern) ?? 'single'); i++) taken.add(r.slot + i);
  for (let slot = 1; ; slot++) {
    let free = true;
    for (let i = 0; i < leaves; i++) if (taken.has(slot + i)) free = false;
    if (free) return slot;
  }
}

/** Where there are pods: the one with the fewest racks. */
function proposePod(intent: FabricIntent): number | undefined {
  if (!hasPods(intent)) return undefined;
  const racks = (pod: number): number => intent.racks.filter((r) => r.pod === pod).length;
  return upTo(intent.pods ?? 1).sort((a, b) => racks(a) - racks(b) || a - b)[0];
}

/** What the interface proposes for the next rack of a pattern. */
export function proposeRack(intent: FabricIntent, pattern: RackPattern, place?: string, wanted?: number): Rack {
  const number = Math.max(0, ...intent.racks.map((r) => r.number)) + 1;
  const pod = wanted ?? proposePod(intent);
  return {
    number,
    pattern: pattern.name,
    slot: nextSlot(intent, leavesPerRack(pattern.kind), pod),
    ...(pod === undefined ? {} : { pod }),
    ...(place ? { place } : {}),
  };
}

/** Next free VLAN for an L3 VNI, from 4001 up. */
export function proposeTransitVlan(intent: FabricIntent): number {
  const taken = new Set([...intent.vrfs.map((v) => v.transitVlan), ...intent.networks.map((n) => n.vlan)]);
  for (let vlan = 4001; vlan <= 4094; vlan++) if (!taken.has(vlan)) return vlan;
  for (let vlan = 4000; vlan > 1; vlan--) if (!taken.has(vlan)) return vlan;
  return 0;
}

/** Next free VLAN for a network: one above the highest in use below 4000, from 10. */
export function proposeVlan(intent: FabricIntent): number {
  const taken = new Set([...intent.vrfs.map((v) => v.transitVlan), ...intent.networks.map((n) => n.vlan)]);
  for (let vlan = Math.max(9, ...[...taken].filter((v) => v < 3999)) + 1; vlan < 4000; vlan++)
    if (!taken.has(vlan)) return vlan;
  for (let vlan = 10; vlan < 4095; vlan++) if (!taken.has(vlan)) return vlan;
  return 0;
}
