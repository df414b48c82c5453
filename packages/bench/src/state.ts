import {
  linux,
  maskOf,
  modelNetwork,
  replaceSecretWords,
  type ConfigFiles,
  type NetworkModel,
  type ParsedConfig,
} from '@anthemion/core';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { Counters } from './traffic.ts';
import { rootOf, type Fleet, type FleetCable, type FleetRouter } from './fleet.ts';

interface Running {
  readonly stamp: string;
  readonly parsed: ParsedConfig;
  /** When the text began to run, milliseconds since 1970. */
  readonly since: number;
}

/** How long a session takes to come up after a load at either end, milliseconds. */
export const DEFAULT_SETTLE_MS = 1200;

/** Texts as the reader takes them: a secret stands in them by a digest, so that two that are the same are seen to be. */
export const readable = (files: ConfigFiles): ConfigFiles =>
  replaceSecretWords(files, (word) => maskOf(createHash('sha256').update(word).digest('base64url').slice(0, 22)));

/**
 * What all switches of the fleet run, and the network that makes. Read from the text on disk, so it is the same after a
 * restart of the bench.
 */
export class FleetState {
  private readonly running = new Map<string, Running>();
  /** What was looked at since a moment began; null between moments. */
  private moment: Map<string, Running> | null = null;
  private model: { readonly stamp: string; readonly network: NetworkModel } | null = null;
  /** What goes over its ports. */
  readonly counters = new Counters();
  private readonly data: string;
  private readonly fleet: Fleet;
  private readonly settleMs: number;

  constructor(data: string, fleet: Fleet, settleMs = DEFAULT_SETTLE_MS) {
    this.data = data;
    this.fleet = fleet;
    this.settleMs = settleMs;
  }

  /** Everything asked in the work is of one moment: each file is looked at once, not once for each of its cables. */
  atOneMoment<T>(work: () => T): T {
    this.moment = new Map();
    try {
      return work();
    } finally {
      this.moment = null;
    }
  }

  private readRunning(serial: string): Running {
    const seen = this.moment?.get(serial);
    if (seen) return seen;
    const now = this.lookAt(serial);
    this.moment?.set(serial, now);
    return now;
  }

  private lookAt(serial: string): Running {
    const router = this.fleet.routers?.find((r) => r.name === serial);
    if (router) return this.routerRunning(router);
    const folder = join(rootOf(this.data, serial), 'run/running');
    const there = linux.documents.map((d) => d.name).filter((f) => existsSync(join(folder, f)));
    const stats = there.map((f) => statSync(join(folder, f)));
    const stamp = stats.map((s) => `${s.mtimeMs}:${s.ino}:${s.size}`).join();
    const known = this.running.get(serial);
    if (known?.stamp === stamp) return known;
    const files = Object.fromEntries(there.map((f) => [f, readFileSync(join(folder, f), 'utf8')]));
    const fresh = { stamp, parsed: linux.parse(readable(files)), since: Math.max(...stats.map((s) => s.mtimeMs)) };
    this.running.set(serial, fresh);
    return fresh;
  }

  /** A router outside has always run what it runs. */
  private routerRunning({ name, files }: FleetRouter): Running {
    const stamp = JSON.stringify(files);
    const known = this.running.get(name);
    if (known?.stamp === stamp) return known;
    const fresh = { stamp, parsed: linux.parse(files), since: 0 };
    this.running.set(name, fresh);
    return fresh;
  }

  parsed(serial: string): ParsedConfig {
    return this.readRunning(serial).parsed;
  }

  /** Cables (of one switch) that light shines through: plugged at both ends, and shut at neither. */
  lit(serial?: string): FleetCable[] {
    const shut = (end: FleetCable['a']): boolean =>
      this.parsed(end.serial).config.ports.some((p) => p.name === end.port && p.shut === true);
    const here = (c: FleetCable): boolean => serial === undefined || c.a.serial === serial || c.b.serial === serial;
    return this.fleet.cables.filter((c) => here(c) && !c.pulled && !shut(c.a) && !shut(c.b));
  }

  /** The network of all running text and the cables that are plugged; hosts are serials here. */
  network(): NetworkModel {
    const names = [...this.fleet.switches.map((s) => s.serial), ...(this.fleet.routers ?? []).map((r) => r.name)];
    const all = names.map((serial) => ({ serial, running: this.readRunning(serial) }));
    const cables = this.lit();
    const stamp = `${all.map((x) => x.running.stamp).join()}|${cables.map((c) => `${c.a.serial}${c.a.port}${c.b.serial}${c.b.port}`).join()}`;
    if (this.model?.stamp !== stamp) {
      const network = modelNetwork(
        all.map((x) => ({ host: x.serial, config: x.running.parsed.config, unread: x.running.parsed.unread })),
        cables.map((c) => ({ a: { host: c.a.serial, port: c.a.port }, b: { host: c.b.serial, port: c.b.port } })),
      );
      this.model = { stamp, network };
    }
    return this.model.network;
  }

  /** Have both ends run long enough for a session between them to be up? */
  settled(serial: string, far: string, now: number): boolean {
    const since = Math.max(this.readRunning(serial).since, this.readRunning(far).since);
    return now - since >= this.settleMs;
  }
}
