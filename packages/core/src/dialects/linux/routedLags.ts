import { lagKey, type LagConfig, type PortConfig } from '../../config/interfaces.ts';
import type { Place } from '../../config/switchConfig.ts';
import { vlanOfPort } from '../../config/vlanOfPort.ts';
import type { LineRecorder, UnreadLine } from '../dialect.ts';
import type { Harmless } from './blocks.ts';
import type { ConfigDraft, Draft } from './draft.ts';
import { lagName } from './names.ts';

/** LAGs that are routed by themselves: with an address, a VRF, or a VLAN that is one by itself. All others are for a bridge. */

/** What makes a LAG routed, and the lines that say it. */
export interface RoutedDraft extends Pick<Draft<PortConfig>, 'addresses' | 'ipv6Addresses' | 'vrf'> {
  readonly said: { readonly text: string; readonly line: number }[];
}
/** A LAG as far as it was read. */
export type LagDraft = Draft<LagConfig> & { routed?: RoutedDraft };

/** Reads a line that makes a LAG routed. */
export function readRouted(
  lag: LagDraft,
  text: string,
  line: number,
  read: (routed: RoutedDraft) => string | Harmless | null,
): string | Harmless | null {
  const routed = (lag.routed ??= { addresses: [], said: [] });
  const why = read(routed);
  if (why === null) routed.said.push({ text, line });
  return why;
}

/**
 * Once all interfaces are read: those LAGs become ports that have members. What is routed and in the bridge as well is left as
 * it was, with doubts at the lines that route it.
 * @returns the keys that they had as LAGs, with the names they have as ports
 */
export function settleLags(draft: ConfigDraft, file: string, unread: UnreadLine[]): ReadonlyMap<string, string> {
  const moved = new Map<string, string>();
  const bridged = new Set(draft.bridge?.members);
  // Mostly no port has VLANs that are routed.
  const vlans = draft.ports.filter((p) => p.name.includes('.'));
  for (const lag of [...(draft.lags as LagDraft[])]) {
    if (!lag.routed && vlans.length === 0) continue;
    // What LACP shows of a system counts where several of them share a LAG, which one that is routed is never part of here.
    const { routed, actorSystem: _, ...plain } = lag;
    delete lag.routed;
    const [key, name] = [lagKey(lag), lagName(lag)];
    if (!routed && !vlans.some((p) => vlanOfPort(p.name, (port) => port === name))) continue;
    if (plain.bridging || bridged.has(name)) {
      for (const { text, line } of routed?.said ?? [])
        unread.push({ file, line, text, why: 'the LAG is in the bridge too', doubts: ['lags', key] });
      continue;
    }
    const { description, mtu, members } = plain;
    draft.lags.splice(draft.lags.indexOf(lag), 1);
    draft.ports.push({
      name,
      members,
      ...(description === undefined ? {} : { description }),
      ...(mtu === undefined ? {} : { mtu }),
      addresses: routed?.addresses ?? [],
      ...(routed?.ipv6Addresses === undefined ? {} : { ipv6Addresses: routed.ipv6Addresses }),
      ...(routed?.vrf === undefined ? {} : { vrf: routed.vrf }),
    });
    moved.set(key, name);
  }
  if (moved.size > 0)
    unread.forEach((u, i) => {
      if (u.doubts) unread[i] = { ...u, doubts: movedPlace(u.doubts, moved) };
    });
  return moved;
}

/** Records lines of interfaces once it is known which LAGs are ports. */
export function recordSettled(record: LineRecorder): {
  readonly record: LineRecorder;
  readonly settle: (moved: ReadonlyMap<string, string>) => void;
} {
  const kept: Parameters<LineRecorder>[] = [];
  return {
    record: (...line) => void kept.push(line),
    settle: (moved) => {
      for (const [place, file, line] of kept) record(movedPlace(place, moved), file, line);
    },
  };
}
/** A place in a LAG that is a port. */
function movedPlace(place: Place, moved: ReadonlyMap<string, string>): Place {
  const [part, key, ...rest] = place as readonly string[];
  const name = part === 'lags' && key !== undefined ? moved.get(key) : undefined;
  return name === undefined ? place : (['ports', name, ...rest] as readonly string[] as Place);
}
