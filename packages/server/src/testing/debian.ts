import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { homedir } from 'node:os';
import { join } from 'node:path';

/** Folder in which Debian's programs for tests are kept, unpacked and not installed. */
const CACHE = join(process.env['XDG_CACHE_HOME'] ?? join(homedir(), '.cache'), 'anthemion', 'debian');

/**
 * Unpacks a Debian package with what it needs into the cache and answers its folder; null where that cannot be done (no
 * Debian, no network). Nothing is installed: no service starts, no file of the machine is replaced.
 */
export function debianPackage(name: string, needs: readonly string[] = []): string | null {
  const folder = join(CACHE, name);
  if (existsSync(folder)) return folder;
  if (spawnSync('which', ['apt-get', 'dpkg']).status !== 0) return null;
  mkdirSync(CACHE, { recursive: true });
  const work = mkdtempSync(join(CACHE, 'unpacking-'));
  const download = (): boolean =>
    [name, ...needs].every(
      (p) => spawnSync('apt-get', ['download', '-qq', p], { cwd: work, stdio: 'ignore' }).status === 0,
    );
  const got = download() || (spawnSync('apt-get', ['update', '-qq'], { stdio: 'ignore' }).status === 0 && download());
  if (got) {
    for (const deb of readdirSync(work).filter((f) => f.endsWith('.deb')))
      spawnSync('dpkg', ['-x', join(work, deb), join(work, 'root')]);
    renameSync(join(work, 'root'), folder);
  }
  rmSync(work, { recursive: true, force: true });
  return got ? folder : null;
}
