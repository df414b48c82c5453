import type { FoundAnswer } from '@anthemion/contract';
import { subjectLead } from '../parts/subjectLead.ts';

/** Where something that was found is shown. */
export function foundLead({ fabric, subject }: Pick<FoundAnswer, 'fabric' | 'subject'>): string {
  const key = encodeURIComponent(subject.slice(subject.indexOf(':') + 1));
  if (subject.startsWith('switch:')) return `/switches/${key}`;
  if (fabric === '') return `/pools/${key}`;
  if (subject.startsWith('change:')) return `/changes/${key}`;
  if (subject.startsWith('seat:')) return `/fabrics/${fabric}/text/${key}`;
  if (subject.startsWith('secret:')) return '/access/secrets';
  if (subject.startsWith('model:')) return `/patterns?at=model:${key}`;
  if (subject.startsWith('rackPattern:')) return `/patterns?at=rack:${key}`;
  return subjectLead(fabric, subject)?.to ?? `/fabrics/${fabric}`;
}
