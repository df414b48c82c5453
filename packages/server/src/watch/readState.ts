import type { Driver } from '../reach/driver.ts';
import type { Said } from '../store/live.ts';

/**
 * What a switch says of itself, in a form that is the same whenever the same is said.
 * @param ospf may it have neighbours by OSPF? Asking is two commands more
 */
export async function readState(
  driver: Driver,
  ospf: boolean,
): Promise<{ readonly said: string; readonly stamp: string }> {
  const signal = [...(await driver.signals())].sort(([a], [b]) => (a < b ? -1 : 1));
  const peers = [...(await driver.peers())].sort(([a], [b]) => (a < b ? -1 : 1));
  const neighbours = (await driver.neighbours())
    .map((n) => [n.port, n.host, n.farPort] as const)
    .sort(([a], [b]) => (a < b ? -1 : 1));
  const adjacent = ospf ? [...(await driver.adjacent())].sort(([a], [b]) => (a < b ? -1 : 1)) : null;
  const said: Said = { signal, peers, neighbours, ...(adjacent ? { adjacent } : {}) };
  return { said: JSON.stringify(said), stamp: await driver.textStamp() };
}
