import {
  hostsOf,
  carryingCablesOf,
  layOut,
  linux,
  type ConfigFiles,
  type FabricIntent,
  type SwitchFolder,
} from '@anthemion/core';

/**
 * The texts of a fabric on a running server, as its live revision means them or as an open change would have them.
 * @param token a token of somebody who may look at the fabric
 * @returns the folder, or a sentence why there is none
 */
export async function folderFromServer(
  url: string,
  fabric: string,
  change: string | null,
  token: string,
): Promise<SwitchFolder | string> {
  const ask = async <T>(path: string): Promise<T | string> => {
    const where = `${url.replace(/\/$/, '')}/api/fabrics/${encodeURIComponent(fabric)}${path}${change === null ? '' : `?change=${encodeURIComponent(change)}`}`;
    try {
      const answer = await fetch(where, { headers: { authorization: `Bearer ${token}` } });
      const body = (await answer.json()) as T & { readonly detail?: string };
      return answer.ok ? body : `${where}: ${body.detail ?? answer.statusText}`;
    } catch {
      return `${url} does not answer`;
    }
  };
  const state = await ask<{ readonly intent: FabricIntent; readonly values: Readonly<Record<string, string>> }>('');
  if (typeof state === 'string') return state;
  const layout = layOut(state.intent);
  const files = new Map<string, ConfigFiles>();
  for (const seat of layout.seats) {
    const text = await ask<{ readonly meant: ConfigFiles | null }>(`/text/${seat.id}`);
    if (typeof text === 'string') return text;
    if (text.meant === null) return `${seat.host} has no text yet: its values are not drawn`;
    files.set(seat.host, text.meant);
  }
  return {
    files,
    switches: [...files].map(([name, own]) => ({ host: name, ...linux.parse(own) })),
    cables: carryingCablesOf(layout),
    hosts: hostsOf(state.intent, layout, new Map(Object.entries(state.values))),
  };
}
