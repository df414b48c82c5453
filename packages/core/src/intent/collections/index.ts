import type { ObjectKind } from '../../subject.ts';
import type { FabricIntent } from '../intent.ts';
import type { Collection } from './collection.ts';
import { drained } from './drained.ts';
import { shutLinks } from './shutLinks.ts';
import { leaks } from './leaks.ts';
import { models, rackPatterns } from './parts.ts';
import { racks, seating } from './racks.ts';
import { neighbours } from './neighbours.ts';
import { outside } from './outside.ts';
import { policies } from './policies.ts';
import { routes } from './routes.ts';
import { speakers } from './speakers.ts';
import { networks, ports, vrfs } from './tenants.ts';
import { secrets, snippets } from './texts.ts';
import { waivers } from './waivers.ts';
import { fabric, pools, settings, spines } from './whole.ts';

/**
 * Everything an intent holds, by kind, in the order in which it can be built up: what is named stands before what names it. A
 * new kind of object is one more row; a test checks that no part of the intent is missing.
 */
export const COLLECTIONS = {
  fabric,
  setting: settings,
  pool: pools,
  model: models,
  rackPattern: rackPatterns,
  spines,
  rack: racks,
  seat: seating,
  policy: policies,
  vrf: vrfs,
  network: networks,
  port: ports,
  outside,
  link: shutLinks,
  drain: drained,
  neighbour: neighbours,
  speakers,
  route: routes,
  leak: leaks,
  secret: secrets,
  snippet: snippets,
  waiver: waivers,
} as const satisfies { readonly [K in ObjectKind]: { readonly kind: K } };

export type Collections = typeof COLLECTIONS;
/** What one object of a kind is. */
export type ItemOfKind<K extends ObjectKind> = Collections[K] extends Collection<infer Item, K> ? Item : never;

// Rows of different items in one list: each is used with items of its own only.
export const collectionOf = (kind: ObjectKind): Collection => COLLECTIONS[kind] as unknown as Collection;
export const ALL_COLLECTIONS: readonly Collection[] = (Object.keys(COLLECTIONS) as ObjectKind[]).map(collectionOf);

/** The object of a kind and key; undefined = there is none. */
export function objectOf<K extends ObjectKind>(intent: FabricIntent, kind: K, key: string): ItemOfKind<K> | undefined {
  for (const [k, item] of collectionOf(kind).items(intent)) if (k === key) return item as ItemOfKind<K>;
  return undefined;
}
