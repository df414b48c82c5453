import { useState } from 'react';
import { NavLink, useParams, useSearchParams } from 'react-router';
import { api } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { Button, Faded } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { rolesText } from '../../app/rolesText.ts';
import { SaidOnce } from '../access/SaidOnce.tsx';
import { SessionList } from '../access/SessionList.tsx';
import { TokenList } from '../access/TokenList.tsx';
import { Tabs } from '../fabric/FabricFrame.tsx';
import { OwnPassword } from '../signin/OwnPassword.tsx';
import { NewToken } from './NewToken.tsx';

/** One's own sessions, tokens and password. */
export function You() {
  const user = api.useSessionQuery().data?.user;
  const at = useParams()['part'] ?? 'sessions';
  const [params, setParams] = useSearchParams();
  const making = params.get('new') !== null;
  const setMaking = (on: boolean): void => setParams(on ? { new: '1' } : {});
  const [made, setMade] = useState<string | null>(null);
  const add = (
    <Button $kind="main" onPress={() => setMaking(true)}>
      New token
    </Button>
  );
  return (
    <Page
      title={user?.fullName ?? 'You'}
      sub={user && (rolesText(user) || 'no role yet; ask who keeps the accounts')}
      flush
      tabs={
        <Tabs aria-label="Your pages">
          <NavLink to="/you/sessions">Sessions</NavLink>
          <NavLink to="/you/tokens">Tokens</NavLink>
          <NavLink to="/you/password">Password</NavLink>
        </Tabs>
      }
    >
      {at === 'sessions' && <SessionList whose="own" />}
      {at === 'tokens' && <TokenList whose="own" actions={add} />}
      {at === 'password' && (
        <div style={{ maxWidth: 420, padding: '16px 0' }}>
          <Faded as="p" style={{ marginBottom: 14 }}>
            Your other sessions end when you set a new one.
          </Faded>
          <OwnPassword />
        </div>
      )}
      <Dialog title="New token" isOpen={making} onClose={() => setMaking(false)}>
        <NewToken onClose={() => setMaking(false)} onMade={setMade} />
      </Dialog>
      <SaidOnce title="Your new token" word={made} onClose={() => setMade(null)}>
        A script sends it as “Authorization: Bearer …”. Keep it where the script keeps its secrets.
      </SaidOnce>
    </Page>
  );
}
