import { demoFleet, startBench, type Fleet, type RunningBench } from '@anthemion/bench';
import type { ChangeAnswer, RolloutAnswer } from '@anthemion/contract';
import type { Edit } from '@anthemion/core';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { DEMO_ACCOUNTS } from '../seed/demoAccounts.ts';
import { startServer, type RunningServer, type ServerOptions } from '../server.ts';

export interface Answer<T = unknown> {
  readonly status: number;
  readonly body: T;
  readonly headers: Headers;
}

/** A signed-in caller of the API. */
export class Caller {
  private readonly url: () => string;
  readonly cookie: string;
  private readonly more: Readonly<Record<string, string>>;
  constructor(url: () => string, cookie: string, more: Readonly<Record<string, string>> = {}) {
    this.url = url;
    this.cookie = cookie;
    this.more = more;
  }
  /** What shows who calls. */
  headers(): Record<string, string> {
    return { ...(this.cookie === '' ? {} : { cookie: this.cookie }), ...this.more };
  }
  async call<T = unknown>(
    method: string,
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ): Promise<Answer<T>> {
    const answer = await fetch(`${this.url()}${path}`, {
      method,
      headers: {
        ...this.headers(),
        ...(body === undefined ? {} : { 'content-type': 'application/json' }),
        ...headers,
      },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    const text = await answer.text();
    const json = answer.headers.get('content-type')?.includes('json') ?? false;
    return { status: answer.status, body: (json ? JSON.parse(text) : text) as T, headers: answer.headers };
  }
  /** As `call`; where a version must be said, the newest is looked up first. */
  async attempt<T = unknown>(method: string, path: string, body?: unknown): Promise<Answer<T>> {
    const change = /^\/api\/changes\/([^/]+)/.exec(path)?.[1];
    const headers: Record<string, string> = {};
    if (change !== undefined && method !== 'GET' && !path.endsWith('/edits'))
      headers['if-match'] = `"${(await this.call<ChangeAnswer>('GET', `/api/changes/${change}`)).body.version}"`;
    return this.call<T>(method, path, body, headers);
  }
  /** As `attempt`, but throws unless the answer is a success. */
  async ask<T>(method: string, path: string, body?: unknown): Promise<T> {
    const { status, body: said } = await this.attempt<T>(method, path, body);
    if (status >= 300) throw new Error(`${method} ${path}: ${status} ${JSON.stringify(said)}`);
    return said;
  }
  edit(change: string, ...edits: Edit[]): Promise<ChangeAnswer> {
    return this.ask('POST', `/api/changes/${change}/edits`, { edits });
  }
}

export async function signInAt(url: string, name: string, password: string): Promise<string> {
  const answer = await fetch(`${url}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ name, password }),
  });
  if (answer.status !== 200) throw new Error(`sign-in of ${name}: ${answer.status}`);
  return answer.headers
    .getSetCookie()
    .map((c) => c.split(';')[0])
    .join('; ');
}

export interface World {
  readonly folder: string;
  readonly bench: RunningBench;
  server: RunningServer;
  readonly as: (name: 'ines' | 'bo' | 'tamar' | 'olu') => Promise<Caller>;
  readonly close: () => Promise<void>;
}

/** A demo world of its own: bench and server on free ports, data in a temporary folder. */
export async function openWorld(
  options: Partial<ServerOptions> = {},
  fleet: Fleet = demoFleet('a password for tests'),
): Promise<World> {
  const folder = mkdtempSync(join(tmpdir(), 'anthemion-'));
  const benchFolder = join(folder, 'bench');
  const token = 'a token for tests';
  const bench = await startBench({ data: benchFolder, fleet, token, settleMs: 300 });
  writeFileSync(join(benchFolder, 'token'), token);
  writeFileSync(join(benchFolder, 'bench.json'), JSON.stringify({ controlUrl: bench.controlUrl }));
  const server = await startServer({
    data: join(folder, 'data'),
    port: 0,
    demo: true,
    bench: { url: bench.controlUrl, token, folder: benchFolder },
    logLevel: 'silent',
    signInTries: 1000,
    ...options,
  });
  const world: World = {
    folder,
    bench,
    server,
    as: async (name) => {
      const account = DEMO_ACCOUNTS.find((a) => a.name === name)!;
      return new Caller(() => world.server.url, await signInAt(world.server.url, name, account.password));
    },
    close: async () => {
      await world.server.close();
      await bench.close();
      rmSync(folder, { recursive: true, force: true });
    },
  };
  return world;
}

/** Waits until a rollout has come to rest; given up is only what hangs, shared machines are slower by four at times. */
export async function restOf(caller: Caller, id: string, limitMs = 240_000): Promise<RolloutAnswer> {
  const until = performance.now() + limitMs;
  for (;;) {
    const r = await caller.ask<RolloutAnswer>('GET', `/api/rollouts/${id}`);
    if (r.state !== 'running') return r;
    if (performance.now() > until)
      throw new Error(
        `rollout still running: ${JSON.stringify(r.switches.map((s) => [s.host, s.outcome, s.message]))}`,
      );
    await new Promise((done) => setTimeout(done, 100));
  }
}
