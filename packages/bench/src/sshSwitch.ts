import { spawn } from 'node:child_process';
import { createHash, generateKeyPairSync, timingSafeEqual } from 'node:crypto';
import {
  closeSync,
  existsSync,
  fstatSync,
  mkdirSync,
  openSync,
  readFileSync,
  readSync,
  renameSync,
  statSync,
  unlinkSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { dirname, join, normalize } from 'node:path';
import { fileURLToPath } from 'node:url';
import ssh2, { type Connection, type Server, type SFTPWrapper, type ServerChannel } from 'ssh2';
import { rootOf, type Fault, type Fleet, type FleetSwitch } from './fleet.ts';
import { show } from './show.ts';
import type { FleetState } from './state.ts';

const { STATUS_CODE, OPEN_MODE } = ssh2.utils.sftp;
/** Where the stand-in commands lie: beside the source, and beside the built bundle. */
const STUBS =
  [new URL('../stubs', import.meta.url), new URL('./stubs', import.meta.url)]
    .map((u) => fileURLToPath(u))
    .find((p) => existsSync(p)) ?? '';
const HELPER = /^sh \/var\/lib\/anthemion\/anthemion-apply(\.new)? ([a-z]+)((?: [A-Za-z0-9_-]+)*)$/;
const SLOW_MS = 2500;

/** Files the switch account may write; everything below its root may be read. */
const WRITABLE = /^\/var\/lib\/anthemion\/[\w./-]+$/;

export interface SwitchContext {
  readonly data: string;
  readonly fleet: Fleet;
  readonly state: FleetState;
  readonly socket: string;
}

const same = (a: string, b: string): boolean =>
  timingSafeEqual(createHash('sha256').update(a).digest(), createHash('sha256').update(b).digest());
const sleep = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));

/** One stand-in switch: an SSH server with SFTP and the commands of a Linux switch. */
export class SshSwitch {
  private readonly server: Server;
  private readonly connections = new Set<Connection>();
  private readonly context: SwitchContext;
  readonly self: FleetSwitch;
  /** After “dies before confirming”: nobody gets in until then. */
  private deafUntil = 0;

  constructor(context: SwitchContext, self: FleetSwitch) {
    this.context = context;
    this.self = self;
    this.server = new ssh2.Server({ hostKeys: [this.keyText()] }, (client) => this.serve(client));
  }

  /** Fingerprint of the key it shows, as `ssh-keygen -l` prints it. */
  hostKey(): string {
    const key = ssh2.utils.parseKey(this.keyText());
    if (key instanceof Error) throw key;
    const [first] = Array.isArray(key) ? key : [key];
    return `SHA256:${createHash('sha256').update(first!.getPublicSSH()).digest('base64').slice(0, 43)}`;
  }

  private keyText(): string {
    const path = join(rootOf(this.context.data, this.self.serial), 'host_key');
    if (!existsSync(path))
      writeFileSync(
        path,
        generateKeyPairSync('ec', { namedCurve: 'P-256' }).privateKey.export({ type: 'sec1', format: 'pem' }),
        { mode: 0o600 },
      );
    return readFileSync(path, 'utf8');
  }

  listen(): Promise<number> {
    return new Promise((done, fail) => {
      this.server.once('error', fail);
      this.server.listen(this.self.port, '127.0.0.1', () => {
        const address = this.server.address();
        done(typeof address === 'object' && address ? address.port : 0);
      });
    });
  }

  close(): void {
    this.hangUp();
    this.server.close();
  }

  hangUp(): void {
    for (const c of this.connections) c.end();
  }

  private has(fault: Fault): boolean {
    return this.self.faults.includes(fault);
  }

  private serve(client: Connection): void {
    if (this.has('unreachable') || Date.now() < this.deafUntil) {
      client.on('error', () => undefined);
      client.end();
      return;
    }
    this.connections.add(client);
    (client as Connection & { setNoDelay?: (on: boolean) => void }).setNoDelay?.(true);
    client.on('error', () => undefined);
    client.on('close', () => this.connections.delete(client));
    client.on('authentication', (ctx) => {
      const { username, password } = this.context.fleet;
      const right =
        ctx.method === 'password' &&
        same(ctx.username, username) &&
        same(ctx.password, password) &&
        !this.has('wrong password');
      if (right) ctx.accept();
      else ctx.reject(['password']);
    });
    client.on('ready', () => {
      client.on('session', (accept) => {
        const session = accept();
        session.on('exec', (acceptExec, _reject, info) => void this.exec(acceptExec(), info.command));
        session.on('sftp', (acceptSftp) => this.sftp(acceptSftp()));
      });
    });
  }

