import { spawn, type ChildProcess } from 'node:child_process';
import { readFileSync } from 'node:fs';

/** What a command said, and whether it went well. */
export interface Said {
  readonly ok: boolean;
  readonly out: string;
  readonly err: string;
}

/** A namespace of network, files, names and processes; everything in it ends with its first process. */
export class Box {
  private readonly keeper: ChildProcess;
  private readonly pid: number;
  private readonly environment: NodeJS.ProcessEnv;

  private constructor(keeper: ChildProcess, pid: number, environment: NodeJS.ProcessEnv) {
    this.keeper = keeper;
    this.pid = pid;
    this.environment = environment;
  }

  /** Its first process dies with this one, even where this one is killed: nothing is left behind. */
  static async make(environment: NodeJS.ProcessEnv): Promise<Box> {
    const keeper = spawn(
      'setpriv',
      // prettier-ignore
      ['--pdeathsig', 'KILL', 'unshare', '--net', '--mount', '--uts', '--pid', '--fork', '--kill-child', '--mount-proc',
        'sh', '-c', 'mount -t tmpfs tmpfs /run && mkdir -p /run/netns /run/frr && echo ready && exec sleep infinity'],
      { stdio: ['ignore', 'pipe', 'ignore'], env: environment },
    );
    await new Promise<void>((done, fail) => {
      keeper.stdout!.once('data', () => done());
      keeper.once('exit', () => fail(new Error('a network namespace could not be made')));
    });
    const children = readFileSync(`/proc/${keeper.pid}/task/${keeper.pid}/children`, 'utf8').trim().split(' ');
    return new Box(keeper, Number(children[0]), environment);
  }

  /** The process whose namespaces these are, for moving interfaces into them. */
  get id(): number {
    return this.pid;
  }

  private arguments(script: string): [string, string[]] {
    return ['nsenter', ['--target', String(this.pid), '--net', '--mount', '--uts', '--pid', 'sh', '-c', script]];
  }

  run(script: string): Promise<Said> {
    return new Promise((done) => {
      const [program, args] = this.arguments(script);
      const child = spawn(program, args, { env: this.environment });
      let out = '';
      let err = '';
      child.stdout.on('data', (part: Buffer) => (out += part.toString()));
      child.stderr.on('data', (part: Buffer) => (err += part.toString()));
      child.once('close', (code) => done({ ok: code === 0, out, err }));
    });
  }

  end(): void {
    this.keeper.kill('SIGKILL');
  }
}
