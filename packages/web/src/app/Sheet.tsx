import type { User } from '@anthemion/contract';
import { Suspense, useEffect, useState } from 'react';
import { Menu, MenuItem, MenuTrigger, Button as AriaButton, Separator } from 'react-aria-components';
import { NavLink, Outlet, useLocation, useNavigate } from 'react-router';
import { styled } from 'styled-components';
import { Failure, Waiting } from '../parts/basics.tsx';
import { Emblem } from '../parts/Emblem.tsx';
import { ChoicePopover } from '../parts/fields.tsx';
import { rolesText } from '../pages/access/RolePicker.tsx';
import { NoRole, SetOwnPassword, SignIn } from '../pages/signin/SignIn.tsx';
import { api, problemOf } from './api.ts';
import { CommandPalette } from './CommandPalette.tsx';
import { KeysDialog } from './KeysDialog.tsx';
import { Margin } from './Margin.tsx';
import { OpenChangeDialog } from './OpenChangeDialog.tsx';
import { ProofLine } from './ProofLine.tsx';
import { SECTIONS } from './sections.ts';
import { useAccess } from './session.ts';
import { sheetChosen, useAppDispatch, useAppSelector, type SheetChoice } from './store.ts';
import { mono, serif, token } from './theme.ts';

const G_WINDOW_MS = 900;
const SHEETS: readonly SheetChoice[] = ['system', 'limestone', 'basalt'];

