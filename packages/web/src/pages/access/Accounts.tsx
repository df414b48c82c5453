import type { AccountAnswer } from '@anthemion/contract';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { accessApi } from '../../app/accessApi.ts';
import { problemOf } from '../../app/api.ts';
import { Button, Cap, Empty, Facts, Faded, Failure, H3, Mono, Note, Row, Stack, Waiting } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { errorAt, Leftovers, leftOver, TextInput, Tick } from '../../parts/fields.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { ago, dated } from '../../parts/times.ts';
import { useSave } from '../../app/useSave.ts';
import { AccessPage } from './AccessPage.tsx';
import { rolesText } from '../../app/rolesText.ts';
import { RolePicker, Roles } from './RolePicker.tsx';
import { SaidOnce } from './SaidOnce.tsx';

const stateOf = (u: AccountAnswer): string =>
  u.disabled ? 'disabled' : u.mustChange ? 'password given out' : rolesText(u) === '' ? 'no role yet' : 'in use';

const COLUMNS: TableColumn<AccountAnswer>[] = [
  { id: 'name', title: 'Account', text: (u) => u.name, cell: (u) => <Mono>{u.name}</Mono>, width: '16%' },
  { id: 'full', title: 'Full name', text: (u) => u.fullName, cell: (u) => <b>{u.fullName}</b>, width: '20%' },
  { id: 'roles', title: 'Roles', text: rolesText, cell: (u) => <Roles of={u} />, width: '34%' },
  {
    id: 'state',
    title: 'State',
    text: stateOf,
    cell: (u) => (
      <Row $gap={6}>
        <StateMark
          mood={u.disabled ? 'folded' : u.mustChange ? 'dewed' : rolesText(u) === '' ? 'bud' : 'bloom'}
          size={12}
        />{' '}
        {stateOf(u)}
      </Row>
    ),
    width: '18%',
  },
  { id: 'seen', title: 'Seen', text: (u) => u.seenAt ?? '', cell: (u) => (u.seenAt ? ago(u.seenAt) : 'not now') },
];

/** Who may sign in, and what they may do. */
export function Accounts() {
  const users = accessApi.useUsersQuery();
  const [params, setParams] = useSearchParams();
  const [given, setGiven] = useState<{ name: string; password: string } | null>(null);
  const picked = users.data?.find((u) => u.name === params.get('at'));
  return (
    <AccessPage
      title="Accounts"
      sub={users.data && `${users.data.length}, ${users.data.filter((u) => u.disabled).length} disabled`}
      aside={picked && <AccountNotes key={picked.name} u={picked} onGiven={setGiven} onGone={() => setParams({})} />}
    >
      {users.isError && <Failure detail={problemOf(users.error).detail} onRetry={() => void users.refetch()} />}
      {users.isLoading && <Waiting />}
      {users.data && (
        <DataTable
          label="Accounts"
          rows={users.data}
          columns={COLUMNS}
          rowKey={(u) => u.name}
          selected={picked?.name}
          onSelect={(u) => setParams({ at: u.name })}
          actions={
            <Button $kind="main" onPress={() => setParams({ new: '1' })}>
              New account
            </Button>
          }
          empty={<Empty title="No accounts">Whoever is to sign in gets an account here.</Empty>}
        />
      )}
      <NewAccount isOpen={params.get('new') !== null} onClose={() => setParams({})} onGiven={setGiven} />
      <SaidOnce
        title={`First password of ${given?.name ?? ''}`}
        word={given?.password ?? null}
        onClose={() => setGiven(null)}
      >
        Give it to the person it is for. It only opens the door to set a password of their own.
      </SaidOnce>
    </AccessPage>
  );
}

type Given = (to: { name: string; password: string }) => void;

function NewAccount({
  isOpen,
  onClose,
  onGiven,
}: {
  readonly isOpen: boolean;
  readonly onClose: () => void;
  readonly onGiven: Given;
}) {
  const [name, setName] = useState('');
  const [fullName, setFullName] = useState('');
  const [make, { isLoading }] = accessApi.useMakeUserMutation();
  const { findings, save, clear } = useSave();
  const close = (): void => {
    setName('');
    setFullName('');
    clear();
    onClose();
  };
  const submit = async (): Promise<void> => {
    const made = await save(make({ name, fullName, roles: [], bound: {} }), '');
    if (!made) return;
    close();
    onGiven(made.data);
  };
  return (
    <Dialog title="New account" isOpen={isOpen} onClose={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void submit();
        }}
      >
        <Stack $gap={12}>
          <Faded>It has no role until it is given one, so at first it opens nothing.</Faded>
          <TextInput
            label="Account"
            value={name}
            onChange={setName}
            autoFocus
            placeholder="marit"
            error={errorAt(findings, 'name')}
          />
          <TextInput
            label="Full name"
            value={fullName}
            onChange={setFullName}
            placeholder="Marit Sund"
            error={errorAt(findings, 'fullName')}
          />
          <Leftovers findings={leftOver(findings, 'name', 'fullName')} />
          <Row>
            <Button type="submit" $kind="main" isDisabled={isLoading}>
              Make the account
            </Button>
            <Button onPress={close}>Cancel</Button>
          </Row>
        </Stack>
      </form>
    </Dialog>
  );
}

