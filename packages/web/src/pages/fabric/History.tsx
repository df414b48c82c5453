import { Link, useNavigate, useSearchParams } from 'react-router';
import { toast } from 'sonner';
import { styled } from 'styled-components';
import { api, problemOf } from '../../app/api.ts';
import { useMay } from '../../app/session.ts';
import { changeOpened, useAppDispatch } from '../../app/store.ts';
import { token } from '../../parts/theme.ts';
import { Button, Empty, Faded, H3, Row } from '../../parts/basics.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { ago, dated } from '../../parts/times.ts';
import { FabricPage, useFabricView } from './FabricFrame.tsx';
import { IntentFileDialog } from './IntentFileDialog.tsx';

/** Every revision with author, time and reason; each can be returned to as a new change. */
export function History() {
  const { fabric, change } = useFabricView();
  const { data: revisions } = api.useRevisionsQuery(fabric.name);
  const [returnTo, { isLoading }] = api.useReturnToMutation();
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const may = useMay('designer');
  const [params, setParams] = useSearchParams();
  const back = async (revision: number): Promise<void> => {
    const result = await returnTo({ name: fabric.name, revision });
    if ('error' in result) toast.error(problemOf(result.error).detail);
    else {
      dispatch(changeOpened(result.data.change));
      void navigate(`/changes/${result.data.change}`);
    }
  };
  const between = (left: string, right: string): string =>
    `/fabrics/${fabric.name}/between?left=${left}&right=${right}`;
  return (
    <FabricPage
      actions={
        <Row $gap={14}>
          <a href={`/api/fabrics/${fabric.name}/intent.yaml${change ? `?change=${change}` : ''}`}>Intent as YAML</a>
          {may && <Button onPress={() => setParams({ file: '1' })}>Take intent from a file …</Button>}
        </Row>
      }
    >
      {may && <IntentFileDialog isOpen={params.get('file') !== null} onClose={() => setParams({})} />}
      {revisions?.length === 0 && (
        <Empty title="Nothing has gone live yet">The first rollout that ends well makes revision 1.</Empty>
      )}
      <List>
        {revisions?.map((r, i) => (
          <li key={r.number}>
            <div className="number">
              <StateMark mood={i === 0 ? 'bloom' : 'half-open'} size={24} share={0.35} />
              {r.number}
            </div>
            <div>
              <Row>
                <H3>{r.title}</H3>
                <Faded>
                  {r.ticket && `${r.ticket} · `}
                  {r.author} · {dated(r.at)} · {ago(r.at)}
                </Faded>
                <span style={{ flex: 1 }} />
                {i === 0 ? (
                  <Faded>live</Faded>
                ) : (
                  may && (
                    <Button onPress={() => void back(r.number)} isDisabled={isLoading}>
                      Return to revision {r.number}
                    </Button>
                  )
                )}
              </Row>
              {r.reason && <p>{r.reason}</p>}
              <details>
                <summary>
                  {r.sentences.length} {r.sentences.length === 1 ? 'edit' : 'edits'}
                </summary>
                <ul>
                  {r.sentences.map((s, k) => (
                    <li key={k}>{s}</li>
                  ))}
                </ul>
              </details>
              <Row $gap={16} className="ways">
                {r.number > 1 && (
                  <Link to={between(`revision-${r.number - 1}`, `revision-${r.number}`)}>What it changed</Link>
                )}
                {i > 0 && <Link to={between(`revision-${r.number}`, 'live')}>Compare with what is live</Link>}
                <a href={`/api/fabrics/${fabric.name}/texts.zip?at=revision-${r.number}`}>Its texts as files</a>
              </Row>
            </div>
          </li>
        ))}
      </List>
    </FabricPage>
  );
}
const List = styled.ol`
  padding: 8px 0;
  > li {
    display: grid;
    grid-template-columns: 62px 1fr;
    padding: 14px 0;
    border-bottom: 1px solid ${token('rule-soft')};
  }
  .number {
    display: flex;
    gap: 6px;
    font-size: 17px;
    align-items: flex-start;
  }
  details {
    font-size: 13px;
    margin-top: 4px;
    color: ${token('faded')};
  }
  .ways {
    font-size: 13px;
    margin-top: 4px;
  }
  details li {
    padding: 1px 0 1px 14px;
  }
  summary {
    cursor: pointer;
  }
`;
