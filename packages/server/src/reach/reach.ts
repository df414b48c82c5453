import type { ConfigFiles } from '@anthemion/core';
import type { Db } from '../store/database.ts';
import { seal, unseal } from '../store/secrets.ts';
import { keepText } from '../store/texts.ts';
import { LinuxDriver, type Identity } from './linuxDriver.ts';
import { SshLine, SwitchTrouble } from './sshLine.ts';

const CREDENTIAL = 'switch-account';

/** Opens lines to switches by serial, with the sealed account, and notes what was learnt on the way. */
export class Reach {
  private readonly db: Db;
  private readonly key: Buffer;
  constructor(db: Db, key: Buffer) {
    this.db = db;
    this.key = key;
  }

  async setAccount(username: string, password: string): Promise<void> {
    const sealed = seal(this.key, JSON.stringify({ username, password }));
    await this.db
      .insertInto('secrets')
      .values({ name: CREDENTIAL, sealed })
      .onConflict((c) => c.column('name').doUpdateSet({ sealed }))
      .execute();
  }

  private async account(): Promise<{ username: string; password: string }> {
    const row = await this.db.selectFrom('secrets').select('sealed').where('name', '=', CREDENTIAL).executeTakeFirst();
    if (!row) throw new SwitchTrouble('no account for switches is set');
    return JSON.parse(unseal(this.key, row.sealed)) as { username: string; password: string };
  }

  /** Does something on a switch over a line of its own, which is closed afterwards. */
  async on<T>(serial: string, work: (driver: LinuxDriver) => Promise<T>): Promise<T> {
    const row = await this.db.selectFrom('switches').selectAll().where('serial', '=', serial).executeTakeFirst();
    if (!row) throw new SwitchTrouble(`${serial} is not among the known switches`);
    const line = await SshLine.open({
      address: row.address,
      port: row.port,
      hostKey: row.host_key,
      ...(await this.account()),
    });
    try {
      if (row.host_key === null)
        await this.db.updateTable('switches').set({ host_key: line.hostKey }).where('serial', '=', serial).execute();
      return await work(new LinuxDriver(line));
    } finally {
      line.close();
    }
  }

  /** Reads identity and running text of a switch and notes them, or notes why not. */
  async read(serial: string): Promise<{ identity: Identity; files: ConfigFiles }> {
    try {
      const got = await this.on(serial, async (d) => ({ identity: await d.identity(), files: await d.runningText() }));
      if (got.identity.serial !== serial)
        throw new SwitchTrouble(`the switch at this address is ${got.identity.serial}, not ${serial}`);
      await this.noteRunning(serial, got.files);
      await this.db
        .updateTable('switches')
        .set({ version: got.identity.version, trouble: null })
        .where('serial', '=', serial)
        .execute();
      return got;
    } catch (error) {
      const trouble = error instanceof Error ? error.message : String(error);
      await this.db.updateTable('switches').set({ trouble }).where('serial', '=', serial).execute();
      throw error;
    }
  }

  async noteRunning(serial: string, files: ConfigFiles): Promise<string> {
    const hash = await keepText(this.db, files);
    await this.db
      .updateTable('switches')
      .set({ running: hash, read_at: new Date().toISOString() })
      .where('serial', '=', serial)
      .execute();
    return hash;
  }
}
