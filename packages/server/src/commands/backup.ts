import { join } from 'node:path';
import { RELEASE } from '../release.ts';
import { writeBackup } from '../store/backup.ts';

/** Makes a back-up of a data folder, whether or not a server works on it; answers what to say. */
export async function backup(
  data: string,
  to: string | null,
  withKey: boolean,
  now: Date,
): Promise<{ readonly folder: string; readonly said: string }> {
  const at = now.toISOString();
  const folder = to ?? join(data, 'back-ups', at.replaceAll(/[:.]/g, '-'));
  const made = await writeBackup(data, folder, { release: RELEASE, at, withKey });
  const key =
    made.keyId === null
      ? 'Nothing in it is sealed yet.'
      : withKey
        ? `It holds the sealing key (${made.keyId}): keep it as you keep a key.`
        : `The sealing key (${made.keyId}) is not in it: keep a copy of ${join(data, 'secrets.key')} in another place, or every stored secret must be given again after a restore.`;
  return { folder, said: `Back-up in ${folder}, ${made.bytes} bytes, checked.\n${key}\n` };
}
