import type { Edit, FabricIntent, FabricPattern, Pool, RackPattern, SwitchModel } from '@anthemion/core';
import { StartTrouble } from '../trouble.ts';

/** What is stored as a document, by kind. */
interface Documents {
  intent: FabricIntent;
  edit: Edit;
  model: SwitchModel;
  rack: RackPattern;
  fabric: FabricPattern;
  pool: Pool;
}
export type DocumentKind = keyof Documents;
type Plain = Record<string, unknown>;

/** Turns a document of one version into the next; never changed once released. */
type Upgrader = (document: Plain) => Plain;

/** How switches were named before that could be chosen. */
const FIRST_NAMES = {
  leafName: '{prefix}-lf-{rack}{side}',
  spineName: '{prefix}-sp-{pod}-{number}',
  superSpineName: '{prefix}-ss-{plane}-{number}',
};

/** How ports were described before that could be chosen. */
const FIRST_DESCRIPTIONS = {
  linkDescription: '{far} {port}',
  serverDescription: '{server}',
  outsideDescription: '{system} {port}',
};

/**
 * For each kind, the steps from version 1 on: a document's version is the number of steps it has behind it, plus one. A
 * document without `schemaVersion` is of version 1.
 */
export const UPGRADERS: Readonly<Record<DocumentKind, readonly Upgrader[]>> = {
  // 2: an intent names the secrets its texts hold.
  // 3: it holds cables to what is outside, and how its switches are named.
  // 4: tenants speak to routers outside.
  // 5: tenants have IPv6.
  // 6: they have static routes.
  // 7: it has routing policies.
  // 8: its switches may have IPv6 for one another.
  // 9: networks may have further subnets.
  // 10: their servers may speak BGP.
  // 11: a fabric may waive design rules.
  // 12: tenants may have routes of one another.
  // 13: routers outside may be spoken to behind their links.
  // 14: route maps ask who tells a route, and know extended communities; VRFs may have a limit.
  // 15: ports may be told a speed and FEC; what they are described by may be chosen; links may be shut.
  // 16: links outside may be LAGs.
  // 17: its switches may be drained.
  // 18: route maps ask for next hops, and set them; BGP may ask to be kept while it starts anew.
  intent: [
    (d) => ({ ...d, secrets: [] }),
    (d) => ({ ...d, outside: [], settings: { ...FIRST_NAMES, ...(d.settings as Plain) } }),
    (d) => ({ ...d, neighbours: [] }),
    (d) => ({ ...d, pools: { subnet6: '', ...(d.pools as Plain) } }),
    (d) => ({ ...d, routes: [] }),
    (d) => ({ ...d, policies: [] }),
    (d) => ({
      ...d,
      settings: { underlayFamilies: 'ipv4', ...(d.settings as Plain) },
      pools: { loopback6: '', link6: '', ...(d.pools as Plain) },
    }),
    (d) => d,
    (d) => ({ ...d, speakers: [] }),
    (d) => ({ ...d, waivers: [] }),
    (d) => ({ ...d, leaks: [] }),
    (d) => d,
    (d) => d,
    (d) => ({
      ...d,
      shutLinks: [],
      settings: { linkFec: 'unsaid', ...FIRST_DESCRIPTIONS, ...(d.settings as Plain) },
    }),
    (d) => d,
    (d) => ({ ...d, drained: [] }),
    (d) => ({ ...d, settings: { restart: 'helper', restartTime: 120, ...(d.settings as Plain) } }),
  ],
  edit: [],
  model: [],
  rack: [],
  fabric: [],
  pool: [],
};

export const versionOf = (kind: DocumentKind): number => UPGRADERS[kind].length + 1;

/** A document as it is stored: with the version of its shape. */
export const writeDocument = <K extends DocumentKind>(kind: K, document: Documents[K]): string =>
  JSON.stringify({ schemaVersion: versionOf(kind), ...document });

/** Reads a stored document and brings it to today's shape. Throws when a newer release wrote it. */
export function readDocument<K extends DocumentKind>(kind: K, json: string): Documents[K] {
  const { schemaVersion = 1, ...stored } = JSON.parse(json) as Plain & { schemaVersion?: number };
  const steps = UPGRADERS[kind];
  if (schemaVersion > steps.length + 1)
    throw new StartTrouble(
      `A stored ${kind} has version ${schemaVersion}; this release knows ${steps.length + 1}. Start the release that wrote it.`,
    );
  return steps.slice(schemaVersion - 1).reduce<Plain>((d, step) => step(d), stored) as unknown as Documents[K];
}
