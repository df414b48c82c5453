import { Link } from 'react-router';
import { styled } from 'styled-components';
import { api } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { changeOpened, useAppDispatch } from '../../app/store.ts';
import { token } from '../../app/theme.ts';
import { Cap, Faded, H2 } from '../../parts/basics.tsx';
import { changeMood, healthMood, rolloutMood } from '../../parts/moods.ts';
import { StateMark } from '../../parts/StateMark.tsx';
import { ago } from '../../parts/times.ts';
import { sentOf } from '../rollouts/Rollouts.tsx';

/** What runs, what is wrong, what waits for me. */
export function Arrive() {
  const { data: session } = api.useSessionQuery();
  const { data: fabrics = [] } = api.useFabricsQuery();
  const { data: changes = [] } = api.useChangesQuery();
  const { data: rollouts = [] } = api.useRolloutsQuery();
  const dispatch = useAppDispatch();
  const waiting = changes.filter((c) => c.state !== 'Live' && c.state !== 'Withdrawn');
  const name = session?.user?.fullName.split(' ')[0] ?? '';
  return (
    <Page title={`Good to see you, ${name}`} sub="what runs, what is wrong, what waits">
      <Grid>
        <section>
          <Cap>What runs</Cap>
          {fabrics.map((f) => (
            <FabricCard key={f.name} name={f.name} />
          ))}
          {fabrics.length === 0 && (
            <Faded>
              No fabric yet. <Link to="/fabrics?new=1">Make one from a pattern</Link>
            </Faded>
          )}
        </section>
        <section>
          <Cap>What waits</Cap>
          {waiting.map((c) => (
            <Item key={c.id} to={`/changes/${c.id}`} onClick={() => dispatch(changeOpened(c.id))}>
              <StateMark mood={changeMood[c.state]} size={16} />
              <span>
                <b>{c.title}</b>
                <small>
                  {c.fabric} · {c.state.toLowerCase()} · {c.edits} edits by {c.author} · {ago(c.updatedAt)}
                </small>
              </span>
            </Item>
          ))}
          {waiting.length === 0 && <Faded>No change is open.</Faded>}
          <Cap style={{ marginTop: 18 }}>Rollouts</Cap>
          {rollouts.slice(0, 6).map((r) => (
            <Item key={r.id} to={`/rollouts/${r.id}`}>
              <StateMark mood={rolloutMood[r.state]} size={16} />
              <span>
                <b>{r.title}</b>
                <small>
                  {r.state} · {sentOf(r).good} of {sentOf(r).all} switches as meant · {ago(r.startedAt)}
                </small>
              </span>
            </Item>
          ))}
          {rollouts.length === 0 && <Faded>None yet.</Faded>}
        </section>
      </Grid>
    </Page>
  );
}

function FabricCard({ name }: { readonly name: string }) {
  const { data: f } = api.useFabricQuery({ name, change: null });
  const { data: proof } = api.useLiveProofQuery(name);
  if (!f) return null;
  const drifted = f.seats.filter((s) => s.health === 'drifted').length;
  const errors = proof?.findings.length ?? 0;
  return (
    <Card to={`/fabrics/${name}`}>
      <H2 as="span">{name[0]!.toUpperCase() + name.slice(1)}</H2>
      <Faded>{f.revision === 0 ? 'nothing live yet' : `revision ${f.revision}, live since ${ago(f.liveSince!)}`}</Faded>
      <span className="marks" aria-label={`${f.seats.length} switches, ${drifted} drifted`} role="img">
        {f.seats.slice(0, 120).map((s) => (
          <StateMark key={s.seat} mood={healthMood[s.health]} size={14} />
        ))}
      </span>
      <span className="line">
        {f.seats.length === 0
          ? 'no seats'
          : drifted > 0
            ? `${drifted} of ${f.seats.length} switches drifted`
            : `${f.seats.filter((s) => s.health === 'as meant').length} of ${f.seats.length} switches as meant`}
        {proof &&
          f.revision > 0 &&
          ` · ${proof.after.sessionsUp / 2} of ${proof.after.sessions / 2} sessions meant · ${errors === 0 ? `${proof.rules.length} rules hold` : `${errors} findings`}`}
      </span>
    </Card>
  );
}
const Grid = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 36px;
  padding: 18px 0;
  section {
    display: flex;
    flex-direction: column;
    gap: 8px;
  }
`;
const Card = styled(Link)`
  border: 1px solid ${token('rule')};
  border-radius: 5px;
  background: ${token('sheet')};
  padding: 14px 18px;
  color: inherit;
  text-decoration: none;
  display: flex;
  flex-direction: column;
  gap: 4px;
  &:hover {
    border-color: ${token('verdigris')};
  }
  .marks {
    display: flex;
    flex-wrap: wrap;
    gap: 5px;
    padding: 6px 0;
  }
  .line {
    font-size: 13px;
  }
`;
const Item = styled(Link)`
  display: flex;
  gap: 10px;
  color: inherit;
  text-decoration: none;
  padding: 7px 4px;
  border-bottom: 1px solid ${token('rule-soft')};
  small {
    display: block;
    color: ${token('faded')};
  }
  &:hover {
    background: ${token('sheet')};
  }
`;
