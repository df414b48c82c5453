import type { User } from '@anthemion/contract';
import { lazy, Suspense, useEffect, useState } from 'react';
import { Button as AriaButton } from 'react-aria-components';
import { NavLink, Outlet, useLocation, useNavigate } from 'react-router';
import { styled } from 'styled-components';
import { Failure, Waiting } from '../parts/basics.tsx';
import { Emblem } from '../parts/Emblem.tsx';
import { rolesText } from './rolesText.ts';
import { api, problemOf } from './api.ts';
import { Margin } from './Margin.tsx';
import { ProofLine } from './ProofLine.tsx';
import { SECTIONS } from './sections.ts';
import { useEventStream } from './eventStream.ts';
import { usePresence } from './usePresence.ts';
import { WaitMark } from './WaitMark.tsx';
import { useAppSelector } from './store.ts';
import { mono, serif, token } from '../parts/theme.ts';

// What is not there at the first glance is loaded when it is first wanted.
const CommandPalette = lazy(() => import('./CommandPalette.tsx').then((m) => ({ default: m.CommandPalette })));
const KeysDialog = lazy(() => import('./KeysDialog.tsx').then((m) => ({ default: m.KeysDialog })));
const OpenChangeDialog = lazy(() => import('./OpenChangeDialog.tsx').then((m) => ({ default: m.OpenChangeDialog })));
const UserMenu = lazy(() => import('./UserMenu.tsx').then((m) => ({ default: m.UserMenu })));
const SignIn = lazy(() => import('../pages/signin/SignIn.tsx').then((m) => ({ default: m.SignIn })));
const SetOwnPassword = lazy(() => import('../pages/signin/SignIn.tsx').then((m) => ({ default: m.SetOwnPassword })));
const NoRole = lazy(() => import('../pages/signin/SignIn.tsx').then((m) => ({ default: m.NoRole })));

const G_WINDOW_MS = 900;

/** The sheet everything is drawn on: band, margin, work, proof line. */
export function Sheet() {
  const session = api.useSessionQuery();
  const [palette, setPalette] = useState(false);
  const [keys, setKeys] = useState(false);
  const pending = useAppSelector((s) => s.work.pending !== null);
  const navigate = useNavigate();
  const { pathname } = useLocation();
  /** Who was signed in last on this page: where their session ends, what they typed stays behind the sign-in. */
  const [known, setKnown] = useState<User | null>(null);
  const now = session.data?.user ?? null;
  if (now && now !== known) setKnown(now);
  const working = now !== null && session.data?.mustChange !== true && rolesText(now) !== '';
  useEventStream(working);
  usePresence(working);

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

  if (session.isError && !session.data)
    return (
      <main style={{ padding: 40 }}>
        <Failure detail={problemOf(session.error).detail} onRetry={() => void session.refetch()} />
      </main>
    );
  if (!session.data) return <Waiting what="Opening" />;
  const user = now ?? known;
  const alone = !user ? (
    <SignIn session={session.data} />
  ) : session.data.mustChange ? (
    <SetOwnPassword name={user.fullName} />
  ) : now && rolesText(now) === '' ? (
    <NoRole name={now.fullName} />
  ) : null;
  if (alone || !user) return <Suspense fallback={<Waiting what="Opening" />}>{alone}</Suspense>;
  const bare = /^\/(access|you)(\/|$)/.test(pathname);
  return (
    <>
      <Grid inert={!now}>
        <SkipLink href="#work">Skip to the work</SkipLink>
        <Band>
          <NavLink to="/" className="brand" end>
            <Emblem />
            Anthemion
            <WaitMark />
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
          <Suspense fallback={<span style={{ width: 30 }} />}>
            <UserMenu
              name={user.fullName}
              roles={rolesText(user)}
              onOut={() => setKnown(null)}
              onKeys={() => setKeys(true)}
            />
          </Suspense>
        </Band>
        {!bare && <Margin />}
        <Work $bare={bare}>
          <Suspense fallback={<Waiting />}>
            <Outlet />
          </Suspense>
        </Work>
        <ProofLine />
        <Suspense fallback={null}>
          <CommandPalette
            isOpen={palette}
            onClose={() => setPalette(false)}
            onKeys={() => setKeys(true)}
            onOut={() => setKnown(null)}
          />
          {keys && <KeysDialog isOpen onClose={() => setKeys(false)} />}
          {pending && <OpenChangeDialog />}
        </Suspense>
      </Grid>
      {!now && (
        <Over role="dialog" aria-modal aria-label="Sign in again">
          <Suspense fallback={null}>
            <SignIn session={session.data} again={user} />
          </Suspense>
        </Over>
      )}
    </>
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
  /* What is drawn for readers only stays inside, and lengthens no page. */
  position: relative;
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
const Work = styled.div<{ $bare: boolean }>`
  min-height: 0;
  min-width: 0;
  ${(p) => p.$bare && 'grid-column: 1 / 3;'}
`;
