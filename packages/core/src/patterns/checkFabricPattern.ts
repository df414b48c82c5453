import type { Finding } from '../finding.ts';
import { misfit } from './misfits.ts';
import type { FabricPattern, PartsCatalogue } from './patterns.ts';
import { sizePattern } from './sizing.ts';

/** What speaks against a pattern that fabrics are to begin with: what does not fit, and what only a living one passes through. */
export const checkFabricPattern = (pattern: FabricPattern, parts: PartsCatalogue): readonly Finding[] => [
  ...(pattern.settings.underlay === 'half-numbered'
    ? [
        misfit(
          '/settings/underlay',
          'Half of the links numbered is a state that a living fabric passes through.',
          'Begin with numbered or unnumbered links.',
        ),
      ]
    : []),
  ...sizePattern(pattern, parts).findings,
];
