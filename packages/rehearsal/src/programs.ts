import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { homedir, tmpdir } from 'node:os';
import { dirname, join } from 'node:path';

/** Where the programs lie that a rehearsal runs. */
export interface Programs {
  /** Folder of the FRR daemons. */
  readonly daemons: string;
  readonly vtysh: string;
  readonly ping: string;
  /** Root under which ifupdown2 lies with its settings; null = it, or Python, is not to be had, and `interfaces` is not checked by it. */
  readonly ifupdown: string | null;
  /** Loads filters; null = it is not to be had, and filters are not shown. */
  readonly nft: string | null;
  /** Another hand’s BGP, for routers outside; null = it is not to be had, and they are FRR’s too. */
  readonly bird: string | null;
  /** What they need to be found by: paths of libraries. */
  readonly environment: Readonly<Record<string, string>>;
}

const PACKAGES = ['frr', 'iputils-ping'] as const;
/** Where ifupdown2 and its settings lie under a root. */
export const IFUPDOWN = {
  package: 'ifupdown2',
  program: 'usr/share/ifupdown2/ifupdown2',
  settings: 'etc/network/ifupdown2',
} as const;
const NFT = 'usr/sbin/nft';
const BIRD = 'usr/sbin/bird';
/** What a rehearsal makes of a kernel, in a namespace that is gone at once. */
const PROBE = [
  'mount -t tmpfs tmpfs /run',
  'ip link add rhp0 type veth peer name rhp1',
  'ip link add rhp2 type bridge',
  'ip link add rhp3 type vxlan id 1 dstport 4789 local 127.0.0.1',
].join(' && ');
const has = (program: string): boolean => spawnSync('which', [program]).status === 0;

/**
 * Finds FRR and ping: as installed, or unpacked from Debian's packages into the cache folder without installing them, so
 * that no service of this machine is started or replaced.
 * @param fetch may packages be fetched, or is only used what is there?
 * @returns the programs, or why a rehearsal cannot be held here
 */
export function findPrograms({ fetch } = { fetch: true }): Programs | string {
  const canFetch = (): boolean => fetch && has('apt-get') && has('dpkg');
  if (process.platform !== 'linux' || process.getuid?.() !== 0)
    return 'A rehearsal makes network namespaces: it wants Linux and root.';
  const missing = ['ip', 'unshare', 'nsenter', 'setpriv'].filter((p) => !has(p));
  if (missing.length > 0) return `A rehearsal wants ${missing.join(', ')}.`;
  if (
    spawnSync('unshare', ['--net', '--mount', '--pid', '--fork', 'sh', '-c', PROBE], { stdio: 'ignore' }).status !== 0
  )
    return 'This kernel, or whoever keeps it, refuses namespaces, VXLAN, bridges or pairs of interfaces.';
  const cache = join(process.env['XDG_CACHE_HOME'] ?? join(homedir(), '.cache'), 'anthemion', 'programs');
  const places = ['/', cache];
  const rootOf = (path: string): string | undefined => places.find((p) => existsSync(join(p, path)));
  const place = (path: string): string | undefined => {
    const root = rootOf(path);
    return root === undefined ? undefined : join(root, path);
  };
  const ifupdown = (): string | null => {
    if (!has('python3')) return null;
    if (rootOf(IFUPDOWN.program) === undefined && canFetch()) unpack(cache, [IFUPDOWN.package]);
    const own = join(cache, dirname(IFUPDOWN.program));
    // It is started for every switch: compiled as its installation does it, that takes half as long.
    if (existsSync(own) && !existsSync(join(own, '__pycache__'))) spawnSync('python3', ['-m', 'compileall', '-q', own]);
    return rootOf(IFUPDOWN.program) ?? null;
  };
  const one = (program: string, of: string): string | null => {
    if (place(program) === undefined && canFetch()) unpack(cache, [of]);
    return place(program) ?? null;
  };
  const found = (): Programs | null => {
    const [daemons, vtysh, ping] = [
      place('usr/lib/frr'),
      place('usr/bin/vtysh'),
      place('usr/bin/ping') ?? place('bin/ping'),
    ];
    if (!daemons || !vtysh || !ping || !existsSync(join(daemons, 'bgpd'))) return null;
    // These first: what they need may be fetched with them.
    const more = { ifupdown: ifupdown(), nft: one(NFT, 'nftables'), bird: one(BIRD, 'bird2') };
    const libraries = ['usr/lib/x86_64-linux-gnu', 'usr/lib/aarch64-linux-gnu']
      .flatMap((l) => [join(cache, l), join(cache, l, 'frr')])
      .filter((l) => existsSync(l));
    return { daemons, vtysh, ping, ...more, environment: { LD_LIBRARY_PATH: libraries.join(':') } };
  };
  const there = found();
  if (there) return there;
  if (!canFetch()) return `A rehearsal wants Debian's ${PACKAGES.join(' and ')}.`;
  unpack(cache, PACKAGES);
  return found() ?? `Debian's ${PACKAGES.join(' and ')} could not be fetched: without them nothing is rehearsed.`;
}

/** Fetches packages and what they need, and unpacks them; nothing is installed. */
function unpack(into: string, packages: readonly string[]): void {
  const folder = mkdtempSync(join(tmpdir(), 'rehearsal-packages-'));
  mkdirSync(join(folder, 'partial'));
  const fetched = (): boolean =>
    spawnSync(
      'apt-get',
      [
        '-qq',
        '-y',
        '--no-install-recommends',
        '--download-only',
        '-o',
        `Dir::Cache::archives=${folder}`,
        'install',
        ...packages,
      ],
      { env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }, stdio: 'ignore' },
    ).status === 0;
  if (!fetched()) {
    spawnSync('apt-get', ['-qq', 'update'], { stdio: 'ignore' });
    fetched();
  }
  mkdirSync(into, { recursive: true });
  for (const file of readdirSync(folder).filter((f) => f.endsWith('.deb')))
    spawnSync('dpkg', ['-x', join(folder, file), into], { stdio: 'ignore' });
  rmSync(folder, { recursive: true, force: true });
}
