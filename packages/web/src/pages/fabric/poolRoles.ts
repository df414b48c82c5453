import { capital, POOL_ROLE_LABELS, type PoolRole } from '@anthemion/core';

/** A word that pools for each kind of value often have in their name. */
const HINTS: Readonly<Record<PoolRole, string>> = {
  spineAsn: 'spine',
  leafAsn: 'leaf',
  loopback: 'loopback',
  vtep: 'vtep',
  link: 'link',
  vni: 'overlay',
  subnet: 'tenant',
  subnet6: 'tenant',
  loopback6: 'loopback',
  link6: 'link',
};
/** What each kind of value is called, and a word pools name for it often hold. */
export const ROLE_TITLES = Object.fromEntries(
  Object.entries(HINTS).map(([role, hint]) => [role, { title: capital(POOL_ROLE_LABELS[role as PoolRole]), hint }]),
) as Readonly<Record<PoolRole, { readonly title: string; readonly hint: string }>>;
