import type { SwitchAccountAnswer, SwitchAccountRequest } from '@anthemion/contract';
import { problem, type Finding } from '@anthemion/core';
import ssh2 from 'ssh2';
import { insideOf, rangeTrouble } from '../reach/ranges.ts';
import type { Credentials } from '../reach/reach.ts';
import { SealTrouble, type Sealing } from '../store/sealing.ts';
import {
  putSwitchAccount,
  removeSwitchAccount,
  switchAccountOf,
  switchAccounts,
  usersOfSwitchAccounts,
} from '../store/switchAccounts.ts';
import { notNow, notThere, refused } from '../trouble.ts';
import { at, type House } from './house.ts';

const NAME = /^[a-z][a-z0-9-]{0,30}$/;

/** Accounts used on switches, without what they sign in with. */
export async function listSwitchAccounts(house: House, sealing: Sealing): Promise<SwitchAccountAnswer[]> {
  const used = await usersOfSwitchAccounts(house.db);
  return (await switchAccounts(house.db)).map((row) => {
    const held = opened(sealing, row.sealed);
    return {
      name: row.name,
      username: held?.username ?? '',
      with: held === null ? 'nothing' : held.privateKey ? 'key' : 'password',
      ranges: JSON.parse(row.ranges) as string[],
      note: row.note,
      changedAt: row.changed_at,
      changedBy: row.changed_by,
      switches: used.get(row.name) ?? 0,
    };
  });
}

function opened(sealing: Sealing, sealed: string): Credentials | null {
  try {
    return sealed === '' ? null : (JSON.parse(sealing.unseal(sealed)) as Credentials);
  } catch (error) {
    if (error instanceof SealTrouble) return null;
    throw error;
  }
}

/** Puts an account. Without a password or key what is stored stays, for the same user name only. */
export async function setSwitchAccount(
  house: House,
  sealing: Sealing,
  name: string,
  to: SwitchAccountRequest,
  by: string,
): Promise<void> {
  const before = await switchAccountOf(house.db, name);
  const held = before ? opened(sealing, before.sealed) : null;
  const findings: Finding[] = [];
  const say = (path: string, message: string, cure: string): void =>
    void findings.push(problem('switch-account', path, message, cure));
  if (!NAME.test(name)) say('/name', 'A name is 1–31 lower-case letters, digits and hyphens.', 'Choose another name.');
  to.ranges.forEach((r, i) => {
    const trouble = rangeTrouble(r);
    if (trouble) say(`/ranges/${i}`, `${r}: ${trouble}.`, 'Name the networks your switches are managed in.');
  });
  if (to.password !== '' && to.privateKey !== '')
    say('/privateKey', 'Both a password and a key are given.', 'Give one of the two.');
  if (to.privateKey !== '') {
    const key = ssh2.utils.parseKey(to.privateKey, to.passphrase || undefined);
    if (key instanceof Error || (Array.isArray(key) ? key : [key]).some((k) => !k.isPrivateKey()))
      say(
        '/privateKey',
        'This is no private key that can be read.',
        'Paste it as OpenSSH or PEM, with its passphrase.',
      );
  }
  const fresh = to.password !== '' || to.privateKey !== '';
  if (!fresh && !held) say('/password', 'There is no password and no key.', 'Give one of the two.');
  // Who may set ranges must not be able to have a stored password sent to a place of their own.
  const known = before ? (JSON.parse(before.ranges) as string[]) : [];
  const wider = to.ranges.findIndex((r) => rangeTrouble(r) === null && !insideOf(r, known));
  if (!fresh && held && wider >= 0)
    say(
      '/password',
      `${to.ranges[wider]} goes beyond the ranges so far.`,
      'Give the password or key again: what is stored is never sent to new places.',
    );
  if (!fresh && held && held.username !== to.username)
    say('/password', `What is stored belongs to ${held.username}.`, `Give the password or key of ${to.username}.`);
  if (findings.length > 0) throw refused(findings);
  const credentials: Credentials = fresh
    ? {
        username: to.username,
        ...(to.password === '' ? {} : { password: to.password }),
        ...(to.privateKey === '' ? {} : { privateKey: to.privateKey }),
        ...(to.privateKey === '' || to.passphrase === '' ? {} : { passphrase: to.passphrase }),
      }
    : held!;
  await putSwitchAccount(house.db, {
    name,
    sealed: sealing.seal(JSON.stringify(credentials)),
    ranges: JSON.stringify(to.ranges),
    note: to.note,
    changed_at: at(house),
    changed_by: by,
  });
  house.events.tell('switches');
}

export async function deleteSwitchAccount(house: House, name: string): Promise<void> {
  const used = (await usersOfSwitchAccounts(house.db)).get(name) ?? 0;
  if (used > 0)
    throw notNow(`${used} ${used === 1 ? 'switch names' : 'switches name'} ${name}; give them another first.`);
  if (!(await removeSwitchAccount(house.db, name))) throw notThere(`switch account ${name}`);
}
