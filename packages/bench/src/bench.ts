import { linux } from '@anthemion/core';
import express, { type Express } from 'express';
import { timingSafeEqual } from 'node:crypto';
import { existsSync, readFileSync, rmSync } from 'node:fs';
import { createServer, type Server as NetServer } from 'node:net';
import type { AddressInfo } from 'node:net';
import type { Server as HttpServer } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createFleet, FAULTS, pathOf, rootOf, saveFleet, writeWhole, type Fault, type Fleet } from './fleet.ts';
import { SshSwitch } from './sshSwitch.ts';
import { DEFAULT_SETTLE_MS, FleetState, readable } from './state.ts';

export interface BenchOptions {
  readonly data: string;
  readonly fleet: Fleet;
  /** Word that opens the control door. */
  readonly token: string;
  readonly controlPort?: number;
  readonly settleMs?: number;
}

export interface RunningBench {
  readonly controlUrl: string;
  readonly fleet: Fleet;
  readonly close: () => Promise<void>;
}

/** What a switch's check says of a file: the parser's words for the first lines it refuses. */
function check(kind: string, text: string, refusing: boolean): { ok: boolean; text: string } {
  const { unread } = linux.parse(readable({ interfaces: '', 'frr.conf': '', [kind]: text }));
  // What FRR takes elsewhere it takes; what is missing in the other document is not seen in this one.
  const own = unread.filter((u) => u.file === kind && u.landed === undefined && u.needs === undefined && !u.harmless);
  if (refusing) return { ok: false, text: `line 1: refused by the bench (fault “refuses the text”)` };
  return own.length === 0
    ? { ok: true, text: '' }
    : {
        ok: false,
        text: own
          .slice(0, 5)
          .map((u) => `line ${u.line}: ${u.text}: ${u.why}`)
          .join('; '),
      };
}

/** Starts one process that stands in for a whole fleet of Linux switches. */
export async function startBench(options: BenchOptions): Promise<RunningBench> {
  const { data, fleet, token } = options;
  createFleet(data, fleet);
  const state = new FleetState(data, fleet, options.settleMs ?? DEFAULT_SETTLE_MS);
  const socket = join(tmpdir(), `anthemion-bench-${process.pid}-${Math.floor(performance.now())}.sock`);
  const checks = await serveChecks(socket, fleet);
  const switches = fleet.switches.map((s) => new SshSwitch({ data, fleet, state, socket }, s));
  for (const s of switches) {
    s.self.port = await s.listen();
    s.self.hostKey = s.hostKey();
  }
  saveFleet(data, fleet);
  const http = await new Promise<HttpServer>((done) => {
    const server = controlApp(data, fleet, token, switches).listen(options.controlPort ?? 0, '127.0.0.1', () =>
      done(server),
    );
  });
  return {
    controlUrl: `http://127.0.0.1:${(http.address() as AddressInfo).port}`,
    fleet,
    close: async () => {
      for (const s of switches) s.close();
      await new Promise((done) => http.close(done));
      await new Promise((done) => checks.close(done));
      rmSync(socket, { force: true });
    },
  };
}

function serveChecks(path: string, fleet: Fleet): Promise<NetServer> {
  const server = createServer({ allowHalfOpen: true }, (peer) => {
    let asked = '';
    peer.setEncoding('utf8');
    peer.on('data', (part: string) => (asked += part));
    peer.on('error', () => undefined);
    peer.on('end', () => {
      const { kind, file, serial } = JSON.parse(asked) as { kind: string; file: string; serial: string };
      const refusing = fleet.switches.find((s) => s.serial === serial)?.faults.includes('refuses the text') ?? false;
      peer.end(JSON.stringify(check(kind, readFileSync(file, 'utf8'), refusing && kind === 'frr.conf')));
    });
  });
  return new Promise((done) => server.listen(path, () => done(server)));
}

