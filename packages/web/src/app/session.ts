import { holds, mayCall, type Access, type Role } from '@anthemion/contract';
import { useParams } from 'react-router';
import { api } from './api.ts';

/**
 * May the person signed in do what takes this role? On pages of a fabric (or with one named) roles bound to it count as well.
 */
export function useMay(role: Role | 'admin', of?: string | null): boolean {
  const { data } = api.useSessionQuery();
  const here = useParams()['fabric'];
  const user = data?.user;
  if (!user) return false;
  return role === 'admin' ? user.admin : holds(user, role, of ?? here ?? null);
}

/** May they open what takes this access, as the server has it? */
export function useAccess(access: Access): boolean {
  const user = api.useSessionQuery().data?.user;
  return user ? mayCall(user, access, null) : false;
}
