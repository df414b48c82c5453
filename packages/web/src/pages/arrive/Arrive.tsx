import { countCauses } from '@anthemion/core';
import { format } from 'date-fns';
import { Link } from 'react-router';
import { styled } from 'styled-components';
import { problemOf } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { watchApi } from '../../app/watchApi.ts';
import { Faded, Failure, H2, Waiting } from '../../parts/basics.tsx';
import { LinkButton } from '../../parts/LinkButton.tsx';
import { CauseLine } from '../watch/CauseLine.tsx';
import { useCauseActs } from '../watch/useCauseActs.tsx';
import { SinceYouWereHere, Unfinished, WaitsForYou } from './Waits.tsx';
import { WhatRuns } from './WhatRuns.tsx';

/** Causes that are shown before the rest is left to Watch. */
const SHOWN = 6;

/** The day sheet: what is wrong now, with its cause; what waits for me; what runs; what came in since I was here. */
export function Arrive() {
  const day = watchApi.useDayQuery();
  const acts = useCauseActs();
  const title = format(new Date(), 'EEEE, d MMMM');
  if (day.isError)
    return (
      <Page title={title}>
        <Failure detail={problemOf(day.error).detail} onRetry={() => void day.refetch()} />
      </Page>
    );
  if (!day.data)
    return (
      <Page title={title}>
        <Waiting />
      </Page>
    );
  const { causes, fabrics, waits, unfinished } = day.data;
  const all = fabrics.reduce((n, f) => n + Object.values(f.counts).reduce((a, b) => a + b, 0), 0);
  const unread = fabrics.reduce((n, f) => n + f.counts.unread, 0);
  return (
    <Page
      title={title}
      sub={`${fabrics.length} ${fabrics.length === 1 ? 'fabric' : 'fabrics'} · ${all - unread} of ${all} switches read${unread > 0 ? ` · ${unread} unread` : ''}`}
    >
      <Grid>
        <section>
          <header>
            <H2>Wrong now</H2>
            <Faded>{countCauses(causes)}</Faded>
          </header>
          {causes.length > 0 ? (
            <ul className="causes">
              {causes.slice(0, SHOWN).map((c) => (
                <CauseLine
                  key={`${c.fabric} ${c.key}`}
                  cause={c}
                  withFabric={fabrics.length > 1}
                  onPutBack={(x) => acts.putBack([x])}
                  onAdopt={(x) => acts.adopt([x])}
                  onReadAgain={(x) => acts.readAgain(x.fabric)}
                />
              ))}
            </ul>
          ) : (
            <Faded as="p">
              {all === 0
                ? 'Nothing runs yet.'
                : 'Every switch that was read runs as meant, every link and session that is meant is up.'}
            </Faded>
          )}
          {causes.length > SHOWN && (
            <p>
              <LinkButton to="/watch">All {causes.length} under Watch</LinkButton>
            </p>
          )}
          <header className="second">
            <H2>What runs</H2>
            <Faded>the last day, by quarters of an hour</Faded>
          </header>
          {fabrics.map((f) => (
            <WhatRuns key={f.name} f={f} />
          ))}
          {fabrics.length === 0 && (
            <Faded>
              No fabric yet. <Link to="/fabrics?new=1">Make one from a pattern</Link>
            </Faded>
          )}
        </section>
        <section>
          <WaitsForYou waits={waits} />
          <Unfinished rollouts={unfinished} />
          <SinceYouWereHere before={day.data.before} events={day.data.since} />
        </section>
      </Grid>
      {acts.dialogs}
    </Page>
  );
}

const Grid = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 2.1fr) minmax(250px, 1fr);
  gap: 34px;
  padding: 14px 0;
  header {
    display: flex;
    gap: 10px;
    align-items: baseline;
  }
  header.second {
    margin-top: 26px;
  }
  .causes {
    display: flex;
    flex-direction: column;
    gap: 8px;
    padding: 8px 0;
  }
  section > p {
    padding: 6px 0;
  }
`;
