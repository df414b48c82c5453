import type { FabricIntent } from '../intent/intent.ts';

/** Fields that hold ports, or lists of them. */
const OF_PORTS = new Set(['ports', 'serverPorts', 'uplinkPorts', 'peerPorts', 'keepalivePorts', 'port']);
export const labelled = (text: string, mark: string): string => text.replace(/\bp(?=\d)/g, mark);

function walked(value: unknown, key: string, mark: string): unknown {
  if (typeof value === 'string') return OF_PORTS.has(key) ? labelled(value, mark) : value;
  if (Array.isArray(value)) return value.map((v) => walked(v, key, mark));
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([k, v]) => [k, walked(v, k, mark)]));
}

/**
 * The same fabric with models whose maker labels its ports otherwise (`x-0/0/` for `p`).
 * @param kept do their switches still call them `p1` and on? Else by what their dialect makes of the labels
 */
export function relabelled(intent: FabricIntent, mark: string, kept = true): FabricIntent {
  const other = walked(intent, '', mark) as FabricIntent;
  if (!kept) return other;
  const models = other.models.map((m, i) => ({
    ...m,
    blocks: m.blocks.map((b, n) => ({ ...b, names: intent.models[i]!.blocks[n]!.ports })),
  }));
  return { ...other, models };
}
