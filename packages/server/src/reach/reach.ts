import { dialectOf, type ConfigFiles, type Dialect } from '@anthemion/core';
import type { Db } from '../store/database.ts';
import { SealTrouble, type Sealing } from '../store/sealing.ts';
import { switchAccounts, type SwitchAccountRow } from '../store/switchAccounts.ts';
import { modelNamed } from '../store/parts.ts';
import { noteSwitch, switchOf, type SwitchRecord } from '../store/switches.ts';
import { keepText } from '../store/texts.ts';
import { words } from '../trouble.ts';
import { SwitchTrouble, type Driver, type Identity } from './driver.ts';
import { driverOf } from './drivers.ts';
import { addressesOf, fitOf } from './ranges.ts';
import { HostKeyTrouble, SshLine } from './sshLine.ts';
import type { Transport } from './transport.ts';

/** What an account on switches signs in with, as it is sealed. */
export interface Credentials {
  readonly username: string;
  readonly password?: string;
  /** PEM. */
  readonly privateKey?: string;
  readonly passphrase?: string;
}

/** A line, and what the switch at its end is told in. */
interface OpenLine {
  readonly line: Transport;
  readonly dialect: Dialect;
}

/** Does something on a switch over a line of its own, which is closed afterwards. */
export interface Reaching {
  readonly on: <T>(serial: string, work: (driver: Driver) => Promise<T>) => Promise<T>;
}

/** The account for an address: the one that is named, else the one whose range fits best. It must fit in any case. */
function accountFor(
  accounts: readonly SwitchAccountRow[],
  row: Pick<SwitchRecord, 'serial' | 'account'>,
  address: string,
): SwitchAccountRow {
  const fits = accounts
    .filter((a) => row.account === null || a.name === row.account)
    .map((a) => ({ a, fit: fitOf(address, JSON.parse(a.ranges) as string[]) }))
    .sort((x, y) => y.fit - x.fit)[0];
  if (!fits) throw new SwitchTrouble('no account for switches is set: put one under Switch accounts');
  if (fits.fit < 0)
    throw new SwitchTrouble(
      row.account === null
        ? `${address} lies in no range of the switch accounts, so no password is sent there: widen a range under Switch accounts, or mend the address`
        : `${address} lies outside the ranges of account ${row.account}, so its password is not sent there`,
    );
  return fits.a;
}

/** Opens lines to switches by serial: the account that fits, to its own addresses only, behind a host key that was accepted. */
export class Reach implements Reaching {
  private readonly db: Db;
  private readonly sealing: Sealing;
  private readonly now: () => Date;
  private readonly lines = new Map<string, OpenLine>();
  constructor(db: Db, sealing: Sealing, now: () => Date) {
    this.db = db;
    this.sealing = sealing;
    this.now = now;
  }

  async on<T>(serial: string, work: (driver: Driver) => Promise<T>): Promise<T> {
    const { line, dialect } = await this.open(serial);
    try {
      return await work(driverOf(dialect, line, this.sealing));
    } finally {
      line.close();
    }
  }

  /**
   * As `on`, over a line that stays open for the next time: for reading, where signing in anew each minute would cost more
   * than what is asked. What goes wrong over a line of before is tried once more over a new one.
   */
  async kept<T>(serial: string, work: (driver: Driver) => Promise<T>): Promise<T> {
    const known = this.lines.get(serial);
    if (known) {
      try {
        return await work(driverOf(known.dialect, known.line, this.sealing));
      } catch {
        this.hangUp(serial);
      }
    }
    const opened = await this.open(serial);
    this.lines.set(serial, opened);
    opened.line.onGone(() => {
      if (this.lines.get(serial) === opened) this.lines.delete(serial);
    });
    return work(driverOf(opened.dialect, opened.line, this.sealing));
  }

  /** Ends the line that is kept to a switch, if there is one: who it signs in as, or where, has changed. */
  hangUp(serial?: string): void {
    for (const [of, { line }] of this.lines)
      if (serial === undefined || of === serial) {
        this.lines.delete(of);
        line.close();
      }
  }

  private opened(account: SwitchAccountRow): Credentials {
    try {
      return JSON.parse(this.sealing.unseal(account.sealed)) as Credentials;
    } catch (error) {
      throw error instanceof SealTrouble ? new SwitchTrouble(`account ${account.name}: ${error.message}`) : error;
    }
  }

  private async open(serial: string): Promise<OpenLine> {
    const row = await switchOf(this.db, serial);
    if (!row) throw new SwitchTrouble(`${serial} is not among the known switches`);
    // A name may mean several addresses: every one must be ours, and the one that was looked at is the one called.
    const addresses = await addressesOf(row.address);
    const accounts = await switchAccounts(this.db);
    const account = addresses.map((a) => accountFor(accounts, row, a))[0]!;
    if (account.sealed === '') throw new SwitchTrouble(`account ${account.name} has lost its password; give it again`);
    const credentials = this.opened(account);
    const { dialect } = dialectOf(await modelNamed(this.db, row.model), row.version);
    let line: Transport;
    try {
      line = await SshLine.open({ address: addresses[0]!, port: row.port, hostKey: row.host_key, ...credentials });
    } catch (error) {
      if (error instanceof HostKeyTrouble) await noteSwitch(this.db, serial, { seen_key: error.seen });
      throw error;
    }
    if (row.seen_key !== null) await noteSwitch(this.db, serial, { seen_key: null });
    return { line, dialect };
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
        refused: 0,
      });
      return got;
    } catch (error) {
      await noteSwitch(this.db, serial, { trouble: words(error) });
      throw error;
    }
  }
}
