import { secretRequest, type SecretAnswer, type SecretRequest } from '@anthemion/contract';
import { string, type AnyObject, type ObjectSchema } from 'yup';
import { toast } from 'sonner';
import { useSearchParams } from 'react-router';
import { accessApi } from '../../app/accessApi.ts';
import { notTaken, problemOf } from '../../app/api.ts';
import { useAccess } from '../../app/session.ts';
import { Button, Cap, Copyable, Empty, Faded, Failure, H3, Mono, Note, Row, Waiting } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { Form, TextField, useFormPart } from '../../parts/Form.tsx';
import { dated } from '../../parts/times.ts';
import { useSave } from '../../app/useSave.ts';
import { AccessPage } from './AccessPage.tsx';

/** The name stands in the path of the call; how it is written is the server's to say. */
const SCHEMA = (secretRequest as ObjectSchema<AnyObject>).shape({ name: string().required('the name is missing') });

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
  const [put] = accessApi.usePutSecretMutation();
  const [remove] = accessApi.useDeleteSecretMutation();
  const { save } = useSave();
  // What is typed here is never kept: it is a secret.
  const part = useFormPart<SecretRequest & { readonly name: string }>({
    schema: SCHEMA,
    initial: { name: s?.name ?? '', value: '', note: s?.note ?? '' },
  });
  const written = `{{ secrets.${s?.name ?? 'its-name'} }}`;
  return (
    <>
      <Cap>{s ? 'Secret' : 'A new secret'}</Cap>
      {s && <H3>{s.name}</H3>}
      <Faded>
        Written in a snippet as <Copyable text={written} />
      </Faded>
      {may && (
        <Form
          part={part}
          onSend={async (values) => {
            const no = notTaken(await put(values));
            if (no === null) {
              toast.success(`${values.name} is stored, sealed`);
              part.rhf.reset({ ...values, value: '' });
              onDone(values.name);
            }
            return no;
          }}
          buttons={
            <Row>
              <Button type="submit" $kind="main" isDisabled={part.rhf.formState.isSubmitting}>
                Store it
              </Button>
              {s && (
                <Button
                  $kind="danger"
                  onPress={() =>
                    void save(remove(s.name), `${s.name} is forgotten`).then((done) => done && onDone(null))
                  }
                >
                  Forget
                </Button>
              )}
            </Row>
          }
        >
          {!s && <TextField name="name" label="Name" placeholder="spine-bgp" />}
          <TextField
            name="value"
            label={s ? 'New value' : 'Value'}
            type="password"
            hint="1–80 printable characters without spaces"
          />
          <TextField name="note" label="Note" />
        </Form>
      )}
      <Note>
        {s
          ? 'Fabrics go on with the value they took up. A change takes up the new one, and shows on which switches it is sent.'
          : 'Storing it sends nothing. A change on a fabric takes it up by name.'}
      </Note>
    </>
  );
}