  private async exec(channel: ServerChannel, command: string): Promise<void> {
    if (this.has('slow')) await sleep(SLOW_MS);
    const end = (code: number, out: string, err = ''): void => {
      if (out) channel.write(out);
      if (err) channel.stderr.write(err);
      channel.exit(code);
      channel.end();
    };
    const helper = HELPER.exec(command);
    if (helper) {
      this.runHelper(helper[1] ?? '', [helper[2]!, ...helper[3]!.trim().split(' ').filter(Boolean)], end);
      return;
    }
    const file = /^cat (\/[\w./-]+)$/.exec(command);
    if (file) {
      const path = this.local(file[1]!);
      if (path && existsSync(path)) end(0, readFileSync(path, 'utf8'));
      else end(1, '', `cat: ${file[1]}: No such file or directory\n`);
      return;
    }
    let out: string | null;
    try {
      out = show(command, this.self.serial, this.context.state, Date.now());
    } catch (error) {
      // The disk of a switch can be gone under it: the command fails, the others go on.
      end(1, '', `${error instanceof Error ? error.message : String(error)}\n`);
      return;
    }
    if (out === null) end(127, '', `${command.split(' ')[0]}: command not found\n`);
    else end(0, `${out}\n`);
  }

  /** Runs the apply helper as it lies on the switch's disk, with the stand-in commands first in its path. */
  private runHelper(which: string, args: string[], end: (code: number, out: string, err?: string) => void): void {
    const root = rootOf(this.context.data, this.self.serial);
    const child = spawn('sh', [join(root, `var/lib/anthemion/anthemion-apply${which}`), ...args], {
      env: {
        PATH: `${STUBS}:${process.env['PATH'] ?? '/usr/bin:/bin'}`,
        ANTHEMION_ROOT: root,
        BENCH_SOCKET: this.context.socket,
        BENCH_SERIAL: this.self.serial,
        BENCH_NODE: process.execPath,
        BENCH_STUBS: STUBS,
      },
    });
    let out = '';
    let err = '';
    child.stdout.on('data', (d: Buffer) => (out += d.toString()));
    child.stderr.on('data', (d: Buffer) => (err += d.toString()));
    child.on('error', (error) => end(126, '', `${error.message}\n`));
    child.on('close', (code) => {
      if (args[0] === 'apply' && code === 0 && this.has('dies before confirming')) {
        this.deafUntil = Date.now() + (Number(args[2]) + 1) * 1000;
        this.hangUp();
        return;
      }
      end(code ?? 1, out, err);
    });
  }

  /** A path on the switch as a path on this machine; null when it would leave the switch's root. */
  private local(path: string): string | null {
    const clean = normalize(path);
    return clean.startsWith('/') && !clean.includes('\0')
      ? join(rootOf(this.context.data, this.self.serial), clean)
      : null;
  }

