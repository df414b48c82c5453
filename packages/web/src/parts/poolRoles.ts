import { capital, POOL_ROLE_LABELS, POOL_ROLES, type PoolRole } from '@anthemion/core';

/** What each kind of value that is drawn is called. */
export const ROLE_TITLES = Object.fromEntries(
  POOL_ROLES.map((role) => [role, capital(POOL_ROLE_LABELS[role])]),
) as Readonly<Record<PoolRole, string>>;
