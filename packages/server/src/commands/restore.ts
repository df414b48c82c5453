import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { checkBackup, putBack, soundness } from '../store/backup.ts';
import { takeFolder } from '../store/database.ts';
import { MIGRATIONS } from '../store/migrations/index.ts';
import { keyId, readKey, sealingKeyPath } from '../store/sealingKey.ts';
import { StartTrouble } from '../trouble.ts';

/**
 * Puts a back-up in the place of a data folder's database; what was there is kept beside. Checked before and after. Answers
 * what to say, above all what the restored data needs.
 */
export async function restore(data: string, from: string, now: Date): Promise<string> {
  const folder = takeFolder(data);
  try {
    const manifest = await checkBackup(from, Object.keys(MIGRATIONS));
    const path = sealingKeyPath(data);
    const here = existsSync(path) ? keyId(readKey(path)) : null;
    const withKey = manifest.holdsKey && here !== manifest.keyId;
    if (withKey && keyId(readKey(join(from, 'secrets.key'))) !== manifest.keyId)
      throw new StartTrouble(`The key in ${from} is not the one its data is sealed with; take another back-up.`);
    const kept = putBack(from, data, now.toISOString(), withKey);
    const wrong = soundness(data);
    if (wrong.length > 0)
      throw new StartTrouble(
        `What was put back is not sound: ${wrong.join('; ')}. Look at the disk.${kept === null ? '' : ` What was there before lies in ${kept}.`}`,
      );
    const needs =
      manifest.keyId === null || withKey || here === manifest.keyId
        ? ''
        : `It needs the sealing key ${manifest.keyId}: put that file at ${path} before the start${
            here === null ? '' : ` (there is ${here} now)`
          }; if it is lost, run npm run rotate-key -- --lost, and give every stored secret again.\n`;
    return [
      `Restored what release ${manifest.release} wrote on ${manifest.at}, and checked it.\n`,
      kept === null ? '' : `What was there before lies in ${kept}.\n`,
      needs,
      'Everybody has to sign in again. Rollouts that were under way are paused: look at their switches before they go on.\n',
    ].join('');
  } finally {
    folder.release();
  }
}
