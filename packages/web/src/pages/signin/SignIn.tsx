import type { SessionAnswer, User } from '@anthemion/contract';
import type { Finding } from '@anthemion/core';
import { useState } from 'react';
import { styled } from 'styled-components';
import { api, problemOf } from '../../app/api.ts';
import { serif, token } from '../../parts/theme.ts';
import { Button, Cap, Faded, Mono, Stack } from '../../parts/basics.tsx';
import { Emblem } from '../../parts/Emblem.tsx';
import { errorAt, Leftovers, TextInput } from '../../parts/fields.tsx';
import { useAppDispatch } from '../../app/store.ts';
import { OwnPassword } from './OwnPassword.tsx';

/** Sign-in, or at the very first start the first account. `again`: who was signed in until their session ended. */
export function SignIn({ session, again }: { readonly session: SessionAnswer; readonly again?: User }) {
  const dispatch = useAppDispatch();
  const [name, setName] = useState(again?.name ?? '');
  const [fullName, setFullName] = useState('');
  const [password, setPassword] = useState('');
  const [code, setCode] = useState('');
  const [findings, setFindings] = useState<readonly Finding[]>([]);
  const [detail, setDetail] = useState('');
  const [signIn, signing] = api.useSignInMutation();
  const [firstAccount, making] = api.useFirstAccountMutation();
  const submit = async (who = name, word = password): Promise<void> => {
    const result = session.firstStart
      ? await firstAccount({ code, name: who, password: word, fullName })
      : await signIn({ name: who, password: word });
    if ('error' in result) {
      const p = problemOf(result.error);
      setFindings(p.findings);
      setDetail(p.findings.length === 0 ? p.detail : '');
    } else if (again && again.name !== who) dispatch(api.util.resetApiState());
  };
  return (
    <Screen>
      <Card>
        <Emblem size={64} />
        <h1>Anthemion</h1>
        <Faded>
          {session.firstStart
            ? 'Nobody has an account yet. Yours will be the first; it keeps the others.'
            : again
              ? 'Your session has ended. Sign in again and go on where you were; what you typed is still there.'
              : 'Design, prove and roll out data-centre fabrics.'}
        </Faded>
        <form
          onSubmit={(e) => {
            e.preventDefault();
            void submit();
          }}
        >
          <Stack $gap={12}>
            {session.firstStart && (
              <TextInput
                label="Code"
                value={code}
                onChange={setCode}
                autoFocus
                hint="The server has printed it where it was started, or in its journal"
                error={errorAt(findings, 'code')}
                isRequired
              />
            )}
            <TextInput
              label="Account"
              value={name}
              onChange={setName}
              autoFocus={!session.firstStart && !again}
              error={errorAt(findings, 'name')}
              isRequired
            />
            {session.firstStart && (
              <TextInput
                label="Full name"
                value={fullName}
                onChange={setFullName}
                error={errorAt(findings, 'fullName')}
                isRequired
              />
            )}
            <TextInput
              label="Password"
              type="password"
              value={password}
              onChange={setPassword}
              {...(session.firstStart
                ? { hint: '15 characters or more; a few words that do not belong together' }
                : {})}
              error={errorAt(findings, 'password')}
              isRequired
            />
            <Leftovers findings={[]} detail={detail} />
            <Button type="submit" $kind="main" isDisabled={signing.isLoading || making.isLoading}>
              {session.firstStart ? 'Make the first account' : 'Sign in'}
            </Button>
          </Stack>
        </form>
        {session.demoAccounts.length > 0 && (
          <Demo>
            <Cap>Demo accounts</Cap>
            {session.demoAccounts.map((a) => (
              <button key={a.name} onClick={() => void submit(a.name, a.password)}>
                <b>{a.fullName}</b> <span>{a.roles.join(', ')}</span>
                <Mono>
                  {a.name} / {a.password}
                </Mono>
              </button>
            ))}
          </Demo>
        )}
      </Card>
    </Screen>
  );
}
/** For a password that somebody else gave out: nothing else opens before one's own is set. */
export function SetOwnPassword({ name }: { readonly name: string }) {
  const dispatch = useAppDispatch();
  const [signOut] = api.useSignOutMutation();
  return (
    <Screen>
      <Card>
        <Emblem size={64} />
        <h1>Welcome, {name.split(' ')[0]}</h1>
        <Faded>Your password was given out to you. Set one that only you know, and go on.</Faded>
        <div style={{ width: '100%', textAlign: 'left', marginTop: 14 }}>
          <OwnPassword given />
        </div>
        <Button onPress={() => void signOut().then(() => dispatch(api.util.resetApiState()))}>Sign out</Button>
      </Card>
    </Screen>
  );
}

/** Signed in, and nothing to do yet: looks again now and then whether a role was given. */
export function NoRole({ name }: { readonly name: string }) {
  const dispatch = useAppDispatch();
  const [signOut] = api.useSignOutMutation();
  api.useSessionQuery(undefined, { pollingInterval: LOOK_AGAIN_MS });
  return (
    <Screen>
      <Card>
        <Emblem size={64} />
        <h1>Welcome, {name.split(' ')[0]}</h1>
        <Faded>
          Your account has no role yet, so there is nothing it may look at. Ask who keeps the accounts; this page goes
          on by itself as soon as you have one.
        </Faded>
        <Button style={{ marginTop: 14 }} onPress={() => void signOut().then(() => dispatch(api.util.resetApiState()))}>
          Sign out
        </Button>
      </Card>
    </Screen>
  );
}
const LOOK_AGAIN_MS = 10_000;

const Screen = styled.main`
  min-height: 100vh;
  display: grid;
  place-items: center;
  padding: 24px;
`;
const Card = styled.div`
  width: 380px;
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 8px;
  text-align: center;
  h1 {
    font: 500 34px ${serif};
  }
  form {
    width: 100%;
    text-align: left;
    margin-top: 14px;
  }
`;
const Demo = styled.div`
  margin-top: 22px;
  border-top: 1px solid ${token('rule')};
  padding-top: 14px;
  width: 100%;
  display: flex;
  flex-direction: column;
  gap: 4px;
  text-align: left;
  button {
    all: unset;
    display: grid;
    grid-template-columns: 1fr auto;
    padding: 6px 8px;
    border-radius: 4px;
    cursor: pointer;
    font-size: 13px;
    span:not([class]) {
      color: ${token('faded')};
    }
  }
  button > :last-child {
    grid-column: 1 / 3;
    color: ${token('faded')};
  }
  button:hover {
    background: ${token('sheet')};
  }
  button:focus-visible {
    outline: 2px solid ${token('verdigris')};
  }
`;
