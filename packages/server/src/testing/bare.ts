import type { Role, User } from '@anthemion/contract';
import { FABRIC_PATTERNS, MODELS, POOLS, RACK_PATTERNS } from '@anthemion/core';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startServer, type RunningServer, type ServerOptions } from '../server.ts';
import { makeAccount } from '../services/accounts.ts';
import { putPart } from '../store/parts.ts';
import { addPool, poolOf } from '../store/pools.ts';
import { Caller, signInAt } from './world.ts';

export const PASSWORD = 'seven gulls over the breakwater';

/** A server as `npm start` runs it: no demo, no bench, an empty folder, and a clock that tests may set. */
export class Bare {
  readonly data: string;
  server!: RunningServer;
  /** Added to the real time, milliseconds. */
  later = 0;
  private options: Partial<ServerOptions> = {};
  constructor(data = mkdtempSync(join(tmpdir(), 'bare-'))) {
    this.data = data;
  }

  async open(options: Partial<ServerOptions> = {}): Promise<this> {
    this.options = { logLevel: 'silent', signInTries: 1000, accountTries: 1000, ...options };
    this.server = await startServer({
      data: this.data,
      port: 0,
      now: () => new Date(Date.now() + this.later),
      ...this.options,
    });
    return this;
  }
  async reopen(options: Partial<ServerOptions> = this.options): Promise<void> {
    await this.server.close();
    await this.open(options);
  }
  async close(): Promise<void> {
    await this.server.close();
    rmSync(this.data, { recursive: true, force: true });
  }

  get db() {
    return this.server.house.db;
  }
  /** An account as if it had been made and its password set long ago. */
  async account(
    name: string,
    roles: readonly Role[],
    more: { readonly bound?: User['bound']; readonly admin?: boolean } = {},
  ): Promise<Caller> {
    const { bound = {}, admin = false } = more;
    await makeAccount(this.db, { name, fullName: `Person ${name}`, roles, bound, password: PASSWORD }, admin, '');
    return this.as(name);
  }
  async as(name: string, password = PASSWORD): Promise<Caller> {
    return new Caller(() => this.server.url, await signInAt(this.server.url, name, password));
  }
  /** Somebody who shows a token instead of a cookie. */
  byToken(token: string): Caller {
    return new Caller(() => this.server.url, '', { authorization: `Bearer ${token}` });
  }
  get nobody(): Caller {
    return new Caller(() => this.server.url, '');
  }

  /** Parts and pools of the demo. */
  async furnish(): Promise<void> {
    for (const m of MODELS) await putPart(this.db, 'model', m);
    for (const r of RACK_PATTERNS) await putPart(this.db, 'rack', r);
    for (const p of FABRIC_PATTERNS) await putPart(this.db, 'fabric', p);
    for (const p of POOLS) if (!(await poolOf(this.db, p.name))) await addPool(this.db, p, '');
  }
}
