import { createBrowserRouter, Navigate } from 'react-router';
import { Crash } from './Crash.tsx';
import { Sheet } from './Sheet.tsx';

/** Pages are loaded when they are first opened. */
export const router = createBrowserRouter([
  {
    path: '/',
    element: <Sheet />,
    errorElement: <Crash />,
    children: [
      { index: true, lazy: async () => ({ Component: (await import('../pages/arrive/Arrive.tsx')).Arrive }) },
      {
        path: 'patterns',
        lazy: async () => ({ Component: (await import('../pages/patterns/Patterns.tsx')).Patterns }),
      },
      { path: 'pools/:pool?', lazy: async () => ({ Component: (await import('../pages/pools/Pools.tsx')).Pools }) },
      {
        path: 'switches/:serial?',
        lazy: async () => ({ Component: (await import('../pages/switches/Switches.tsx')).Switches }),
      },
      { path: 'fabrics', lazy: async () => ({ Component: (await import('../pages/fabrics/Fabrics.tsx')).Fabrics }) },
      {
        path: 'fabrics/:fabric',
        lazy: async () => ({ Component: (await import('../pages/fabric/FabricFrame.tsx')).FabricFrame }),
        children: [
          { index: true, lazy: async () => ({ Component: (await import('../pages/fabric/Shape.tsx')).Shape }) },
          { path: 'values', lazy: async () => ({ Component: (await import('../pages/fabric/Values.tsx')).Values }) },
          { path: 'seats', lazy: async () => ({ Component: (await import('../pages/fabric/Seats.tsx')).Seats }) },
          { path: 'cables', lazy: async () => ({ Component: (await import('../pages/fabric/Cables.tsx')).Cables }) },
          {
            path: 'routing/:part?',
            lazy: async () => ({ Component: (await import('../pages/fabric/routing/Routing.tsx')).Routing }),
          },
          { path: 'tenants', lazy: async () => ({ Component: (await import('../pages/fabric/Tenants.tsx')).Tenants }) },
          { path: 'ports', lazy: async () => ({ Component: (await import('../pages/fabric/Ports.tsx')).Ports }) },
          {
            path: 'outside',
            lazy: async () => ({ Component: (await import('../pages/fabric/Outside.tsx')).Outside }),
          },
          {
            path: 'text/:seat?',
            lazy: async () => ({ Component: (await import('../pages/fabric/TextPage.tsx')).TextPage }),
          },
          {
            path: 'proof',
            lazy: async () => ({ Component: (await import('../pages/fabric/ProofSheet.tsx')).ProofSheet }),
          },
          { path: 'between', lazy: async () => ({ Component: (await import('../pages/fabric/Between.tsx')).Between }) },
          { path: 'history', lazy: async () => ({ Component: (await import('../pages/fabric/History.tsx')).History }) },
        ],
      },
      { path: 'changes', lazy: async () => ({ Component: (await import('../pages/changes/Changes.tsx')).Changes }) },
      {
        path: 'changes/:id',
        lazy: async () => ({ Component: (await import('../pages/changes/ChangePage.tsx')).ChangePage }),
      },
      {
        path: 'rollouts',
        lazy: async () => ({ Component: (await import('../pages/rollouts/Rollouts.tsx')).Rollouts }),
      },
      {
        path: 'rollouts/:id',
        lazy: async () => ({ Component: (await import('../pages/rollouts/RolloutPage.tsx')).RolloutPage }),
      },
      { path: 'watch', lazy: async () => ({ Component: (await import('../pages/watch/Watch.tsx')).Watch }) },
      { path: 'you/:part?', lazy: async () => ({ Component: (await import('../pages/you/You.tsx')).You }) },
      { path: 'access', element: <Navigate to="/access/switch-accounts" replace /> },
      {
        path: 'access/accounts',
        lazy: async () => ({ Component: (await import('../pages/access/Accounts.tsx')).Accounts }),
      },
      {
        path: 'access/sessions',
        lazy: async () => ({ Component: (await import('../pages/access/Sessions.tsx')).Sessions }),
      },
      { path: 'access/tokens', lazy: async () => ({ Component: (await import('../pages/access/Tokens.tsx')).Tokens }) },
      {
        path: 'access/switch-accounts',
        lazy: async () => ({ Component: (await import('../pages/access/SwitchAccounts.tsx')).SwitchAccounts }),
      },
      {
        path: 'access/secrets',
        lazy: async () => ({ Component: (await import('../pages/access/Secrets.tsx')).Secrets }),
      },
      {
        path: 'access/audit',
        lazy: async () => ({ Component: (await import('../pages/access/AuditLog.tsx')).AuditLog }),
      },
      {
        path: 'access/settings',
        lazy: async () => ({ Component: (await import('../pages/access/SettingsPage.tsx')).SettingsPage }),
      },
      { path: '*', lazy: async () => ({ Component: (await import('./NotHere.tsx')).NotHere }) },
    ],
  },
]);
