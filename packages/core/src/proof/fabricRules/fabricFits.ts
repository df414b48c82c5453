import type { Finding } from '../../finding.ts';
import { shortOfPorts } from '../../layout/portsNeeded.ts';
import { ABOVE_RACKS } from '../../subject.ts';
import type { FabricRule } from '../rule.ts';

export const fabricFits: FabricRule = {
  id: 'fabric-fits',
  title: 'Every switch has the ports that its links need',
  severity: 'error',
  source: 'links of a switch = switches it is joined to × parallel links',
  scope: 'layout',
  judge: ({ intent, compiled }) =>
    shortOfPorts(intent, compiled.layout).map(({ host, others, kind, ofRacks, joined, need, have }): Finding => {
      const [who, needs, has] = others === '' ? [host, 'needs', 'has'] : [`${host} and ${others}`, 'need', 'have'];
      const ports = ofRacks ? 'uplinks' : 'ports';
      return {
        rule: 'fabric-fits',
        severity: 'error',
        message: `${who} (${kind}) ${needs} ${need} ${ports} for ${joined} switches × ${intent.parallel}, and ${has} ${have}: what is more is left out.`,
        cure: ofRacks
          ? 'Have fewer switches that they are joined to, fewer parallel links, or a rack pattern with more uplinks.'
          : 'Have fewer racks, fewer parallel links, or a model with more ports.',
        host,
        subjects: ofRacks ? [ABOVE_RACKS, `rackPattern:${kind}`] : [ABOVE_RACKS],
      };
    }),
};
