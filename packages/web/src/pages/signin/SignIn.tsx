import {
  firstAccountRequest,
  signInRequest,
  type FirstAccountRequest,
  type SessionAnswer,
  type User,
} from '@anthemion/contract';
import { styled } from 'styled-components';
import { api, notTaken } from '../../app/api.ts';
import { serif, token } from '../../parts/theme.ts';
import { Button, Cap, Faded, Mono } from '../../parts/basics.tsx';
import { Emblem } from '../../parts/Emblem.tsx';
import { Form, FormButtons, TextField, useFormPart, type NotTaken } from '../../parts/Form.tsx';
import { useAppDispatch } from '../../app/store.ts';
import { OwnPassword } from './OwnPassword.tsx';

/** Sign-in, or at the very first start the first account. `again`: who was signed in until their session ended. */
export function SignIn({ session, again }: { readonly session: SessionAnswer; readonly again?: User }) {
  const dispatch = useAppDispatch();
  const { firstStart } = session;
  // What is typed here is never kept: it is a secret.
  const part = useFormPart<FirstAccountRequest>({
    schema: firstStart ? firstAccountRequest : signInRequest,
    initial: {
      ...(firstStart ? { code: '', fullName: '' } : {}),
      name: again?.name ?? '',
      password: '',
    } as FirstAccountRequest,
  });
  const [signIn] = api.useSignInMutation();
  const [firstAccount] = api.useFirstAccountMutation();
  const enter = async ({ name, password, ...first }: FirstAccountRequest): Promise<NotTaken | null> => {
    const no = notTaken(
      firstStart ? await firstAccount({ name, password, ...first }) : await signIn({ name, password }),
    );
    if (no === null && again && again.name !== name) dispatch(api.util.resetApiState());
    return no;
  };
  const enterAs = (who: { readonly name: string; readonly password: string }): void => {
    part.rhf.setValue('name', who.name);
    part.rhf.setValue('password', who.password);
    void part.submit(enter);
  };
  return (
    <Screen>
      <Card>
        <Emblem size={64} />
        <h1>Anthemion</h1>
        <Faded>
          {firstStart
            ? 'Nobody has an account yet. Yours will be the first; it keeps the others.'
            : again
              ? 'Your session has ended. Sign in again and go on where you were; what you typed is still there.'
              : 'Design, prove and roll out data-centre fabrics.'}
        </Faded>
        <Form
          part={part}
          onSend={enter}
          buttons={<FormButtons yes={firstStart ? 'Make the first account' : 'Sign in'} />}
        >
          {firstStart && (
            <TextField
              name="code"
              label="Code"
              autoFocus
              hint="The server has printed it where it was started, or in its journal"
              isRequired
            />
          )}
          <TextField name="name" label="Account" autoFocus={!firstStart && !again} isRequired />
          {firstStart && <TextField name="fullName" label="Full name" isRequired />}
          <TextField
            name="password"
            label="Password"
            type="password"
            {...(firstStart ? { hint: '15 characters or more; a few words that do not belong together' } : {})}
            isRequired
          />
        </Form>
        {session.demoAccounts.length > 0 && (
          <Demo>
            <Cap>Demo accounts</Cap>
            {session.demoAccounts.map((a) => (
              <button key={a.name} onClick={() => enterAs(a)}>
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
