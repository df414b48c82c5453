import type { SessionAnswer } from '@anthemion/contract';

/** Accounts that exist in the demo only; their passwords are shown on its sign-in page. */
export const DEMO_ACCOUNTS: SessionAnswer['demoAccounts'] = [
  { name: 'ines', fullName: 'Ines Moreau', roles: ['designer', 'operator'], password: 'soundings of the outer bank' },
  { name: 'bo', fullName: 'Bo Lind', roles: ['approver'], password: 'lighthouse above slack water' },
  { name: 'tamar', fullName: 'Tamar Weiss', roles: ['operator', 'approver'], password: 'buoys north of the narrows' },
  { name: 'olu', fullName: 'Olu Adeyemi', roles: ['onlooker'], password: 'tide table on the wall' },
];
