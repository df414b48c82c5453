import type {
  AccountPatch,
  AccountRequest,
  FirstAccountRequest,
  GivenPassword,
  NewToken,
  Role,
  TokenRequest,
  User,
} from '@anthemion/contract';
import { problem } from '@anthemion/core';
import { nanoid } from 'nanoid';
import PQueue from 'p-queue';
import { createHash, timingSafeEqual } from 'node:crypto';
import {
  accountOf,
  addAccount,
  anyAccount,
  changeAccount,
  otherKeeper,
  removeAccount,
  setPassword,
  type StoredAccount,
} from '../store/accounts.ts';
import type { Db } from '../store/database.ts';
import { hashPassword, passwordMatches } from './passwordHash.ts';
import { addToken, endSessions, endTokensOf } from '../store/sessions.ts';
import { isTaken, notNow, notThere, refused, Trouble } from '../trouble.ts';
import { at, type House } from './house.ts';
import { checkPassword, freshCode } from './passwords.ts';
import { freshToken, type Sessions } from './sessions.ts';

/** Checking a password takes 32 MiB and a tenth of a second, on purpose; so many go at once. */
const checking = new PQueue({ concurrency: 3 });
const MOST_WAITING = 60;
/** Spends the same time on a name that does not exist as on one that does. */
const nobody = hashPassword('nobody at all');
const FIRST_ROLES: readonly Role[] = ['designer', 'approver', 'operator'];
const DAY = 86_400_000;

/** The account of a name and a password that belong together. */
export async function signIn(db: Db, name: string, password: string): Promise<StoredAccount> {
  const account = await accountOf(db, name);
  const stored = account ?? (await nobody);
  if (checking.size > MOST_WAITING) throw new Trouble('too many', 'Too many sign in at this moment; wait a little.');
  const right = await checking.add(() => passwordMatches(password, stored));
  if (!account || !right) throw new Trouble('not signed in', 'Name and password do not match an account.');
  if (account.disabled) throw new Trouble('not signed in', 'This account is disabled; ask who keeps the accounts.');
  return account;
}

/** An account with a password, as the seed and the first start make it. */
export async function makeAccount(
  db: Db,
  account: Omit<User, 'bound' | 'admin'> & { readonly password: string; readonly bound?: User['bound'] },
  admin: boolean,
  when: string,
): Promise<void> {
  const { name, fullName, roles, bound = {}, password } = account;
  const word = await hashPassword(password);
  await addAccount(db, { name, fullName, roles, bound, admin, ...word, disabled: false, mustChange: false }, when);
}

/** Makes an account; its first password is for the person to change at once. */
export async function newAccount(house: House, request: AccountRequest): Promise<GivenPassword> {
  const password = freshCode();
  const word = await hashPassword(password);
  try {
    await addAccount(house.db, { ...request, admin: false, ...word, disabled: false, mustChange: true }, at(house));
  } catch (error) {
    if (!isTaken(error)) throw error;
    throw refused([
      problem('account-new', '/name', `There is already an account ${request.name}.`, 'Choose another name.'),
    ]);
  }
  house.events.tell('accounts', request.name);
  return { name: request.name, password };
}

/** The code that opens the first account. There is one only while there is no account, and it counts once. */
export class FirstCode {
  private readonly word = freshCode();
  private used = false;
  readonly text = this.word;
  matches(said: string): boolean {
    const hash = (t: string): Buffer => createHash('sha256').update(t.trim().toLowerCase()).digest();
    return !this.used && timingSafeEqual(hash(said), hash(this.word));
  }
  use(): void {
    this.used = true;
  }
}