function AccountNotes({
  u,
  onGiven,
  onGone,
}: {
  readonly u: AccountAnswer;
  readonly onGiven: Given;
  readonly onGone: () => void;
}) {
  const { fullName, roles, bound, admin } = u;
  const [form, setForm] = useState({ fullName, roles, bound, admin });
  const [asking, setAsking] = useState<'reset' | 'delete' | null>(null);
  const [patch, { isLoading }] = accessApi.usePatchUserMutation();
  const [reset] = accessApi.useResetUserMutation();
  const [remove] = accessApi.useDeleteUserMutation();
  const { findings, save } = useSave();
  const changed = JSON.stringify(form) !== JSON.stringify({ fullName, roles, bound, admin });
  const put = (disabled: boolean, said: string): Promise<unknown> =>
    save(patch({ name: u.name, ...form, disabled }), said);
  const doAsked = async (): Promise<void> => {
    if (asking === 'reset') {
      const made = await save(reset(u.name), '');
      if (made) onGiven(made.data);
    } else if (await save(remove(u.name), `${u.name} is deleted`)) onGone();
    setAsking(null);
  };
  return (
    <>
      <Cap>Account</Cap>
      <H3>{u.name}</H3>
      {u.disabled && <Note $tone="wait">It is disabled: nobody can sign in with it, and its tokens do not count.</Note>}
      {u.mustChange && !u.disabled && (
        <Note $tone="wait">Its password was given out and has not been changed yet.</Note>
      )}
      <Facts>
        <dt>Made</dt>
        <dd>{u.madeAt === '' ? 'long ago' : dated(u.madeAt)}</dd>
        <dt>Password of</dt>
        <dd>{u.passwordAt === '' ? 'long ago' : dated(u.passwordAt)}</dd>
      </Facts>
      <TextInput
        label="Full name"
        value={form.fullName}
        onChange={(to) => setForm({ ...form, fullName: to })}
        error={errorAt(findings, 'fullName')}
      />
      <RolePicker value={form} onChange={(to) => setForm({ ...form, ...to })} />
      <Tick
        label="Keeps accounts and settings"
        value={form.admin}
        onChange={(to) => setForm({ ...form, admin: to })}
        hint="Can give any role to anybody"
      />
      <Leftovers findings={leftOver(findings, 'fullName')} />
      <Row>
        <Button
          $kind="main"
          isDisabled={!changed || isLoading}
          onPress={() => void put(u.disabled, 'It counts from now on')}
        >
          Change
        </Button>
        <Button
          onPress={() =>
            void put(!u.disabled, u.disabled ? `${u.name} can sign in again` : `${u.name} is disabled and signed out`)
          }
        >
          {u.disabled ? 'Enable' : 'Disable'}
        </Button>
      </Row>
      <Row $wrap>
        <Button onPress={() => setAsking('reset')}>New password …</Button>
        <Button $kind="danger" onPress={() => setAsking('delete')}>
          Delete …
        </Button>
      </Row>
      <Dialog
        title={asking === 'delete' ? `Delete ${u.name}` : `A new password for ${u.name}`}
        isOpen={asking !== null}
        onClose={() => setAsking(null)}
      >
        <p>
          {asking === 'delete'
            ? 'Its sessions and tokens end. What it did stays in the history and in the audit log under this name.'
            : 'The present password stops counting, and every session of it ends. You are shown a new one to hand over.'}
        </p>
        <Row style={{ marginTop: 14 }}>
          <Button $kind={asking === 'delete' ? 'danger' : 'main'} onPress={() => void doAsked()}>
            {asking === 'delete' ? 'Delete it' : 'Give a new password'}
          </Button>
          <Button onPress={() => setAsking(null)}>Cancel</Button>
        </Row>
      </Dialog>
    </>
  );
}
