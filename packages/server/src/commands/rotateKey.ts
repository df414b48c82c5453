import { noted } from '../services/audit.ts';
import { openDatabase, takeFolder } from '../store/database.ts';
import { keyId, nextKey, seal, sealingKey, unseal } from '../store/sealingKey.ts';
import { putSetting, settingOf } from '../store/settings.ts';
import { dropSealed, resealAll } from '../store/vault.ts';

/**
 * Seals everything anew with a fresh key. The new key lies beside the old one until the data is sealed with it, in one
 * transaction, so that a crash at any moment leaves data and key that belong together. `lost`: the old key is gone, and with
 * it every sealed value.
 */
export async function rotateKey(data: string, lost: boolean, now: () => Date): Promise<string> {
  const folder = takeFolder(data);
  try {
    const db = await openDatabase(data);
    try {
      const before = lost ? null : sealingKey(data, await settingOf(db, 'sealedWith'));
      const next = nextKey(data);
      const count = await db.transaction().execute(async (tx) => {
        const n =
          before === null
            ? await dropSealed(tx)
            : await resealAll(tx, (sealed) => (sealed === '' ? '' : seal(next.key, unseal(before, sealed))));
        await putSetting(tx, 'sealedWith', keyId(next.key));
        return n;
      });
      next.take();
      const outcome =
        before === null ? `${count} sealed values dropped, their key is lost` : `${count} values sealed anew`;
      await noted({ db, now }, { action: 'rotate sealing key', fabric: '', subject: keyId(next.key), outcome });
      return before === null
        ? `There is a new sealing key (${keyId(next.key)}). ${count} sealed values are gone: give the passwords of the switch accounts and the secrets again.\n`
        : `Sealed with a new key (${keyId(next.key)}): ${count} values. Back-ups of before need the old key (${keyId(before)}); keep it as long as you keep them.\n`;
    } finally {
      await db.destroy();
    }
  } finally {
    folder.release();
  }
}
