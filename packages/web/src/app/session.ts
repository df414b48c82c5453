import type { Role } from '@anthemion/contract';
import { api } from './api.ts';

/** May the person signed in do what takes this role? */
export function useMay(role: Role | 'admin'): boolean {
  const { data } = api.useSessionQuery();
  const user = data?.user;
  return user ? (role === 'admin' ? user.admin : user.roles.includes(role)) : false;
}
