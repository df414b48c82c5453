import type { Role } from '@anthemion/contract';

export interface HeldRoles {
  readonly roles: readonly Role[];
  readonly bound: Readonly<Record<string, readonly Role[]>>;
}

/** Roles in one line, for lists. */
export function rolesText({ roles, bound, admin }: HeldRoles & { readonly admin?: boolean }): string {
  return [
    ...(roles.length > 0 ? [roles.join(', ')] : []),
    ...Object.entries(bound).flatMap(([f, r]) => (r.length > 0 ? [`${f}: ${r.join(', ')}`] : [])),
    ...(admin === true ? ['keeps accounts'] : []),
  ].join(' · ');
}
