import { filtersOf, filtered, tunnelPacket, type Checkpoint } from '../../network/filters.ts';
import type { NetworkModel } from '../../network/networkModel.ts';
import type { Trouble } from '../../network/trouble.ts';
import { found, type DesignRule } from '../rule.ts';

/** What of filters stops a tunnel: at its ends, or at a switch that has none and forwards those of others. */
function stoppedAt({ sessions }: NetworkModel, sw: NetworkModel['switches'][number]): Trouble | null {
  const { host, config } = sw;
  const vteps = [...new Set(config.vxlans.flatMap((v) => v.localAddress ?? []))];
  const point = (hook: Checkpoint['hook']): Checkpoint => ({ host, layer: 'routed', hook, out: null });
  const asked =
    vteps.length > 0
      ? vteps.flatMap((vtep) => [
          { at: point('input'), packet: tunnelPacket(undefined, vtep) },
          { at: point('output'), packet: tunnelPacket(vtep, undefined) },
        ])
      : sessions.filter((s) => s.host === host && s.evpn).length > 1
        ? [{ at: point('forward'), packet: tunnelPacket(undefined, undefined) }]
        : [];
  for (const { at, packet } of asked) {
    const { trouble, unsure } = filtered(sw, packet, at);
    if (trouble && unsure === null) return trouble;
  }
  return null;
}

export const tunnelPasses: DesignRule = {
  id: 'tunnel-passes',
  title: 'No filter stops what goes through tunnels',
  severity: 'error',
  scope: 'network',
  source: 'RFC 7348 §5: VXLAN is UDP to port 4789, to its ends and through every switch between them',
  reads: ['filters', 'vxlans', 'unread'],
  judge: (network) =>
    network.switches.flatMap((sw) => {
      const trouble = filtersOf(sw.config).routed ? stoppedAt(network, sw) : null;
      return trouble === null
        ? []
        : [
            found(
              tunnelPasses,
              { host: sw.host, ...(trouble.configPlace ? { configPlace: trouble.configPlace } : {}) },
              `${sw.host} stops every tunnel: ${trouble.words}.`,
              'Let UDP to port 4789 pass before it.',
            ),
          ];
    }),
};
