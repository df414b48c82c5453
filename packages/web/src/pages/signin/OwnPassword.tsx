import { useState } from 'react';
import { accessApi } from '../../app/accessApi.ts';
import { Button, Row, Stack } from '../../parts/basics.tsx';
import { errorAt, Leftovers, leftOver, TextInput } from '../../parts/fields.tsx';
import { useSave } from '../../parts/useSave.ts';

/** Sets one's own password; the present one is asked again. */
export function OwnPassword({ onDone, given = false }: { readonly onDone?: () => void; readonly given?: boolean }) {
  const [current, setCurrent] = useState('');
  const [password, setPassword] = useState('');
  const [again, setAgain] = useState('');
  const [change, { isLoading }] = accessApi.useChangePasswordMutation();
  const { findings, save } = useSave();
  const differ = again !== '' && again !== password;
  const submit = async (): Promise<void> => {
    if (differ || !(await save(change({ current, password }), 'The new password counts from now on'))) return;
    setCurrent('');
    setPassword('');
    setAgain('');
    onDone?.();
  };
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        void submit();
      }}
    >
      <Stack $gap={12}>
        <TextInput
          label={given ? 'The password you were given' : 'Present password'}
          type="password"
          value={current}
          onChange={setCurrent}
          error={errorAt(findings, 'current')}
          autoFocus={given}
        />
        <TextInput
          label="New password"
          type="password"
          value={password}
          onChange={setPassword}
          hint="15 characters or more: a few words that do not belong together"
          error={errorAt(findings, 'password')}
        />
        <TextInput
          label="New password again"
          type="password"
          value={again}
          onChange={setAgain}
          error={differ ? 'The two differ.' : undefined}
        />
        <Leftovers findings={leftOver(findings, 'current', 'password')} />
        <Row>
          <Button type="submit" $kind="main" isDisabled={isLoading || password === '' || again !== password}>
            Set it
          </Button>
        </Row>
      </Stack>
    </form>
  );
}
