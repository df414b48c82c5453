import type { ConfigFiles } from '@anthemion/core';
import type { Db } from '../store/database.ts';
import { putSealed, sealedOf } from '../store/sealed.ts';
import { seal, unseal } from '../store/secrets.ts';
import { noteSwitch, switchOf } from '../store/switches.ts';
import { keepText } from '../store/texts.ts';
import { words } from '../trouble.ts';
import { SwitchTrouble, type Driver, type Identity } from './driver.ts';
import { LinuxDriver } from './linuxDriver.ts';
import { SshLine } from './sshLine.ts';

const CREDENTIAL = 'switch-account';

/** Does something on a switch over a line of its own, which is closed afterwards. */
export interface Reaching {
  readonly on: <T>(serial: string, work: (driver: Driver) => Promise<T>) => Promise<T>;
}

/** Opens lines to switches by serial, with the sealed account, and notes what was learnt on the way. */
export class Reach implements Reaching {
  private readonly db: Db;
  private readonly key: Buffer;
  private readonly now: () => Date;
  constructor(db: Db, key: Buffer, now: () => Date) {
    this.db = db;
    this.key = key;
    this.now = now;
  }

  async setAccount(username: string, password: string): Promise<void> {
    await putSealed(this.db, CREDENTIAL, seal(this.key, JSON.stringify({ username, password })));
  }

  private async account(): Promise<{ username: string; password: string }> {
    const sealed = await sealedOf(this.db, CREDENTIAL);
    if (sealed === null) throw new SwitchTrouble('no account for switches is set');
    return JSON.parse(unseal(this.key, sealed)) as { username: string; password: string };
  }

  async on<T>(serial: string, work: (driver: Driver) => Promise<T>): Promise<T> {
    const row = await switchOf(this.db, serial);
    if (!row) throw new SwitchTrouble(`${serial} is not among the known switches`);
    const line = await SshLine.open({
      address: row.address,
      port: row.port,
      hostKey: row.host_key,
      ...(await this.account()),
    });
    try {
      if (row.host_key === null) await noteSwitch(this.db, serial, { host_key: line.hostKey });
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
      const running = await keepText(this.db, got.files);
      await noteSwitch(this.db, serial, {
        running,
        read_at: this.now().toISOString(),
        version: got.identity.version,
        trouble: null,
      });
      return got;
    } catch (error) {
      await noteSwitch(this.db, serial, { trouble: words(error) });
      throw error;
    }
  }
}
