import type { Finding } from '@anthemion/core';
import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { styled } from 'styled-components';
import { api, problemOf } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { useMay } from '../../app/session.ts';
import { changeOpened, useAppDispatch } from '../../app/store.ts';
import { token } from '../../app/theme.ts';
import { Button, Empty, Faded, Failure, H2, Row, Stack, Waiting } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { errorAt, Leftovers, leftOver, TextInput } from '../../parts/fields.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { ago } from '../../parts/times.ts';

export function Fabrics() {
  const fabrics = api.useFabricsQuery();
  const [params, setParams] = useSearchParams();
  const may = useMay('designer');
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
                <Faded>
                  {f.racks === 0 ? 'nothing live yet' : `${f.spines} spines · ${f.leaves} leaves in ${f.racks} racks`}
                </Faded>
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
          </li>
        ))}
      </List>
      <NewFabricDialog isOpen={params.get('new') !== null} onClose={() => setParams({})} />
    </Page>
  );
}

function NewFabricDialog({ isOpen, onClose }: { readonly isOpen: boolean; readonly onClose: () => void }) {
  const [name, setName] = useState('');
  const [prefix, setPrefix] = useState('');
  const [findings, setFindings] = useState<readonly Finding[]>([]);
  const [detail, setDetail] = useState('');
  const [make, { isLoading }] = api.useMakeFabricMutation();
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const save = async (): Promise<void> => {
    const result = await make({ name, namePrefix: prefix || name.slice(0, 2), title: '' });
    if ('error' in result) {
      const p = problemOf(result.error);
      setFindings(p.findings);
      setDetail(p.findings.length === 0 ? p.detail : '');
      return;
    }
    dispatch(changeOpened(result.data.change));
    void navigate(`/fabrics/${result.data.fabric}`);
  };
  return (
    <Dialog title="A new fabric" isOpen={isOpen} onClose={onClose} width={420}>
      <form onSubmit={(e) => (e.preventDefault(), void save())}>
        <Stack $gap={12}>
          <TextInput
            label="Name"
            value={name}
            onChange={setName}
            placeholder="holm"
            error={errorAt(findings, 'name')}
            autoFocus
            isRequired
          />
          <TextInput
            label="Prefix of switch names"
            value={prefix}
            onChange={setPrefix}
            placeholder={name.slice(0, 2) || 'ho'}
            hint={`Switches are called ${prefix || name.slice(0, 2) || 'ho'}-sp-01, ${prefix || name.slice(0, 2) || 'ho'}-lf-01`}
            error={errorAt(findings, 'namePrefix')}
            code
          />
          <Faded style={{ fontSize: 13 }}>A change opens with it; pattern and pools are chosen next.</Faded>
          <Leftovers findings={leftOver(findings, 'name', 'namePrefix')} detail={detail} />
          <Row>
            <Button type="submit" $kind="main" isDisabled={isLoading}>
              Begin
            </Button>
            <Button onPress={onClose}>Cancel</Button>
          </Row>
        </Stack>
      </form>
    </Dialog>
  );
}
const List = styled.ul`
  padding-top: 8px;
  a {
    display: grid;
    grid-template-columns: 34px 1fr auto;
    gap: 8px;
    align-items: center;
    padding: 13px 6px;
    border-bottom: 1px solid ${token('rule-soft')};
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
