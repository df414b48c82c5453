import type { PoolRole } from '@anthemion/core';

/** What each kind of value is called, and a word pool names for it often hold. */
export const ROLE_TITLES: Readonly<Record<PoolRole, { readonly title: string; readonly hint: string }>> = {
  spineAsn: { title: 'AS number of the spines', hint: 'spine' },
  leafAsn: { title: 'AS numbers of the leaves', hint: 'leaf' },
  loopback: { title: 'Loopbacks', hint: 'loopback' },
  vtep: { title: 'VTEPs', hint: 'vtep' },
  link: { title: 'Fabric links', hint: 'link' },
  vni: { title: 'VNIs', hint: 'overlay' },
  subnet: { title: 'Tenant subnets', hint: 'tenant' },
};
