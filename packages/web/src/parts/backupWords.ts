import type { BackupAnswer } from '@anthemion/contract';

/** Which revisions mean the text of a back-up. */
export function backupWords({ revisions }: BackupAnswer): string {
  if (revisions === null) return 'meant by no revision';
  const { first, last } = revisions;
  return first === last ? `as revision ${first} means it` : `as revisions ${first} to ${last} mean it`;
}
