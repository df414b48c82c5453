import { mayCall, type Access, type User } from '@anthemion/contract';

/** The sections of the band, each with the letter that goes to it after `g`. */
export const SECTIONS = [
  { to: '/patterns', name: 'Patterns', key: 'p' },
  { to: '/pools', name: 'Pools', key: 'o' },
  { to: '/switches', name: 'Switches', key: 's' },
  { to: '/fabrics', name: 'Fabrics', key: 'f' },
  { to: '/changes', name: 'Changes', key: 'c' },
  { to: '/rollouts', name: 'Rollouts', key: 'r' },
  { to: '/watch', name: 'Watch', key: 'w' },
] as const;

/** Pages about who may do what, each with who may open it. */
export const ACCESS_PAGES: readonly { readonly to: string; readonly name: string; readonly access: Access }[] = [
  { to: '/access/accounts', name: 'Accounts', access: 'admin' },
  { to: '/access/sessions', name: 'Sessions', access: 'admin' },
  { to: '/access/tokens', name: 'Tokens', access: 'admin' },
  { to: '/access/switch-accounts', name: 'Switch accounts', access: 'any role' },
  { to: '/access/secrets', name: 'Secrets', access: 'any role' },
  { to: '/access/audit', name: 'Audit log', access: 'auditing' },
  { to: '/access/settings', name: 'Settings', access: 'admin' },
];
export const pagesOfAccess = (user: User | null): typeof ACCESS_PAGES =>
  ACCESS_PAGES.filter((p) => user !== null && mayCall(user, p.access, null));
