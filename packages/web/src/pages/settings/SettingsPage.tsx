import { ROLES, type Role } from '@anthemion/contract';
import type { Finding } from '@anthemion/core';
import { useState } from 'react';
import { toast } from 'sonner';
import { api, problemOf } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { Button, Cap, Faded, Row, Stack } from '../../parts/basics.tsx';
import { errorAt, FormGrid, Leftovers, leftOver, TextInput, Tick } from '../../parts/fields.tsx';

/** Accounts, and whether a second person must approve. */
export function SettingsPage() {
  const { data: settings } = api.useSettingsQuery();
  const { data: users = [] } = api.useUsersQuery();
  const [putSettings] = api.usePutSettingsMutation();
  const [makeUser] = api.useMakeUserMutation();
  const [form, setForm] = useState({ name: '', fullName: '' });
  const [roles, setRoles] = useState<readonly Role[]>(['onlooker']);
  const [findings, setFindings] = useState<readonly Finding[]>([]);
  const save = async (): Promise<void> => {
    const result = await makeUser({ ...form, roles, bound: {} });
    if ('error' in result) {
      const p = problemOf(result.error);
      setFindings(p.findings);
      if (p.findings.length === 0) toast.error(p.detail);
    } else {
      setFindings([]);
      setForm({ name: '', fullName: '' });
      toast.success('The account is made');
    }
  };
  return (
    <Page title="Accounts and settings">
      <Stack $gap={16} style={{ maxWidth: 680, padding: '14px 0' }}>
        <Tick
          label="A second person must approve every change"
          value={settings?.secondPerson ?? false}
          onChange={(secondPerson) => void putSettings({ secondPerson })}
          hint="The author of a change cannot approve it"
        />
        <Cap>Accounts</Cap>
        {users.map((u) => (
          <Row key={u.name}>
            <b>{u.fullName}</b> <Faded>{u.name}</Faded>
            <span style={{ flex: 1 }} />
            {u.roles.join(', ')}
            {u.admin ? ', keeps accounts' : ''}
          </Row>
        ))}
        <Cap>A new account</Cap>
        <FormGrid>
          <TextInput
            label="Account"
            value={form.name}
            onChange={(name) => setForm({ ...form, name })}
            error={errorAt(findings, 'name')}
          />
          <TextInput
            label="Full name"
            value={form.fullName}
            onChange={(fullName) => setForm({ ...form, fullName })}
            error={errorAt(findings, 'fullName')}
          />
        </FormGrid>
        <Row $gap={18}>
          {ROLES.map((role) => (
            <Tick
              key={role}
              label={role}
              value={roles.includes(role)}
              onChange={(on) => setRoles(on ? [...roles, role] : roles.filter((x) => x !== role))}
            />
          ))}
        </Row>
        <Leftovers findings={leftOver(findings, 'name', 'fullName')} />
        <Row>
          <Button $kind="main" onPress={() => void save()}>
            Make the account
          </Button>
        </Row>
      </Stack>
    </Page>
  );
}
