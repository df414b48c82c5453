import { leavesPerRack, type RackPattern } from '../patterns/patterns.ts';
import type { FabricIntent, Rack } from './intent.ts';

/** First run of `leaves` free positions on the spines, 1-based. */
export function nextSlot(intent: FabricIntent, leaves: number): number {
  const kinds = new Map(intent.rackPatterns.map((p) => [p.name, p.kind]));
  const taken = new Set<number>();
  for (const r of intent.racks)
    for (let i = 0; i < leavesPerRack(kinds.get(r.pattern) ?? 'single'); i++) taken.add(r.slot + i);
  for (let slot = 1; ; slot++) {
    let free = true;
    for (let i = 0; i < leaves; i++) if (taken.has(slot + i)) free = false;
    if (free) return slot;
  }
}

/** What the interface proposes for the next rack of a pattern. */
export function proposeRack(intent: FabricIntent, pattern: RackPattern, place?: string): Rack {
  const number = Math.max(0, ...intent.racks.map((r) => r.number)) + 1;
  const rack = { number, pattern: pattern.name, slot: nextSlot(intent, leavesPerRack(pattern.kind)) };
  return place ? { ...rack, place } : rack;
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
