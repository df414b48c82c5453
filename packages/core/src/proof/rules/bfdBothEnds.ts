import type { Finding } from '../../finding.ts';
import { endKey } from '../../network/cablePlan.ts';
import type { NetworkModel } from '../../network/networkModel.ts';
import type { OspfNetwork } from '../../network/ospf.ts';
import { ospfIn, type OspfName } from '../../network/ospfIn.ts';
import { peerPlace } from '../../network/sessions.ts';
import { found, type DesignRule } from '../rule.ts';

const CURE = 'Turn it on at both ends.';

function ofSessions({ sessions, views }: NetworkModel): Finding[] {
  return sessions.flatMap((s) => {
    if (!s.up || s.farHost === null || s.farPeer === null) return [];
    const here = views.get(s.host)!.router(s.vrf)!.peer(s.peer)!;
    if (!here.bfd || views.get(s.farHost)!.router(s.farVrf)!.peer(s.farPeer)!.bfd) return [];
    const spot = { host: s.farHost, configPlace: peerPlace(s.farVrf, s.farPeer) };
    return [found(bfdBothEnds, spot, `${s.host} ${s.port ?? s.peer} runs BFD, ${s.farHost} does not.`, CURE)];
  });
}

const PARTS = { OSPF: 'ospfPorts', OSPFv3: 'ospf6Ports' } as const;
function ofOspf({ switches }: NetworkModel, by: OspfName, ospf: OspfNetwork): Finding[] {
  const part = PARTS[by];
  const on = new Set(
    switches.flatMap(({ host, config }) => (config[part] ?? []).flatMap((p) => (p.bfd ? endKey(host, p.name) : []))),
  );
  return ospf.adjacencies.flatMap((a) => {
    if (!a.up || a.farHost === null || a.farPort === null || !on.has(endKey(a.host, a.port))) return [];
    if (on.has(endKey(a.farHost, a.farPort))) return [];
    const words = `${a.host} ${a.port} runs BFD for ${by}, ${a.farHost} does not.`;
    return [found(bfdBothEnds, { host: a.farHost, configPlace: [part, a.farPort] }, words, CURE)];
  });
}

export const bfdBothEnds: DesignRule = {
  id: 'bfd-both-ends',
  title: 'BFD runs at both ends of a session, or of a link of OSPF, or at neither',
  severity: 'warning',
  scope: 'network',
  source: 'RFC 5880 §6.8.1: one end alone never comes up',
  reads: ['ospfPorts', 'ospf6Ports'],
  judge: (model) => [...ospfIn(model).flatMap(({ by, ospf }) => ofOspf(model, by, ospf)), ...ofSessions(model)],
};
