import type { InventoryAnswer } from '@anthemion/contract';
import { useState } from 'react';
import { accessApi } from '../../app/accessApi.ts';
import { api } from '../../app/api.ts';
import { Button, Faded, Mono, Note, Row, Stack } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Choice, errorAt, FormGrid, Leftovers, leftOver, TextInput, Tick } from '../../parts/fields.tsx';
import { useSave } from '../../parts/useSave.ts';

/** The key a switch shows where nobody has accepted it: nothing is sent to it before somebody does. */
export function KeyNote({ s, may }: { readonly s: InventoryAnswer; readonly may: boolean }) {
  const [accept, { isLoading }] = api.useAcceptKeysMutation();
  const [read] = api.useReadSwitchMutation();
  const { save } = useSave();
  const yes = async (): Promise<void> => {
    if (await save(accept([{ serial: s.serial, key: s.seenKey! }]), `${s.serial} is known by this key now`))
      await save(read(s.serial), '');
  };
  return (
    <Note $tone={s.hostKey === null ? 'wait' : 'bad'}>
      {s.hostKey === null
        ? 'It shows a host key for the first time: '
        : 'It shows another host key than the accepted one: '}
      <Mono style={{ overflowWrap: 'anywhere' }}>{s.seenKey}</Mono>.{' '}
      {s.hostKey === null
        ? 'Compare it with what its console says.'
        : 'Was it replaced or set up anew? If not, somebody else may be answering.'}
      {may && (
        <Row style={{ marginTop: 6 }}>
          <Button $kind={s.hostKey === null ? 'quiet' : 'danger'} onPress={() => void yes()} isDisabled={isLoading}>
            Accept this key
          </Button>
        </Row>
      )}
    </Note>
  );
}

/** Accepts the keys of several switches at once, each by name. */
export function HostKeysDialog({
  isOpen,
  waiting,
  onClose,
}: {
  readonly isOpen: boolean;
  readonly waiting: readonly InventoryAnswer[];
  readonly onClose: () => void;
}) {
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [accept, { isLoading }] = api.useAcceptKeysMutation();
  const { findings, save } = useSave();
  const chosen = waiting.filter((s) => !left.has(s.serial));
  const submit = async (): Promise<void> => {
    const done = await save(
      accept(chosen.map((s) => ({ serial: s.serial, key: s.seenKey! }))),
      `${chosen.length} ${chosen.length === 1 ? 'key is' : 'keys are'} accepted`,
    );
    if (done) onClose();
  };
  return (
    <Dialog title="Host keys to accept" isOpen={isOpen} onClose={onClose} width={680}>
      <Stack $gap={10}>
        <Faded>
          Nothing is sent to these switches before. Compare each key with what the console of the switch says
          (ssh-keygen -l).
        </Faded>
        {waiting.map((s) => (
          <div key={s.serial}>
            <Tick
              label={`${s.serial} at ${s.address}:${s.port}${s.hostKey === null ? '' : ' — another key than before'}`}
              value={!left.has(s.serial)}
              onChange={(on) => setLeft(new Set(on ? [...left].filter((x) => x !== s.serial) : [...left, s.serial]))}
            />
            <Mono style={{ paddingLeft: 24, overflowWrap: 'anywhere' }}>{s.seenKey}</Mono>
          </div>
        ))}
        {waiting.length === 0 && <p>No key waits.</p>}
        <Leftovers findings={findings} />
        <Row>
          <Button $kind="main" isDisabled={isLoading || chosen.length === 0} onPress={() => void submit()}>
            Accept {chosen.length} {chosen.length === 1 ? 'key' : 'keys'}
          </Button>
          <Button onPress={onClose}>Cancel</Button>
        </Row>
      </Stack>
    </Dialog>
  );
}

/** Where a switch answers, and with which account it is signed in to. */
export function PlaceDialog({
  s,
  isOpen,
  onClose,
}: {
  readonly s: InventoryAnswer;
  readonly isOpen: boolean;
  readonly onClose: () => void;
}) {
  const { data: accounts = [] } = accessApi.useSwitchAccountsQuery(undefined, { skip: !isOpen });
  const [form, setForm] = useState({
    address: s.address,
    port: String(s.port),
    location: s.location,
    account: s.account ?? '*',
  });
  const [patch, { isLoading }] = api.usePatchSwitchMutation();
  const { findings, save } = useSave();
  const submit = async (): Promise<void> => {
    const account = form.account === '*' ? null : form.account;
    const { address, location } = form;
    const done = await save(
      patch({ serial: s.serial, address, location, port: Number(form.port), account }),
      `${s.serial} is asked there from now on`,
    );
    if (done) onClose();
  };
  return (
    <Dialog title={`Where ${s.serial} answers`} isOpen={isOpen} onClose={onClose}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void submit();
        }}
      >
        <Stack $gap={12}>
          <FormGrid>
            <TextInput
              label="Address"
              value={form.address}
              onChange={(address) => setForm({ ...form, address })}
              code
              error={errorAt(findings, 'address')}
            />
            <TextInput
              label="Port"
              value={form.port}
              onChange={(port) => setForm({ ...form, port })}
              error={errorAt(findings, 'port')}
            />
            <TextInput
              label="Place"
              value={form.location}
              onChange={(location) => setForm({ ...form, location })}
              error={errorAt(findings, 'location')}
            />
            <Choice
              label="Account"
              value={form.account}
              onChange={(account) => setForm({ ...form, account })}
              options={[
                { id: '*', name: 'the one whose range fits' },
                ...accounts.map((a) => ({ id: a.name, name: a.name, note: a.ranges.join(', ') })),
              ]}
              error={errorAt(findings, 'account')}
            />
          </FormGrid>
          <Faded>
            Its accepted host key stays: what answers at the new address must show it, or wait for your yes.
          </Faded>
          <Leftovers findings={leftOver(findings, 'address', 'port', 'location', 'account')} />
          <Row>
            <Button type="submit" $kind="main" isDisabled={isLoading}>
              Change
            </Button>
            <Button onPress={onClose}>Cancel</Button>
          </Row>
        </Stack>
      </form>
    </Dialog>
  );
}
