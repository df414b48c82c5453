import { familyName, routersIn } from '../../config/bgp.ts';
import type { Place } from '../../config/switchConfig.ts';
import { found, type DesignRule } from '../rule.ts';

export const leaksFiltered: DesignRule = {
  id: 'leaks-filtered',
  title: 'What a VRF has of another goes through a route map',
  severity: 'warning',
  scope: 'switch',
  source: 'tenants are apart but for what is said: without a map all that the other ever learns is in both',
  reads: ['bgp'],
  judge: ({ switches }) =>
    switches.flatMap((s) =>
      routersIn(s.config).flatMap(({ vrf, speaker, place }) =>
        ([4, 6] as const).flatMap((family) => {
          const name = familyName(family);
          const { importsFrom, importMap } = speaker[name] ?? {};
          if (!importsFrom || importMap !== undefined) return [];
          return found(
            leaksFiltered,
            { host: s.host, configPlace: [...place, name, 'importsFrom'] as readonly string[] as Place },
            `${vrf} has every route of ${importsFrom.join(', ')} on ${s.host}, and all that they ever learn.`,
            'Say “import vrf route-map NAME” with a map that lets through what is meant, or take the import away.',
          );
        }),
      ),
    ),
};
