import type { Migration } from 'kysely';
import * as first from './001-first.ts';
import * as promises from './002-promises.ts';
import * as trust from './003-trust.ts';
import * as live from './004-live.ts';
import * as versions from './005-versions.ts';
import * as rehearsals from './006-rehearsals.ts';
import * as ownSubnets from './007-own-subnets.ts';
import * as find from './008-find.ts';
import * as ran from './009-ran.ts';

/** Steps from an empty file to today's tables, in order. Never change one that was released; add another. */
export const MIGRATIONS: Readonly<Record<string, Migration>> = {
  '001-first': first,
  '002-promises': promises,
  '003-trust': trust,
  '004-live': live,
  '005-versions': versions,
  '006-rehearsals': rehearsals,
  '007-own-subnets': ownSubnets,
  '008-find': find,
  '009-ran': ran,
};
