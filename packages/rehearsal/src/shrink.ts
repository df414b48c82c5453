import type { SwitchFolder } from '@anthemion/core';
import { onlySwitches } from './rehearse.ts';

/**
 * Takes switches and servers out of a folder, one after the other, as long as it still differs without them.
 * @param kept the switch that what was done stands on
 * @param differs holds a smaller folder, and says whether model and daemons still disagree
 * @returns the smallest that was found, and how many were held
 */
export async function shrink(
  folder: SwitchFolder,
  kept: string,
  differs: (smaller: SwitchFolder) => Promise<boolean>,
): Promise<{ readonly folder: SwitchFolder; readonly held: number }> {
  let small = folder;
  let held = 0;
  const tries = async (smaller: SwitchFolder): Promise<void> => {
    held++;
    if (await differs(smaller)) small = smaller;
  };
  // Servers together first: without their pings all else is held faster.
  if (folder.hosts.length > 0) await tries({ ...small, hosts: [] });
  for (const { host } of folder.switches) {
    if (host === kept) continue;
    const rest = new Set(small.switches.map((s) => s.host).filter((h) => h !== host));
    await tries(onlySwitches(small, rest));
  }
  return { folder: small, held };
}
