import { noted } from '../services/audit.ts';
import { freshCode } from '../services/passwords.ts';
import { accountOf, changeAccount, setPassword } from '../store/accounts.ts';
import { openDatabase, takeFolder } from '../store/database.ts';
import { hashPassword } from '../services/passwordHash.ts';
import { endSessions } from '../store/sessions.ts';
import { StartTrouble } from '../trouble.ts';

/** Gives an account a new password from the machine itself, for when nobody who keeps the accounts can sign in. */
export async function resetPassword(data: string, name: string, now: () => Date): Promise<string> {
  const folder = takeFolder(data);
  try {
    const db = await openDatabase(data);
    try {
      const account = await accountOf(db, name);
      if (!account) throw new StartTrouble(`There is no account ${name}.`);
      const password = freshCode();
      const word = await hashPassword(password);
      await db.transaction().execute(async (tx) => {
        await setPassword(tx, name, { ...word, mustChange: true }, now().toISOString());
        if (account.disabled) await changeAccount(tx, name, { ...account, disabled: false });
        await endSessions(tx, { account: name });
      });
      await noted({ db, now }, { action: 'reset password', fabric: '', subject: name, outcome: 'done' });
      return `${name} signs in with  ${password}  and is asked for a password of their own.\n`;
    } finally {
      await db.destroy();
    }
  } finally {
    folder.release();
  }
}
