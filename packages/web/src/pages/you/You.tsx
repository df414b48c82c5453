import { ROLES, type Role } from '@anthemion/contract';
import { useState } from 'react';
import { NavLink, useParams } from 'react-router';
import { accessApi } from '../../app/accessApi.ts';
import { api } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { Button, Faded, Row, Stack } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Choice, errorAt, Leftovers, leftOver, TextInput, Tick } from '../../parts/fields.tsx';
import { useSave } from '../../app/useSave.ts';
import { rolesText } from '../../app/rolesText.ts';
import { SaidOnce } from '../access/SaidOnce.tsx';
import { SessionList } from '../access/SessionList.tsx';
import { TokenList } from '../access/TokenList.tsx';
import { Tabs } from '../fabric/FabricFrame.tsx';
import { OwnPassword } from '../signin/OwnPassword.tsx';

/** One's own sessions, tokens and password. */
export function You() {
  const user = api.useSessionQuery().data?.user;
  const at = useParams()['part'] ?? 'sessions';
  const [making, setMaking] = useState(false);
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
      <NewToken isOpen={making} onClose={() => setMaking(false)} onMade={setMade} />
      <SaidOnce title="Your new token" word={made} onClose={() => setMade(null)}>
        A script sends it as “Authorization: Bearer …”. Keep it where the script keeps its secrets.
      </SaidOnce>
    </Page>
  );
}

const DAYS = ['1', '7', '30', '90', '365'];

function NewToken({
  isOpen,
  onClose,
  onMade,
}: {
  readonly isOpen: boolean;
  readonly onClose: () => void;
  readonly onMade: (token: string) => void;
}) {
  const user = api.useSessionQuery().data?.user;
  const { data: fabrics = [] } = api.useFabricsQuery();
  const [name, setName] = useState('');
  const [days, setDays] = useState('30');
  const [roles, setRoles] = useState<readonly Role[]>([]);
  const [only, setOnly] = useState('');
  const [make, { isLoading }] = accessApi.useMakeTokenMutation();
  const { findings, save } = useSave();
  const has = new Set([...(user?.roles ?? []), ...Object.values(user?.bound ?? {}).flat()]);
  const submit = async (): Promise<void> => {
    const made = await save(make({ name, roles, fabrics: only === '' ? [] : [only], days: Number(days) }), '');
    if (!made) return;
    setName('');
    setRoles([]);
    onClose();
    onMade(made.data.token);
  };
  return (
    <Dialog title="New token" isOpen={isOpen} onClose={onClose}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void submit();
        }}
      >
        <Stack $gap={12}>
          <TextInput
            label="Name"
            value={name}
            onChange={setName}
            autoFocus
            placeholder="nightly export"
            error={errorAt(findings, 'name')}
          />
          <div>
            <b>May</b>
            <Row $gap={16} $wrap>
              {ROLES.filter((r) => has.has(r) && r !== 'onlooker').map((role) => (
                <Tick
                  key={role}
                  label={role}
                  value={roles.includes(role)}
                  onChange={(on) => setRoles(on ? [...roles, role] : roles.filter((r) => r !== role))}
                />
              ))}
            </Row>
            <Faded>None = it only looks. It never has more than you have yourself.</Faded>
          </div>
          <Choice
            label="On"
            value={only === '' ? '*' : only}
            onChange={(f) => setOnly(f === '*' ? '' : f)}
            options={[{ id: '*', name: 'every fabric you see' }, ...fabrics.map((f) => ({ id: f.name, name: f.name }))]}
          />
          <Choice
            label="Ends after"
            value={days}
            onChange={setDays}
            options={DAYS.map((d) => ({ id: d, name: d === '1' ? '1 day' : `${d} days` }))}
            error={errorAt(findings, 'days')}
          />
          <Leftovers findings={leftOver(findings, 'name', 'days')} />
          <Row>
            <Button type="submit" $kind="main" isDisabled={isLoading}>
              Make the token
            </Button>
            <Button onPress={onClose}>Cancel</Button>
          </Row>
        </Stack>
      </form>
    </Dialog>
  );
}
