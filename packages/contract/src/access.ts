import type { Role, User } from './accessAnswers.ts';

/**
 * Who may call a route: anyone; anyone signed in; anyone with some role; who keeps accounts; who may read the audit log
 * (keeps accounts, or is an onlooker everywhere); or who has one role.
 */
export type Access = 'anyone' | 'signed in' | 'any role' | 'admin' | 'auditing' | Role;

/** May somebody do what takes this role? On a fabric, roles bound to it count as well; null = it concerns all of them. */
export const holds = (user: User, role: Role, fabric: string | null): boolean =>
  user.roles.includes(role) || (fabric !== null && (own(user.bound, fabric)?.includes(role) ?? false));

const own = (bound: User['bound'], fabric: string): readonly Role[] | undefined =>
  Object.hasOwn(bound, fabric) ? bound[fabric] : undefined;

/** Fabrics somebody may look at; null = all. */
export function sightOf(user: User): readonly string[] | null {
  if (user.roles.length > 0) return null;
  return Object.keys(user.bound).filter((f) => user.bound[f]!.length > 0);
}
export const sees = (user: User, fabric: string): boolean => sightOf(user)?.includes(fabric) ?? true;

/** May somebody call what takes this access, on a fabric or (null) on what concerns all of them? */
export function mayCall(user: User, access: Access, fabric: string | null): boolean {
  switch (access) {
    case 'anyone':
    case 'signed in':
      return true;
    case 'any role':
      return fabric === null ? sightOf(user)?.length !== 0 : sees(user, fabric);
    case 'admin':
      return user.admin;
    case 'auditing':
      return user.admin || user.roles.includes('onlooker');
    default:
      return holds(user, access, fabric);
  }
}
