import { spawn, type ChildProcess } from 'node:child_process';
import { createServer, type AddressInfo } from 'node:net';
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { Caller, signInAt, type Answer } from '../world.ts';

const BUILT = fileURLToPath(new URL('../../../../../dist/server.js', import.meta.url));
export const sleep = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));

/** A generator of numbers that a seed decides. */
export class Dice {
  private state: number;
  constructor(seed: number) {
    this.state = seed >>> 0;
  }
  roll(sides: number): number {
    this.state = (this.state * 1664525 + 1013904223) >>> 0;
    return Math.floor((this.state / 2 ** 32) * sides);
  }
  pick<T>(items: readonly T[]): T {
    return items[this.roll(items.length)]!;
  }
}

export async function freePort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const { port } = server.address() as AddressInfo;
  await new Promise((done) => server.close(done));
  return port;
}

/** The built server as a process of its own, which is killed and started again on the same data and port. */
export class Victim {
  private child: ChildProcess | null = null;
  private readonly env: NodeJS.ProcessEnv;
  readonly url: string;
  kills = 0;
  constructor(env: NodeJS.ProcessEnv, port: number) {
    if (!existsSync(BUILT)) throw new Error('build first: npm run build');
    this.env = {
      ...process.env,
      ...env,
      ANTHEMION_PORT: String(port),
      ANTHEMION_LOG_LEVEL: 'error',
      ANTHEMION_SIGN_IN_TRIES: '10000',
      ANTHEMION_ACCOUNT_TRIES: '10000',
    };
    this.url = `http://127.0.0.1:${port}`;
  }

  get pid(): number {
    return this.child?.pid ?? 0;
  }

  /** Starts it; answers when it is ready, or after `within` milliseconds, ready or not. */
  async start(within = 60_000): Promise<boolean> {
    const child = spawn(process.execPath, [BUILT], { env: this.env, stdio: ['ignore', 'pipe', 'pipe'] });
    this.child = child;
    let out = '';
    const ready = new Promise<boolean>((done, fail) => {
      const hear = (d: Buffer): void => {
        out += d.toString();
        if (out.includes('server ready')) done(true);
      };
      child.stdout.on('data', hear);
      child.stderr.on('data', hear);
      child.once('exit', (code, signal) =>
        signal === 'SIGKILL' ? done(false) : fail(new Error(`ended with ${code}: ${out}`)),
      );
    });
    return Promise.race([ready, sleep(within).then(() => false)]);
  }
  async kill(): Promise<void> {
    const child = this.child;
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    const gone = new Promise((done) => child.once('exit', done));
    child.kill('SIGKILL');
    await gone;
    this.kills++;
  }
  async stop(): Promise<void> {
    const child = this.child;
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    const gone = new Promise((done) => child.once('exit', done));
    child.kill('SIGTERM');
    await gone;
  }
}

/** Somebody who asks until there is an answer, whoever is killed meanwhile. */
export class Patient {
  private caller: Caller | null = null;
  private readonly victim: Victim;
  private readonly name: string;
  private readonly password: string;
  constructor(victim: Victim, name: string, password: string) {
    this.victim = victim;
    this.name = name;
    this.password = password;
  }
  /** Answers null when the line broke: whether it was done is to be looked up. */
  async attempt<T>(method: string, path: string, body?: unknown): Promise<Answer<T> | null> {
    try {
      this.caller ??= new Caller(() => this.victim.url, await signInAt(this.victim.url, this.name, this.password));
      return await this.caller.attempt<T>(method, path, body);
    } catch {
      return null;
    }
  }
  async get<T>(path: string): Promise<T> {
    for (;;) {
      const answer = await this.attempt<T>('GET', path);
      if (answer?.status === 200) return answer.body;
      await sleep(100);
    }
  }
}
