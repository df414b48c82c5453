import { accountRequest, type AccountAnswer, type AccountRequest } from '@anthemion/contract';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { accessApi } from '../../app/accessApi.ts';
import { notTaken, problemOf } from '../../app/api.ts';
import { Button, Empty, Faded, Failure, Mono, Row, Waiting } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Form, FormButtons, TextField, useFormPart } from '../../parts/Form.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { ago } from '../../parts/times.ts';
import { AccessPage } from './AccessPage.tsx';
import { rolesText } from '../../app/rolesText.ts';
import { AccountNotes } from './AccountNotes.tsx';
import { Roles } from './RolesField.tsx';
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
      <Dialog title="New account" isOpen={params.get('new') !== null} onClose={() => setParams({})}>
        <NewAccount onClose={() => setParams({})} onGiven={setGiven} />
      </Dialog>
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

function NewAccount({ onClose, onGiven }: { readonly onClose: () => void; readonly onGiven: Given }) {
  const [make] = accessApi.useMakeUserMutation();
  const part = useFormPart<AccountRequest>({
    schema: accountRequest,
    initial: { name: '', fullName: '', roles: [], bound: {} },
    keep: 'a new account',
  });
  const cancel = (): void => {
    part.forget();
    onClose();
  };
  return (
    <Form
      part={part}
      onSend={async (values) => {
        const made = await make(values);
        if (!made.data) return notTaken(made);
        onClose();
        onGiven(made.data);
        return null;
      }}
      buttons={<FormButtons yes="Make the account" onNo={cancel} />}
    >
      <Faded>It has no role until it is given one, so at first it opens nothing.</Faded>
      <TextField name="name" label="Account" autoFocus placeholder="marit" />
      <TextField name="fullName" label="Full name" placeholder="Marit Sund" />
    </Form>
  );
}
