import type { ReactNode } from 'react';
import { NavLink } from 'react-router';
import { Page } from '../../app/Page.tsx';
import { useAccess } from '../../app/session.ts';
import { Tabs } from '../fabric/FabricFrame.tsx';

/** A page about who may do what: accounts and what belongs to them, what opens switches, and what was done by whom. */
export function AccessPage({
  title,
  sub,
  children,
  aside,
  actions,
}: {
  readonly title: string;
  readonly sub?: ReactNode;
  readonly children: ReactNode;
  readonly aside?: ReactNode;
  readonly actions?: ReactNode;
}) {
  const admin = useAccess('admin');
  const looks = useAccess('any role');
  const audits = useAccess('auditing');
  const tabs: readonly (readonly [string, string, boolean])[] = [
    ['accounts', 'Accounts', admin],
    ['sessions', 'Sessions', admin],
    ['tokens', 'Tokens', admin],
    ['switch-accounts', 'Switch accounts', looks],
    ['secrets', 'Secrets', looks],
    ['audit', 'Audit log', audits],
    ['settings', 'Settings', admin],
  ];
  return (
    <Page
      title={title}
      sub={sub}
      flush
      actions={actions}
      aside={aside}
      asideLabel={title}
      tabs={
        <Tabs aria-label="Pages of access">
          {tabs.map(
            ([to, name, may]) =>
              may && (
                <NavLink key={to} to={`/access/${to}`}>
                  {name}
                </NavLink>
              ),
          )}
        </Tabs>
      }
    >
      {children}
    </Page>
  );
}