/** The first account, which keeps the others; only while there is none, and only with the code. */
export async function makeFirstAccount(
  house: House,
  code: FirstCode | null,
  request: FirstAccountRequest,
): Promise<void> {
  if (await anyAccount(house.db)) throw notNow('There is an account already; sign in with it.');
  if (!code?.matches(request.code))
    throw refused([
      problem(
        'first-code',
        '/code',
        'This is not the code.',
        'It stands where the server was started, or in its journal; a restart prints a new one.',
      ),
    ]);
  const weak = checkPassword(request.password, request);
  if (weak) throw refused([weak]);
  const word = await hashPassword(request.password);
  await house.db.transaction().execute(async (tx) => {
    if (await anyAccount(tx)) throw notNow('There is an account already; sign in with it.');
    const { name, fullName } = request;
    await addAccount(
      tx,
      { name, fullName, roles: FIRST_ROLES, bound: {}, admin: true, ...word, disabled: false, mustChange: false },
      at(house),
    );
  });
  code.use();
}

/** One's own new password. The present one is asked again: a screen left open gives nothing away. */
export async function changeOwnPassword(
  house: House,
  name: string,
  { current, password }: { readonly current: string; readonly password: string },
): Promise<void> {
  const account = await accountOf(house.db, name);
  if (!account) throw notThere(`account ${name}`);
  if (!(await checking.add(() => passwordMatches(current, account))))
    throw refused([problem('password-current', '/current', 'This is not the present password.', 'Type it again.')]);
  const weak =
    checkPassword(password, account) ??
    (password === current ? problem('password-new', '/password', 'It is the present one.', 'Choose another.') : null);
  if (weak) throw refused([weak]);
  await setPassword(house.db, name, { ...(await hashPassword(password)), mustChange: false }, at(house));
}

/** A new password from who keeps the accounts; it only opens the door to set another. */
export async function resetPassword(house: House, sessions: Sessions, name: string): Promise<GivenPassword> {
  const password = freshCode();
  const word = await hashPassword(password);
  if (!(await setPassword(house.db, name, { ...word, mustChange: true }, at(house)))) throw notThere(`account ${name}`);
  await sessions.end({ account: name });
  return { name, password };
}

/** Changes an account; what was taken away counts from the next request on, and ends what listens. */
export async function patchAccount(house: House, sessions: Sessions, name: string, to: AccountPatch): Promise<void> {
  await house.db.transaction().execute(async (tx) => {
    if ((!to.admin || to.disabled) && !(await otherKeeper(tx, name)) && (await accountOf(tx, name))?.admin === true)
      throw notNow(`${name} is the last account that keeps the others; give that to somebody else first.`);
    if (!(await changeAccount(tx, name, to))) throw notThere(`account ${name}`);
  });
  if (to.disabled) await sessions.end({ account: name });
  sessions.tellAll();
  house.events.tell('accounts', name);
}

/** Deletes an account with its sessions and tokens; what it did stays in the history and in the audit log. */
export async function deleteAccount(house: House, sessions: Sessions, name: string): Promise<void> {
  await house.db.transaction().execute(async (tx) => {
    if (!(await otherKeeper(tx, name)) && (await accountOf(tx, name))?.admin === true)
      throw notNow(`${name} is the last account that keeps the others; give that to somebody else first.`);
    await endSessions(tx, { account: name });
    await endTokensOf(tx, name);
    if (!(await removeAccount(tx, name))) throw notThere(`account ${name}`);
  });
  sessions.tellAll();
  house.events.tell('accounts', name);
}

/** A token for scripts. It has at most its owner's roles, whenever it is used. */
export async function makeToken(house: House, owner: User, request: TokenRequest): Promise<NewToken> {
  const { word, hash } = freshToken();
  const now = house.now();
  const token = {
    id: nanoid(12),
    account: owner.name,
    name: request.name,
    roles: request.roles,
    fabrics: request.fabrics,
    madeAt: now.toISOString(),
    endsAt: new Date(now.getTime() + request.days * DAY).toISOString(),
    usedAt: null,
  };
  try {
    await addToken(house.db, {
      id: token.id,
      hash,
      account: owner.name,
      name: token.name,
      roles: JSON.stringify(token.roles),
      fabrics: JSON.stringify(token.fabrics),
      made_at: token.madeAt,
      ends_at: token.endsAt,
      used_at: null,
    });
  } catch (error) {
    if (!isTaken(error)) throw error;
    throw refused([problem('token-new', '/name', `You have a token ${request.name}.`, 'Choose another name.')]);
  }
  return { ...token, token: word };
}
