import { peerPlace } from '../../network/sessions.ts';
import { found, type DesignRule } from '../rule.ts';

export const bfdBothEnds: DesignRule = {
  id: 'bfd-both-ends',
  title: 'BFD runs at both ends of a session or at neither',
  severity: 'warning',
  source: 'RFC 5880 §6.8.1: one end alone never comes up',
  reads: [],
  judge: ({ sessions, views }) =>
    sessions
      .filter((s) => {
        if (!s.up || s.farHost === null || s.farPeer === null) return false;
        const here = views.get(s.host)!.router(s.vrf)!.peerByName.get(s.peer)!;
        return here.bfd && !views.get(s.farHost)!.router(s.farVrf)!.peerByName.get(s.farPeer)!.bfd;
      })
      .map((s) =>
        found(
          bfdBothEnds,
          { host: s.farHost!, configPlace: peerPlace(s.farVrf, s.farPeer!) },
          `${s.host} ${s.port} runs BFD, ${s.farHost} does not.`,
          'Turn it on at both ends.',
        ),
      ),
};
