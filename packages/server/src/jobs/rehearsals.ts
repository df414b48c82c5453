import { MOST_REHEARSED, type RehearsalAnswer } from '@anthemion/contract';
import { capital, groupBy, type Finding } from '@anthemion/core';
import { spawn, type ChildProcess } from 'node:child_process';
import { createInterface } from 'node:readline';
import { programOf } from '../programs.ts';
import { at, type House } from '../services/house.ts';
import { changeOf, OPEN_STATES } from '../store/changes.ts';
import { breakOffRehearsals, putRehearsal, rehearsalOf } from '../store/rehearsals.ts';
import { notNow, words } from '../trouble.ts';

/** What a rehearsal says when it is done: what of its outcome is shown. */
interface Held {
  readonly refused: readonly { readonly host: string; readonly document: string; readonly said: string }[];
  readonly strays: readonly {
    readonly host: string;
    readonly line: number;
    readonly text: string;
    readonly landed: string | null;
  }[];
  readonly differences: readonly {
    readonly host: string;
    readonly about: string;
    readonly model: string;
    readonly daemon: string;
  }[];
  readonly compared: Readonly<Record<string, number>>;
  readonly notShown: readonly { readonly what: string }[];
}
type Said = { readonly step: string } | { readonly not: string } | { readonly held: Held };

const MOST_MS = 6 * 60_000;
/** What is compared, as people call it. */
const KINDS: Readonly<Record<string, string>> = {
  sessions: 'sessions',
  adjacencies: 'OSPF neighbours',
  routes: 'routes',
  vteps: 'VTEP lists',
  evpnRoutes: 'routes of EVPN',
  vrfRoutes: 'routes of VRFs',
  ipv6Routes: 'routes of IPv6',
  pings: 'pings',
  ipv6Pings: 'pings by IPv6',
  calls: 'calls by TCP and UDP',
  largePings: 'pings of full size',
  counters: 'counters of filters',
};

/** What holds rehearsals. */
function program(): readonly string[] {
  const { file, execArgv } = programOf('rehearsal');
  return [process.execPath, ...execArgv, file];
}

interface Running {
  readonly change: string;
  readonly child: ChildProcess;
  /** It is over, and that is written down. */
  readonly done: Promise<void>;
}

/** Holds rehearsals of changes, one at a time, in a process of its own. */
export class Rehearsals {
  private readonly house: House;
  private readonly command: readonly string[];
  private running: Running | null = null;
  /** Somebody asked, and nothing runs yet. */
  private beginning = false;
  private ending = false;

  constructor(house: House, command: readonly string[] = program()) {
    this.house = house;
    this.command = command;
  }

  /** What ran when the server ended is not gone on with: nothing hangs on it, and it is quickly asked for again. */
  takeUp(): Promise<void> {
    return breakOffRehearsals(this.house.db, at(this.house));
  }

  /** Begins, and answers at once. */
  async start(change: string, by: string): Promise<RehearsalAnswer> {
    const { db, compiler } = this.house;
    if (this.ending) throw notNow('The server is ending: rehearse it when it runs again.');
    if (this.running || this.beginning)
      throw notNow(
        this.running?.change === change
          ? 'It is being rehearsed already.'
          : 'Another change is being rehearsed: one at a time, as each takes much of this machine. Try again in a minute.',
      );
    this.beginning = true;
    try {
      const { fabric, version, state } = await changeOf(db, change);
      if (!(OPEN_STATES as readonly string[]).includes(state))
        throw notNow(`The change is ${state}: only an open one is rehearsed.`);
      const toRun = await compiler.run<'rehearse'>({ do: 'rehearse', fabric, change, most: MOST_REHEARSED });
      if (toRun.changed.length === 0)
        throw notNow('The change alters the text of no switch: there is nothing to rehearse.');
      const begun: RehearsalAnswer = {
        state: 'running',
        by,
        at: at(this.house),
        endedAt: null,
        version,
        step: 'beginning',
        hosts: Object.keys(toRun.files),
        of: toRun.of,
        why: null,
        findings: [],
        compared: {},
        unsure: 0,
        notShown: [],
      };
      await this.note(change, fabric, begun);
      // It may have been told to end meanwhile; what is written down as running then counts as broken off at the next start.
      if (!this.ending) this.run(change, fabric, begun, JSON.stringify(toRun));
      return begun;
    } finally {
      this.beginning = false;
    }
  }

