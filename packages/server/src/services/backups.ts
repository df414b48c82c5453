import type { BackupAnswer, BackupTextAnswer } from '@anthemion/contract';
import { veilSecrets } from '@anthemion/core';
import type { Reads } from '../store/database.ts';
import type { Page, PageAsked, Sight } from '../store/pages.ts';
import { backupPage, ranTextOf } from '../store/ranTexts.ts';
import { switchOf } from '../store/switches.ts';
import { textOf } from '../store/texts.ts';
import { notThere } from '../trouble.ts';

/** Every text a switch was seen to run, newest first, as far as one sees the fabrics it sat in. */
export async function backupsOf(
  db: Reads,
  serial: string,
  asked: PageAsked,
  sight: Sight,
): Promise<Page<BackupAnswer>> {
  if (!(await switchOf(db, serial))) throw notThere(`switch ${serial}`);
  return backupPage(db, serial, asked, sight);
}

/** One of them with its documents; secrets in those of older releases are veiled. */
export async function backupOf(
  db: Reads,
  params: Readonly<Record<string, string>>,
  sight: Sight,
): Promise<BackupTextAnswer> {
  const { serial = '', id = '' } = params;
  const text = /^[1-9]\d{0,14}$/.test(id) ? await ranTextOf(db, Number(id), sight) : null;
  const files = text && (await textOf(db, text.hash));
  if (text?.serial !== serial || !files) throw notThere(`back-up ${id} of switch ${serial}`);
  const { at, fabric, seat, host } = text;
  return { id: text.id, serial, at, fabric, seat, host, files: veilSecrets(files) };
}
