import type { SecretAnswer } from '@anthemion/contract';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { accessApi } from '../../app/accessApi.ts';
import { problemOf } from '../../app/api.ts';
import { useAccess } from '../../app/session.ts';
import { Button, Cap, Copyable, Empty, Faded, Failure, H3, Mono, Note, Row, Waiting } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { errorAt, Leftovers, leftOver, TextInput } from '../../parts/fields.tsx';
import { dated } from '../../parts/times.ts';
import { useSave } from '../../parts/useSave.ts';
import { AccessPage } from './AccessPage.tsx';

const COLUMNS: TableColumn<SecretAnswer>[] = [
  { id: 'name', title: 'Secret', text: (s) => s.name, cell: (s) => <b>{s.name}</b>, width: '20%' },
  {
    id: 'digest',
    title: 'Value, by its digest',
    text: (s) => s.digest,
    cell: (s) => <Mono title={s.digest}>{s.digest.slice(0, 8)}…</Mono>,
    width: '20%',
  },
  { id: 'note', title: 'Note', text: (s) => s.note, width: '26%' },
  { id: 'changed', title: 'Changed', text: (s) => s.changedAt, cell: (s) => dated(s.changedAt), width: '22%' },
  { id: 'by', title: 'By', text: (s) => s.changedBy },
];
const NEW = '';

/** Passwords and keys that stand in configurations: named here, written by snippets, filled in when a text is sent. */
export function Secrets() {
  const secrets = accessApi.useSecretsQuery();
  const [params, setParams] = useSearchParams();
  const may = useAccess('designer');
  const at = params.get('at');
  const picked = secrets.data?.find((s) => s.name === at);
  const add = may && (
    <Button $kind="main" onPress={() => setParams({ at: NEW })}>
      New secret
    </Button>
  );
  return (
    <AccessPage
      title="Secrets"
      sub="of configurations; texts hold their digests, switches their values"
      aside={
        (picked !== undefined || (may && at === NEW)) && (
          <SecretForm key={at} s={picked} may={may} onDone={(name) => setParams(name === null ? {} : { at: name })} />
        )
      }
    >
      {secrets.isError && <Failure detail={problemOf(secrets.error).detail} onRetry={() => void secrets.refetch()} />}
      {secrets.isLoading && <Waiting />}
      {secrets.data && (
        <DataTable
          label="Secrets"
          rows={secrets.data}
          columns={COLUMNS}
          rowKey={(s) => s.name}
          selected={picked?.name}
          onSelect={(s) => setParams({ at: s.name })}
          actions={add}
          empty={
            <Empty title="No secrets yet" action={add}>
              A BGP password or a community is named here once. Snippets write its name, and its value goes to switches
              only.
            </Empty>
          }
        />
      )}
    </AccessPage>
  );
}

function SecretForm({
  s,
  may,
  onDone,
}: {
  readonly s: SecretAnswer | undefined;
  readonly may: boolean;
  readonly onDone: (name: string | null) => void;
}) {
  const [name, setName] = useState(s?.name ?? '');
  const [value, setValue] = useState('');
  const [note, setNote] = useState(s?.note ?? '');
  const [put, { isLoading }] = accessApi.usePutSecretMutation();
  const [remove] = accessApi.useDeleteSecretMutation();
  const { findings, save } = useSave();
  const submit = async (): Promise<void> => {
    if (!(await save(put({ name, value, note }), `${name} is stored, sealed`))) return;
    setValue('');
    onDone(name);
  };
  const written = `{{ secrets.${s?.name ?? 'its-name'} }}`;
  return (
    <>
      <Cap>{s ? 'Secret' : 'A new secret'}</Cap>
      {s && <H3>{s.name}</H3>}
      <Faded>
        Written in a snippet as <Copyable text={written} />
      </Faded>
      {may && (
        <>
          {!s && (
            <TextInput
              label="Name"
              value={name}
              onChange={setName}
              placeholder="spine-bgp"
              error={errorAt(findings, 'name')}
            />
          )}
          <TextInput
            label={s ? 'New value' : 'Value'}
            type="password"
            value={value}
            onChange={setValue}
            hint="1–80 printable characters without spaces"
            error={errorAt(findings, 'value')}
          />
          <TextInput label="Note" value={note} onChange={setNote} error={errorAt(findings, 'note')} />
          <Leftovers findings={leftOver(findings, 'name', 'value', 'note')} />
          <Row>
            <Button $kind="main" isDisabled={isLoading || value === ''} onPress={() => void submit()}>
              Store it
            </Button>
            {s && (
              <Button
                $kind="danger"
                onPress={() => void save(remove(s.name), `${s.name} is forgotten`).then((done) => done && onDone(null))}
              >
                Forget
              </Button>
            )}
          </Row>
        </>
      )}
      <Note>
        {s
          ? 'Fabrics go on with the value they took up. A change takes up the new one, and shows on which switches it is sent.'
          : 'Storing it sends nothing. A change on a fabric takes it up by name.'}
      </Note>
    </>
  );
}