/** The control door: faults, cables, hand edits. Only with the token. */
function controlApp(data: string, fleet: Fleet, token: string, switches: readonly SshSwitch[]): Express {
  const app = express();
  app.use((req, res, next) => {
    const given = Buffer.from(req.get('authorization') ?? '');
    const wanted = Buffer.from(`Bearer ${token}`);
    if (given.length === wanted.length && timingSafeEqual(given, wanted)) next();
    else res.status(401).json({ detail: 'the bench wants its token' });
  });
  app.use(express.json({ limit: '20mb' }));
  app.get('/fleet', (_req, res) => {
    res.json({
      switches: fleet.switches.map((s) => {
        const applied = join(rootOf(data, s.serial), 'var/lib/anthemion/applied');
        return {
          serial: s.serial,
          model: s.model,
          port: s.port,
          faults: s.faults,
          hostname:
            /^hostname (\S+)/m.exec(readFileSync(join(rootOf(data, s.serial), 'run/running/frr.conf'), 'utf8'))?.[1] ??
            '',
          applied: existsSync(applied)
            ? readFileSync(applied, 'utf8')
                .trim()
                .split('\n')
                .map((l) => l.split(' ')[0])
            : [],
        };
      }),
      cables: fleet.cables,
    });
  });
  app.put('/cables', (req, res) => {
    const { cables, routers = [] } = req.body as Pick<Fleet, 'cables' | 'routers'>;
    const touched = new Set(cables.flatMap((c) => [`${c.a.serial} ${c.a.port}`, `${c.b.serial} ${c.b.port}`]));
    const kept = fleet.cables.filter(
      (c) => !touched.has(`${c.a.serial} ${c.a.port}`) && !touched.has(`${c.b.serial} ${c.b.port}`),
    );
    fleet.cables = [...kept, ...cables.map((c) => ({ a: c.a, b: c.b, pulled: false }))];
    const fresh = new Set(routers.map((r) => r.name));
    fleet.routers = [...(fleet.routers ?? []).filter((r) => !fresh.has(r.name)), ...routers];
    saveFleet(data, fleet);
    res.json({ cables: fleet.cables.length });
  });
  app.post('/faults', (req, res) => {
    const { serial, fault, on } = req.body as { serial: string; fault: Fault; on: boolean };
    const found = switches.find((s) => s.self.serial === serial);
    if (!found || !FAULTS.includes(fault))
      return void res.status(404).json({ detail: `the bench has no switch ${serial} or no fault ${fault}` });
    found.self.faults = [...found.self.faults.filter((f) => f !== fault), ...(on ? [fault] : [])];
    if (on && fault === 'unreachable') found.hangUp();
    saveFleet(data, fleet);
    res.json({ faults: found.self.faults });
  });
  app.post('/pull', (req, res) => {
    const { serial, port, pulled } = req.body as { serial: string; port: string; pulled: boolean };
    const cable = fleet.cables.find((c) => [c.a, c.b].some((e) => e.serial === serial && e.port === port));
    if (!cable) return void res.status(404).json({ detail: `no cable on ${serial} ${port}` });
    cable.pulled = pulled;
    saveFleet(data, fleet);
    res.json(cable);
  });
  app.post('/swap', (req, res) => {
    const ends = req.body as Record<'a' | 'b', { serial: string; port: string }>;
    const at = (e: { serial: string; port: string }) =>
      fleet.cables.find((c) => [c.a, c.b].some((x) => x.serial === e.serial && x.port === e.port));
    const [one, two] = [at(ends.a), at(ends.b)];
    if (!one || !two) {
      const none = one ? ends.b : ends.a;
      return void res.status(404).json({ detail: `no cable on ${none.serial} ${none.port}` });
    }
    if (one === two) return void res.status(422).json({ detail: 'that is one cable: two are swapped' });
    // The ends that were named stay plugged; the far ends change places.
    const far = (c: Fleet['cables'][number], e: { serial: string; port: string }): 'a' | 'b' =>
      c.a.serial === e.serial && c.a.port === e.port ? 'b' : 'a';
    const [x, y] = [far(one, ends.a), far(two, ends.b)];
    const swapped = new Map([
      [one, { ...one, [x]: two[y] }],
      [two, { ...two, [y]: one[x] }],
    ]);
    fleet.cables = fleet.cables.map((c) => swapped.get(c) ?? c);
    saveFleet(data, fleet);
    res.json({ cables: [...swapped.values()] });
  });
  app.post('/hand-edit', (req, res) => {
    const { serial, file, find, replace } = req.body as {
      serial: string;
      file: string;
      find: string;
      replace: string;
    };
    if (!switches.some((s) => s.self.serial === serial) || !linux.documents.some((d) => d.name === file))
      return void res.status(404).json({ detail: `the bench has no switch ${serial}, or no document ${file}` });
    const path = pathOf(data, serial, file);
    const before = existsSync(path) ? readFileSync(path, 'utf8') : '';
    if (!before.includes(find))
      return void res.status(422).json({ detail: `“${find}” is not in ${file} of ${serial}` });
    const after = before.replace(find, replace);
    for (const to of [path, join(rootOf(data, serial), 'run/running', file)]) writeWhole(to, after);
    res.json({ done: true });
  });
  return app;
}