  answer(change: string): Promise<RehearsalAnswer | null> {
    return rehearsalOf(this.house.db, change);
  }

  private async note(change: string, fabric: string, answer: RehearsalAnswer): Promise<void> {
    await putRehearsal(this.house.db, change, answer);
    this.house.events.tell('rehearsals', change, fabric);
  }

  private run(change: string, fabric: string, begun: RehearsalAnswer, input: string): void {
    // It dies with this process, however that ends.
    const child = spawn('setpriv', ['--pdeathsig', 'KILL', ...this.command], { stdio: ['pipe', 'pipe', 'ignore'] });
    const timer = setTimeout(() => child.kill('SIGKILL'), MOST_MS);
    let now = begun;
    let ended: RehearsalAnswer | null = null;
    /** What it says is written down one after the other. */
    let written: Promise<void> = Promise.resolve();
    const write = (answer: RehearsalAnswer): void => {
      now = answer;
      written = written
        .then(() => this.note(change, fabric, answer))
        .catch((error: unknown) => this.house.log.warn({ err: error, change }, 'a rehearsal could not be noted'));
    };
    const end = (more: Partial<RehearsalAnswer>): void => {
      ended ??= { ...now, endedAt: at(this.house), step: '', ...more };
    };
    child.stdin.on('error', () => undefined);
    child.stdin.end(input);
    createInterface({ input: child.stdout }).on('line', (line) => {
      const said = saidOn(line);
      if (said === null) return;
      if ('step' in said) write({ ...now, step: said.step });
      else if ('not' in said) end({ state: 'not held', why: said.not });
      else end({ state: 'held', ...resultOf(said.held) });
    });
    const done = new Promise<void>((go) => {
      child.once('error', (error) => {
        end({ state: 'not held', why: `it could not be started: ${words(error)}` });
        go();
      });
      child.once('close', () => go());
    }).then(async () => {
      clearTimeout(timer);
      if (this.ending) end({ state: 'broken off' });
      end({ state: 'not held', why: 'it ended before its time; nothing was compared' });
      write(ended!);
      await written;
      this.running = null;
    });
    this.running = { change, child, done };
  }

  /** Ends what runs; it counts as broken off. */
  async stop(): Promise<void> {
    this.ending = true;
    this.running?.child.kill('SIGKILL');
    await this.running?.done;
  }
}

/** What a line of the program says; null = it is none of its own. */
function saidOn(line: string): Said | null {
  try {
    return JSON.parse(line) as Said;
  } catch {
    return null;
  }
}

const CURE = 'Proof and daemons cannot both be right: read the lines that it hangs on before you send it.';

/** What the daemons do otherwise, as findings, and what was compared. */
function resultOf(held: Held): Pick<RehearsalAnswer, 'findings' | 'compared' | 'unsure' | 'notShown'> {
  const finding = (host: string, message: string, more: Partial<Finding> = {}): Finding => ({
    rule: 'rehearsal',
    severity: 'error',
    message: `${host}: ${message}.`,
    cure: CURE,
    host,
    ...more,
  });
  return {
    findings: [
      ...held.refused.map((r) => finding(r.host, `${r.document} is not taken whole: ${r.said}`)),
      ...[...groupBy(held.strays, (s) => `${s.text}\n${s.landed}`).values()].map((same) => {
        const { host, line, text, landed } = same[0]!;
        const where = landed === null ? 'is nowhere after it is loaded' : `lands in ${landed || 'no block'}`;
        const others = same.length > 1 ? `; the same on ${same.length - 1} more` : '';
        return finding(host, `“${text}” ${where}${others}`, { place: { host, file: 'frr.conf', line } });
      }),
      ...held.differences.map((d) =>
        finding(d.host, `${d.about}: the proof says ${d.model || 'none'}, the daemons ${d.daemon || 'none'}`),
      ),
    ],
    compared: Object.fromEntries(
      Object.entries(KINDS).flatMap(([kind, called]) =>
        (held.compared[kind] ?? 0) > 0 ? [[called, held.compared[kind]!] as const] : [],
      ),
    ),
    unsure: held.compared['unsure'] ?? 0,
    notShown: [...new Set(held.notShown.map((n) => capital(n.what)))],
  };
}
