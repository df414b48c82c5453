import type { SecretAnswer, SecretRequest } from '@anthemion/contract';
import { problem } from '@anthemion/core';
import type { Sealing } from '../store/sealing.ts';
import { namedSecrets, putNamedSecret, removeNamedSecret } from '../store/vault.ts';
import { notThere, refused } from '../trouble.ts';
import { at, type House } from './house.ts';

const NAME = /^[a-z][a-z0-9-]{0,30}$/;

export const listSecrets = async (house: House): Promise<SecretAnswer[]> =>
  (await namedSecrets(house.db)).map((r) => ({
    name: r.name,
    digest: r.digest,
    note: r.note,
    changedAt: r.changed_at,
    changedBy: r.changed_by,
  }));

/** Gives a name a value. Fabrics go on with the value they took up, until a change of theirs takes up this one. */
export async function setSecret(
  house: House,
  sealing: Sealing,
  name: string,
  { value, note }: SecretRequest,
  by: string,
): Promise<SecretAnswer> {
  if (!NAME.test(name))
    throw refused([
      problem('secret-name', '/name', 'A name is 1–31 lower-case letters, digits and hyphens.', 'Choose another name.'),
    ]);
  return house.db.transaction().execute(async (tx) => {
    const digest = await sealing.keep(value, tx);
    const row = { name, digest, note, changed_at: at(house), changed_by: by };
    await putNamedSecret(tx, row);
    return { name, digest, note, changedAt: row.changed_at, changedBy: by };
  });
}

export async function forgetSecret(house: House, name: string): Promise<void> {
  if (!(await removeNamedSecret(house.db, name))) throw notThere(`secret ${name}`);
}
