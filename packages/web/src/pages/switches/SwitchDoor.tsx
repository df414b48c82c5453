import { switchPatch, type InventoryAnswer, type SwitchPatch } from '@anthemion/contract';
import { useState } from 'react';
import { accessApi } from '../../app/accessApi.ts';
import { api, notTaken } from '../../app/api.ts';
import { Button, Faded, Mono, Note, Row, Stack } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { FormGrid, Leftovers, Tick } from '../../parts/fields.tsx';
import { ChoiceField, Form, NumberField, TextField, useFormPart } from '../../parts/Form.tsx';
import { toast } from 'sonner';
import { useSave } from '../../app/useSave.ts';

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
  return (
    <Dialog title={`Where ${s.serial} answers`} isOpen={isOpen} onClose={onClose}>
      {isOpen && <PlaceForm s={s} onClose={onClose} />}
    </Dialog>
  );
}

/** Stands for “the one whose range fits”, which is no name. */
const BY_RANGE = '*';

function PlaceForm({ s, onClose }: { readonly s: InventoryAnswer; readonly onClose: () => void }) {
  const { data: accounts = [] } = accessApi.useSwitchAccountsQuery();
  const [patch] = api.usePatchSwitchMutation();
  const part = useFormPart<SwitchPatch>({
    schema: switchPatch,
    initial: { address: s.address, port: s.port, location: s.location, account: s.account ?? BY_RANGE },
  });
  return (
    <Form
      part={part}
      onSend={async (values) => {
        const account = values.account === BY_RANGE ? null : values.account;
        const no = notTaken(await patch({ serial: s.serial, ...values, account }));
        if (no === null) {
          toast.success(`${s.serial} is asked there from now on`);
          onClose();
        }
        return no;
      }}
      buttons={
        <Row>
          <Button type="submit" $kind="main" isDisabled={part.rhf.formState.isSubmitting}>
            Change
          </Button>
          <Button onPress={onClose}>Cancel</Button>
        </Row>
      }
    >
      <FormGrid>
        <TextField name="address" label="Address" code />
        <NumberField name="port" label="Port" />
        <TextField name="location" label="Place" />
        <ChoiceField
          name="account"
          label="Account"
          options={[
            { id: BY_RANGE, name: 'the one whose range fits' },
            ...accounts.map((a) => ({ id: a.name, name: a.name, note: a.ranges.join(', ') })),
          ]}
        />
      </FormGrid>
      <Faded>Its accepted host key stays: what answers at the new address must show it, or wait for your yes.</Faded>
    </Form>
  );
}
