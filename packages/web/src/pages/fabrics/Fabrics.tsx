import { tierText } from '../../parts/tierText.ts';
import { fabricRequest, type FabricRequest } from '@anthemion/contract';
import { skipToken } from '@reduxjs/toolkit/query';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { styled } from 'styled-components';
import { api, notTaken, problemOf } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { useMay } from '../../app/session.ts';
import { changeLeft, changeOpened, useAppDispatch, useAppSelector } from '../../app/store.ts';
import { token } from '../../parts/theme.ts';
import { Button, Empty, Faded, Failure, H2, Row, Waiting } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Form, mayBeEmpty, TextField, useFormPart } from '../../parts/Form.tsx';
import { RemoveButton } from '../../parts/RemoveButton.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { ago } from '../../parts/times.ts';

export function Fabrics() {
  const fabrics = api.useFabricsQuery();
  const [params, setParams] = useSearchParams();
  const may = useMay('designer');
  const [remove] = api.useRemoveFabricMutation();
  const dispatch = useAppDispatch();
  const open = useAppSelector((s) => s.work.openChange);
  const { currentData: opened } = api.useChangeQuery(open ?? skipToken);
  const action = may && (
    <Button $kind="main" onPress={() => setParams({ new: '1' })}>
      Fabric from a pattern
    </Button>
  );
  return (
    <Page
      title="Fabrics"
      sub={fabrics.data ? `${fabrics.data.length} ${fabrics.data.length === 1 ? 'fabric' : 'fabrics'}` : ''}
      actions={action}
    >
      {fabrics.isError && <Failure detail={problemOf(fabrics.error).detail} onRetry={() => void fabrics.refetch()} />}
      {fabrics.isLoading && <Waiting />}
      {fabrics.data?.length === 0 && (
        <Empty title="No fabric yet" action={action}>
          A name, a pattern and pools are enough; seats, links and values exist at once.
        </Empty>
      )}
      <List>
        {fabrics.data?.map((f) => (
          <li key={f.name}>
            <Link to={`/fabrics/${f.name}`}>
              <StateMark mood={f.revision === 0 ? 'bud' : 'bloom'} size={24} />
              <span>
                <H2 as="span">{f.name[0]!.toUpperCase() + f.name.slice(1)}</H2>
                <Faded>{f.racks === 0 ? 'nothing live yet' : tierText(f, f.racks)}</Faded>
              </span>
              <span className="right">
                {f.revision === 0 ? 'no revision' : `revision ${f.revision}, live since ${ago(f.liveSince!)}`}
                <Faded>
                  {f.openChanges === 0
                    ? 'no open change'
                    : `${f.openChanges} open ${f.openChanges === 1 ? 'change' : 'changes'}`}
                </Faded>
              </span>
            </Link>
            {may && f.revision === 0 && (
              <RemoveButton
                what={`fabric ${f.name}`}
                means="Its changes go with it, and what they drew from pools and seated is free again. Nothing of it was ever sent to a switch."
                remove={async () => notTaken(await remove(f.name))}
                onGone={() => opened?.fabric === f.name && dispatch(changeLeft())}
              />
            )}
          </li>
        ))}
      </List>
      <NewFabricDialog isOpen={params.get('new') !== null} onClose={() => setParams({})} />
    </Page>
  );
}

function NewFabricDialog({ isOpen, onClose }: { readonly isOpen: boolean; readonly onClose: () => void }) {
  return (
    <Dialog title="A new fabric" isOpen={isOpen} onClose={onClose} width={420}>
      {isOpen && <NewFabric onClose={onClose} />}
    </Dialog>
  );
}

const SCHEMA = mayBeEmpty(fabricRequest, 'namePrefix');

function NewFabric({ onClose }: { readonly onClose: () => void }) {
  const [make] = api.useMakeFabricMutation();
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const part = useFormPart<Omit<FabricRequest, 'namePrefix'> & { readonly namePrefix: string | undefined }>({
    schema: SCHEMA,
    initial: { name: '', namePrefix: undefined, title: '' },
    keep: 'a new fabric',
  });
  const [name, typed] = part.rhf.watch(['name', 'namePrefix']);
  const proposed = name.slice(0, 2);
  const prefix = typed || proposed || 'ho';
  const close = (): void => {
    part.forget();
    onClose();
  };
  return (
    <Form
      part={part}
      onSend={async (values) => {
        const result = await make({ ...values, namePrefix: values.namePrefix || proposed });
        if (result.data) {
          dispatch(changeOpened(result.data.change));
          void navigate(`/fabrics/${result.data.fabric}`);
        }
        return notTaken(result);
      }}
      buttons={
        <Row>
          <Button type="submit" $kind="main" isDisabled={part.rhf.formState.isSubmitting}>
            Begin
          </Button>
          <Button onPress={close}>Cancel</Button>
        </Row>
      }
    >
      <TextField name="name" label="Name" placeholder="holm" autoFocus isRequired />
      <TextField
        name="namePrefix"
        label="Prefix of switch names"
        placeholder={proposed || 'ho'}
        hint={`Switches are called ${prefix}-sp-01, ${prefix}-lf-01`}
        code
      />
      <Faded style={{ fontSize: 13 }}>A change opens with it; pattern and pools are chosen next.</Faded>
    </Form>
  );
}
const List = styled.ul`
  padding-top: 8px;
  li {
    display: flex;
    gap: 12px;
    align-items: center;
    border-bottom: 1px solid ${token('rule-soft')};
  }
  a {
    flex: 1;
    display: grid;
    grid-template-columns: 34px 1fr auto;
    gap: 8px;
    align-items: center;
    padding: 13px 6px;
    color: inherit;
    text-decoration: none;
  }
  a:hover {
    background: ${token('sheet')};
  }
  a > span {
    display: flex;
    flex-direction: column;
  }
  .right {
    text-align: right;
  }
`;