/** The sheet everything is drawn on: band, margin, work, proof line. */
export function Sheet() {
  const session = api.useSessionQuery();
  const [palette, setPalette] = useState(false);
  const [keys, setKeys] = useState(false);
  const navigate = useNavigate();
  const { pathname } = useLocation();
  /** Who was signed in last on this page: where their session ends, what they typed stays behind the sign-in. */
  const [known, setKnown] = useState<User | null>(null);
  const now = session.data?.user ?? null;
  if (now && now !== known) setKnown(now);

  useEffect(() => {
    let g = 0;
    const onKey = (e: KeyboardEvent): void => {
      const target = e.target as HTMLElement;
      const typing = /INPUT|TEXTAREA|SELECT/.test(target.tagName) || target.isContentEditable;
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'k') {
        e.preventDefault();
        setPalette((open) => !open);
        return;
      }
      if (typing || e.ctrlKey || e.metaKey || e.altKey) return;
      if (e.key === '?') setKeys(true);
      const section = SECTIONS.find((s) => s.key === e.key);
      if (section && Date.now() - g < G_WINDOW_MS) void navigate(section.to);
      g = e.key === 'g' ? Date.now() : 0;
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [navigate]);

  if (session.isError)
    return (
      <main style={{ padding: 40 }}>
        <Failure detail={problemOf(session.error).detail} onRetry={() => void session.refetch()} />
      </main>
    );
  if (!session.data) return <Waiting what="Opening" />;
  const user = now ?? known;
  if (!user) return <SignIn session={session.data} />;
  if (session.data.mustChange) return <SetOwnPassword name={user.fullName} />;
  if (now && rolesText(now) === '') return <NoRole name={now.fullName} />;
  const bare = /^\/(access|you)(\/|$)/.test(pathname);
  return (
    <>
      <Grid inert={!now}>
        <SkipLink href="#work">Skip to the work</SkipLink>
        <Band>
          <NavLink to="/" className="brand" end>
            <Emblem />
            Anthemion
          </NavLink>
          <nav aria-label="Sections">
            {SECTIONS.map((s) => (
              <NavLink key={s.to} to={s.to}>
                {s.name}
              </NavLink>
            ))}
          </nav>
          <Find onPress={() => setPalette(true)}>
            Find or do anything <kbd>Ctrl K</kbd>
          </Find>
          <UserMenu
            name={user.fullName}
            roles={rolesText(user)}
            onOut={() => setKnown(null)}
            onKeys={() => setKeys(true)}
          />
        </Band>
        {!bare && <Margin />}
        <Work $bare={bare}>
          <Suspense fallback={<Waiting />}>
            <Outlet />
          </Suspense>
        </Work>
        <ProofLine />
        <CommandPalette isOpen={palette} onClose={() => setPalette(false)} />
        <KeysDialog isOpen={keys} onClose={() => setKeys(false)} />
        <OpenChangeDialog />
      </Grid>
      {!now && (
        <Over role="dialog" aria-modal aria-label="Sign in again">
          <SignIn session={session.data} again={user} />
        </Over>
      )}
    </>
  );
}

function UserMenu({
  name,
  roles,
  onKeys,
  onOut,
}: {
  readonly name: string;
  readonly roles: string;
  readonly onKeys: () => void;
  readonly onOut: () => void;
}) {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const sheet = useAppSelector((s) => s.preferences.sheet);
  const [signOut] = api.useSignOutMutation();
  const admin = useAccess('admin');
  const initials = name
    .split(' ')
    .map((w) => w[0])
    .join('')
    .slice(0, 2);
  return (
    <MenuTrigger>
      <Who aria-label={`${name}, ${roles}`}>{initials}</Who>
      <ChoicePopover>
        <MenuHead>
          <b>{name}</b>
          <span>{roles}</span>
        </MenuHead>
        <MenuList
          onAction={(key) => {
            if (key === 'out')
              void signOut().then(() => {
                onOut();
                dispatch(api.util.resetApiState());
              });
            else if (key === 'you') void navigate('/you/sessions');
            else if (key === 'access') void navigate(admin ? '/access/accounts' : '/access/switch-accounts');
            else if (key === 'keys') onKeys();
            else dispatch(sheetChosen(key as SheetChoice));
          }}
        >
          {SHEETS.map((s) => (
            <MenuItem id={s} key={s} textValue={s}>
              {sheet === s ? '● ' : '○ '}
              {s === 'system' ? 'Sheet as the system has it' : `${s[0]!.toUpperCase()}${s.slice(1)} sheet`}
            </MenuItem>
          ))}
          <Separator />
          <MenuItem id="keys">Keys of this page</MenuItem>
          <MenuItem id="you">Your sessions, tokens, password</MenuItem>
          <MenuItem id="access">{admin ? 'Accounts, access, audit log' : 'Switch accounts and secrets'}</MenuItem>
          <MenuItem id="out">Sign out</MenuItem>
        </MenuList>
      </ChoicePopover>
    </MenuTrigger>
  );
}

/** Lies over everything; what is below stays as it was left. */
const Over = styled.div`
  position: fixed;
  inset: 0;
  z-index: 40;
  overflow: auto;
  background: ${token('paper')};
`;
const Grid = styled.div`
  display: grid;
  grid-template: 48px minmax(0, 1fr) 34px / auto minmax(0, 1fr);
  height: 100vh;
  overflow: hidden;
`;
const SkipLink = styled.a`
  position: absolute;
  left: -999px;
  &:focus {
    left: 12px;
    top: 12px;
    z-index: 30;
    background: ${token('sheet')};
    padding: 6px 10px;
  }
`;
const Band = styled.header`
  grid-column: 1 / 3;
  display: flex;
  align-items: center;
  border-bottom: 1px solid ${token('rule')};
  padding: 0 18px;
  gap: 26px;
  background: ${token('sheet')};
  nav {
    display: flex;
    gap: 26px;
  }
  a {
    color: ${token('faded')};
    text-decoration: none;
    padding: 13px 0 11px;
    border-bottom: 3px solid transparent;
    white-space: nowrap;
  }
  nav a.active {
    color: ${token('ink')};
    border-bottom-color: ${token('verdigris')};
    font-weight: 600;
  }
  a:hover {
    color: ${token('ink')};
  }
  .brand {
    display: flex;
    gap: 9px;
    align-items: center;
    font: 600 19px ${serif};
    letter-spacing: 0.01em;
    margin-right: 14px;
    color: ${token('ink')};
    border: 0;
    padding: 8px 0;
  }
`;
const Find = styled(AriaButton)`
  margin-left: auto;
  border: 1px solid ${token('rule')};
  border-radius: 4px;
  padding: 5px 10px;
  width: 214px;
  color: ${token('faded')};
  background: ${token('paper')};
  display: flex;
  justify-content: space-between;
  font-size: 13px;
  cursor: pointer;
  kbd {
    font: 11px ${mono};
    border: 1px solid ${token('rule')};
    border-radius: 3px;
    padding: 0 4px;
    background: ${token('sheet')};
  }
`;
const Who = styled(AriaButton)`
  width: 30px;
  height: 30px;
  border: 0;
  border-radius: 50%;
  background: ${token('verdigris-wash')};
  color: ${token('verdigris')};
  font-weight: 600;
  font-size: 12px;
  cursor: pointer;
`;
const Work = styled.div<{ $bare: boolean }>`
  min-height: 0;
  min-width: 0;
  ${(p) => p.$bare && 'grid-column: 1 / 3;'}
`;
const MenuHead = styled.div`
  padding: 6px 10px 8px;
  display: flex;
  flex-direction: column;
  font-size: 13px;
  border-bottom: 1px solid ${token('rule-soft')};
  span {
    color: ${token('faded')};
  }
`;
const MenuList = styled(Menu)`
  outline: none;
  [role^='menuitem'] {
    padding: 6px 10px;
    font-size: 13px;
    border-radius: 3px;
    cursor: pointer;
    outline: none;
  }
  [role^='menuitem'][data-focused] {
    background: ${token('verdigris-wash')};
  }
  [role='separator'] {
    border-top: 1px solid ${token('rule-soft')};
    margin: 4px 0;
  }
`;