  private sftp(sftp: SFTPWrapper): void {
    const open = new Map<number, number>();
    let next = 1;
    const handle = (n: number): Buffer => {
      const b = Buffer.alloc(4);
      b.writeUInt32BE(n);
      return b;
    };
    const fdOf = (h: Buffer): number | undefined => open.get(h.readUInt32BE(0));
    /** Runs one request; whatever goes wrong becomes an SFTP failure, never a dead bench. */
    const guarded =
      <A extends unknown[]>(work: (id: number, ...args: A) => void) =>
      (id: number, ...args: A): void => {
        try {
          work(id, ...args);
        } catch (error) {
          const missing = (error as NodeJS.ErrnoException).code === 'ENOENT';
          sftp.status(id, missing ? STATUS_CODE.NO_SUCH_FILE : STATUS_CODE.FAILURE);
        }
      };
    const writable = (path: string): string | null => (WRITABLE.test(normalize(path)) ? this.local(path) : null);
    sftp.on(
      'OPEN',
      guarded((id, name: string, flags: number) => {
        const writing = (flags & (OPEN_MODE.WRITE | OPEN_MODE.CREAT)) !== 0;
        const path = writing ? writable(name) : this.local(name);
        if (!path) return void sftp.status(id, STATUS_CODE.PERMISSION_DENIED);
        if (writing) mkdirSync(dirname(path), { recursive: true });
        const n = next++;
        open.set(n, openSync(path, writing ? 'w' : 'r'));
        sftp.handle(id, handle(n));
      }),
    );
    sftp.on(
      'READ',
      guarded((id, h: Buffer, offset: number, length: number) => {
        const fd = fdOf(h);
        if (fd === undefined) return void sftp.status(id, STATUS_CODE.FAILURE);
        const buffer = Buffer.alloc(length);
        const n = readSync(fd, buffer, 0, length, offset);
        if (n === 0) sftp.status(id, STATUS_CODE.EOF);
        else sftp.data(id, buffer.subarray(0, n));
      }),
    );
    sftp.on(
      'WRITE',
      guarded((id, h: Buffer, offset: number, data: Buffer) => {
        const fd = fdOf(h);
        if (fd === undefined) return void sftp.status(id, STATUS_CODE.FAILURE);
        writeSync(fd, data, 0, data.length, offset);
        sftp.status(id, STATUS_CODE.OK);
      }),
    );
    sftp.on(
      'CLOSE',
      guarded((id, h: Buffer) => {
        const fd = fdOf(h);
        if (fd !== undefined) closeSync(fd);
        open.delete(h.readUInt32BE(0));
        sftp.status(id, STATUS_CODE.OK);
      }),
    );
    const stat = guarded((id, name: string) => {
      const path = this.local(name);
      if (!path) return void sftp.status(id, STATUS_CODE.NO_SUCH_FILE);
      const s = statSync(path);
      sftp.attrs(id, { mode: s.mode, uid: 0, gid: 0, size: s.size, atime: s.atimeMs / 1000, mtime: s.mtimeMs / 1000 });
    });
    sftp.on('STAT', stat);
    sftp.on('LSTAT', stat);
    sftp.on(
      'FSTAT',
      guarded((id, h: Buffer) => {
        const fd = fdOf(h);
        if (fd === undefined) return void sftp.status(id, STATUS_CODE.FAILURE);
        const s = fstatSync(fd);
        sftp.attrs(id, {
          mode: s.mode,
          uid: 0,
          gid: 0,
          size: s.size,
          atime: s.atimeMs / 1000,
          mtime: s.mtimeMs / 1000,
        });
      }),
    );
    sftp.on(
      'MKDIR',
      guarded((id, name: string) => {
        const path = writable(name);
        if (!path) return void sftp.status(id, STATUS_CODE.PERMISSION_DENIED);
        mkdirSync(path, { recursive: true });
        sftp.status(id, STATUS_CODE.OK);
      }),
    );
    sftp.on(
      'RENAME',
      guarded((id, from: string, to: string) => {
        const [a, b] = [writable(from), writable(to)];
        if (!a || !b) return void sftp.status(id, STATUS_CODE.PERMISSION_DENIED);
        renameSync(a, b);
        sftp.status(id, STATUS_CODE.OK);
      }),
    );
    sftp.on(
      'REMOVE',
      guarded((id, name: string) => {
        const path = writable(name);
        if (!path) return void sftp.status(id, STATUS_CODE.PERMISSION_DENIED);
        unlinkSync(path);
        sftp.status(id, STATUS_CODE.OK);
      }),
    );
    sftp.on(
      'SETSTAT',
      guarded((id: number) => void sftp.status(id, STATUS_CODE.OK)),
    );
    sftp.on(
      'FSETSTAT',
      guarded((id: number) => void sftp.status(id, STATUS_CODE.OK)),
    );
    sftp.on(
      'REALPATH',
      guarded(
        (id, name: string) =>
          void sftp.name(id, [
            {
              filename: normalize(name),
              longname: name,
              attrs: { mode: 0, uid: 0, gid: 0, size: 0, atime: 0, mtime: 0 },
            },
          ]),
      ),
    );
  }
}
