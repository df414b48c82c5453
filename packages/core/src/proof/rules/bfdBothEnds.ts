import type { Finding } from '../../finding.ts';
import type { EffectivePeer } from '../../network/bgp.ts';
import type { NetworkModel } from '../../network/networkModel.ts';
import type { OspfNetwork } from '../../network/ospf.ts';
import { ospfIn, type OspfName } from '../../network/ospfIn.ts';
import { peerPlace } from '../../network/sessions.ts';
import { found, type DesignRule } from '../rule.ts';

const CURE = 'Turn it on at both ends.';

/** BFD of a session over routes speaks otherwise than that of a link (RFC 5883); FRR goes by the hops that are said. */
const isNextDoor = ({ multihop }: EffectivePeer): boolean => (multihop ?? 1) === 1;

function ofSessions({ sessions, views }: NetworkModel): Finding[] {
  return sessions.flatMap((s) => {
    if (!s.up || s.farHost === null || s.farPeer === null) return [];
    const here = views.get(s.host)!.router(s.vrf)!.peer(s.peer)!;
    const far = views.get(s.farHost)!.router(s.farVrf)!.peer(s.farPeer)!;
    if (!here.bfd) return [];
    const spot = { host: s.farHost, configPlace: peerPlace(s.farVrf, s.farPeer) };
    if (!far.bfd)
      return [found(bfdBothEnds, spot, `${s.host} ${s.port ?? s.peer} runs BFD, ${s.farHost} does not.`, CURE)];
    // Within one AS all of it is for over routes.
    if (isNextDoor(here) === isNextDoor(far) || s.localAs === s.remoteAsHad || isNextDoor(here)) return [];
    const words = `${s.host} runs BFD with ${s.peer} over routes, ${s.farHost} runs it as with next door.`;
    return [found(bfdBothEnds, spot, words, 'Say ebgp-multihop at both ends.')];
  });
}

const PARTS = { OSPF: 'ospfPorts', OSPFv3: 'ospf6Ports' } as const;
function ofOspf({ switches }: NetworkModel, by: OspfName, ospf: OspfNetwork): Finding[] {
  const part = PARTS[by];
  const on = new Map(
    switches.map(({ host, config }) => [host, new Set((config[part] ?? []).filter((p) => p.bfd).map((p) => p.name))]),
  );
  const out: Finding[] = [];
  for (const { host, port, farHost, farPort, up } of ospf.adjacencies) {
    if (!up || farHost === null || farPort === null || !on.get(host)!.has(port)) continue;
    if (on.get(farHost)?.has(farPort)) continue;
    const words = `${host} ${port} runs BFD for ${by}, ${farHost} does not.`;
    out.push(found(bfdBothEnds, { host: farHost, configPlace: [part, farPort] }, words, CURE));
  }
  return out;
}

export const bfdBothEnds: DesignRule = {
  id: 'bfd-both-ends',
  title: 'BFD runs at both ends of a session, or of a link of OSPF, or at neither',
  severity: 'warning',
  scope: 'network',
  source: 'RFC 5880 §6.8.1, RFC 5883: one end alone never comes up',
  reads: ['ospfPorts', 'ospf6Ports'],
  judge: (model) => [...ospfIn(model).flatMap(({ by, ospf }) => ofOspf(model, by, ospf)), ...ofSessions(model)],
};
