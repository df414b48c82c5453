import { createHash } from 'node:crypto';
import ssh2, { type Client, type SFTPWrapper } from 'ssh2';
import { AccountTrouble, SwitchTrouble } from './driver.ts';
import type { CommandResult, Transport } from './transport.ts';

export interface SwitchAddress {
  readonly address: string;
  readonly port: number;
  readonly username: string;
  readonly password?: string;
  /** A key in PEM form, instead of a password. */
  readonly privateKey?: string;
  readonly passphrase?: string;
  /** SHA-256 of the host key that was accepted, base64 without padding; null = none yet, so nothing is sent. */
  readonly hostKey: string | null;
}
/** The switch shows a key that nobody has accepted: nothing was sent to it. */
export class HostKeyTrouble extends SwitchTrouble {
  /** The key it shows, base64 without padding. */
  readonly seen: string;
  constructor(words: string, seen: string) {
    super(words);
    this.seen = seen;
  }
}
const CONNECT_MS = 8000;
const COMMAND_MS = 60_000;

/** One SSH connection to a switch. */
export class SshLine implements Transport {
  private readonly client: Client;
  private sftpLine: Promise<SFTPWrapper> | null = null;
  readonly hostKey: string;
  private constructor(client: Client, hostKey: string) {
    this.client = client;
    this.hostKey = hostKey;
  }

  /** Connects; throws SwitchTrouble when there is no answer or the account is refused, HostKeyTrouble before anything is sent. */
  static open(to: SwitchAddress): Promise<SshLine> {
    return new Promise((done, fail) => {
      const client = new ssh2.Client();
      let seen = '';
      let accepted = true;
      const trouble = (text: string, error = new SwitchTrouble(text)): void => {
        client.destroy();
        fail(error);
      };
      client.on('ready', () => done(new SshLine(client, seen)));
      // Many short messages: without this each waits for the acknowledgement of the one before, 40 ms a time.
      client.on('connect', () => client.setNoDelay(true));
      client.on('error', (error) => {
        const level = (error as { level?: string }).level;
        if (!accepted) {
          const text =
            to.hostKey === null
              ? `${to.address}:${to.port} shows the host key SHA256:${seen} for the first time: accept it under Switches once you know that it is this switch`
              : `${to.address}:${to.port} shows the host key SHA256:${seen}, which is not the accepted one; somebody else may be answering. If the switch was replaced or set up anew, accept its key under Switches`;
          trouble(text, new HostKeyTrouble(text, seen));
        } else if (level === 'client-authentication') {
          const text = `${to.address}:${to.port} refuses the account ${to.username}`;
          trouble(text, new AccountTrouble(text));
        } else trouble(`no answer from ${to.address}:${to.port} (${error.message})`);
      });
      client.on('close', () => trouble(`${to.address}:${to.port} closed the connection`));
      client.connect({
        host: to.address,
        port: to.port,
        username: to.username,
        ...(to.password === undefined ? {} : { password: to.password }),
        ...(to.privateKey === undefined ? {} : { privateKey: to.privateKey }),
        ...(to.passphrase === undefined ? {} : { passphrase: to.passphrase }),
        readyTimeout: CONNECT_MS,
        hostVerifier: (key: Buffer) => {
          seen = createHash('sha256').update(key).digest('base64').slice(0, 43);
          accepted = to.hostKey === seen;
          return accepted;
        },
      });
    });
  }

  /** Runs a command and waits for its end. */
  exec(command: string): Promise<CommandResult> {
    return new Promise((done, fail) => {
      const timer = setTimeout(
        () => fail(new SwitchTrouble(`“${command}” did not end in ${COMMAND_MS / 1000} s`)),
        COMMAND_MS,
      );
      const lost = (): void => {
        clearTimeout(timer);
        fail(new SwitchTrouble('the connection was lost'));
      };
      this.client.once('close', lost);
      this.client.exec(command, (error, channel) => {
        if (error) return lost();
        let stdout = '';
        let stderr = '';
        let code: number | null = null;
        channel.on('data', (d: Buffer) => (stdout += d.toString()));
        channel.stderr.on('data', (d: Buffer) => (stderr += d.toString()));
        channel.on('exit', (c: number | null) => (code = c));
        channel.on('close', () => {
          this.client.off('close', lost);
          clearTimeout(timer);
          if (code === null) fail(new SwitchTrouble('the connection was lost'));
          else done({ code, stdout, stderr });
        });
      });
    });
  }

  private sftp(): Promise<SFTPWrapper> {
    this.sftpLine ??= new Promise((done, fail) => {
      this.client.sftp((error, sftp) =>
        error ? fail(new SwitchTrouble(`no file transfer: ${error.message}`)) : done(sftp),
      );
    });
    return this.sftpLine;
  }

  async put(path: string, text: string): Promise<void> {
    const sftp = await this.sftp();
    await new Promise<void>((done, fail) =>
      sftp.writeFile(path, text, (error) =>
        error ? fail(new SwitchTrouble(`${path} cannot be written: ${error.message}`)) : done(),
      ),
    );
  }

  /** Makes a folder; one that is there is fine. */
  async makeFolder(path: string): Promise<void> {
    const sftp = await this.sftp();
    await new Promise<void>((done, fail) =>
      sftp.mkdir(path, (error) =>
        error
          ? sftp.stat(path, (gone) =>
              gone ? fail(new SwitchTrouble(`${path} cannot be made: ${error.message}`)) : done(),
            )
          : done(),
      ),
    );
  }

  /** A file's text, or null when it is not there. */
  async get(path: string): Promise<string | null> {
    const sftp = await this.sftp();
    return new Promise((done, fail) =>
      sftp.readFile(path, (error, data) => {
        if (!error) done(data.toString('utf8'));
        else if (/no such file/i.test(error.message)) done(null);
        else fail(new SwitchTrouble(`${path} cannot be read: ${error.message}`));
      }),
    );
  }

  /** Size and time of a file, as one word. */
  async stampOf(path: string): Promise<string> {
    const sftp = await this.sftp();
    return new Promise((done, fail) =>
      sftp.stat(path, (error, s) => {
        if (!error) done(`${s.size}:${s.mtime}`);
        else if (/no such file/i.test(error.message)) done('-');
        else fail(new SwitchTrouble(`${path} cannot be looked at: ${error.message}`));
      }),
    );
  }

  /** Calls back once when the line is gone, whoever ended it. */
  onGone(hear: () => void): void {
    this.client.once('end', hear);
    this.client.once('close', hear);
  }

  close(): void {
    this.client.removeAllListeners('close');
    this.client.end();
  }

  /** Breaks the connection without a word, as a cable that is pulled does. */
  cut(): void {
    this.client.destroy();
  }
}
