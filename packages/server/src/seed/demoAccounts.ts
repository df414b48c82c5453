import type { SessionAnswer } from '@anthemion/contract';

/** Accounts that exist in the demo only; their passwords are shown on its sign-in page. */
export const DEMO_ACCOUNTS: SessionAnswer['demoAccounts'] = [
  { name: 'ines', fullName: 'Ines Moreau', roles: ['designer', 'operator'], password: 'soundings-2026' },
  { name: 'bo', fullName: 'Bo Lind', roles: ['approver'], password: 'lighthouse-2026' },
  { name: 'tamar', fullName: 'Tamar Weiss', roles: ['operator', 'approver'], password: 'slack-water-2026' },
  { name: 'olu', fullName: 'Olu Adeyemi', roles: ['onlooker'], password: 'tide-table-2026' },
];
