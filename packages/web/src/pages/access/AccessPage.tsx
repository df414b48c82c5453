import type { ReactNode } from 'react';
import { NavLink } from 'react-router';
import { api } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { pagesOfAccess } from '../../app/sections.ts';
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
  const user = api.useSessionQuery().data?.user ?? null;
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
          {pagesOfAccess(user).map(({ to, name }) => (
            <NavLink key={to} to={to}>
              {name}
            </NavLink>
          ))}
        </Tabs>
      }
    >
      {children}
    </Page>
  );
}
