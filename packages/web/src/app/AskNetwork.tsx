import type { Answer, Because, EvpnRouteAnswer, Hearing, Hop, Journey, RouteAnswer } from '@anthemion/core';
import { skipToken } from '@reduxjs/toolkit/query';
import { useState, type FormEvent } from 'react';
import { Link, useSearchParams } from 'react-router';
import { styled } from 'styled-components';
import { Bad, Button, Cap, Faded, Mono, Note, Row, Waiting } from '../parts/basics.tsx';
import { TextInput } from '../parts/fields.tsx';
import { token } from '../parts/theme.ts';
import { api, problemOf } from './api.ts';

/** Where the text of a switch is shown, by host. */
type SeatOf = ReadonlyMap<string, string>;
interface Shown {
  readonly fabric: string;
  readonly seatOf: SeatOf;
}

/** A line that makes an answer so, which leads to its text. */
function Line({ because: { words, host, place }, fabric, seatOf }: Shown & { readonly because: Because }) {
  const seat = seatOf.get(host);
  const spot = place ? `${place.host}/${place.file}:${place.line}` : host;
  return (
    <li>
      {words} · {seat === undefined ? <Mono>{spot}</Mono> : <Link to={`/fabrics/${fabric}/text/${seat}`}>{spot}</Link>}
    </li>
  );
}
const MOST_LINES = 6;
function Lines({ because, ...shown }: Shown & { readonly because: readonly Because[] }) {
  return (
    <Small>
      {because.slice(0, MOST_LINES).map((b, i) => (
        <Line key={i} because={b} {...shown} />
      ))}
      {because.length > MOST_LINES && <li>and more like it: {because.length - MOST_LINES}</li>}
    </Small>
  );
}
const Unsure = ({ why }: { readonly why: string | null }) =>
  why === null ? null : <Note $tone="wait">Uncertain: {why}.</Note>;

const HopItem = ({ hop, stops, ...shown }: Shown & { readonly hop: Hop; readonly stops: boolean }) => (
  <li>
    <Mono>{hop.at.join(', ')}</Mono> {stops ? <Bad>{hop.does}</Bad> : hop.does}
    <Lines because={hop.because} {...shown} />
  </li>
);
const Way = ({ way, ...shown }: Shown & { readonly way: Journey }) => (
  <section aria-label={`From ${way.from} to ${way.to}`}>
    <Cap>
      {way.from} to {way.to}: {way.arrives ? 'arrives' : 'does not arrive'}
    </Cap>
    <Steps>
      {way.hops.map((hop, i) => (
        <HopItem key={i} hop={hop} stops={!way.arrives && i === way.hops.length - 1} {...shown} />
      ))}
    </Steps>
  </section>
);

/** More rows are not looked through, and one address asks for less. */
const MOST_SHOWN = 200;
const Left = ({ of, cure }: { readonly of: number; readonly cure: string }) =>
  of <= MOST_SHOWN ? null : (
    <Faded>
      and {of - MOST_SHOWN} more; {cure}
    </Faded>
  );

const Route = ({ route, ...shown }: Shown & { readonly route: RouteAnswer }) => (
  <tr>
    <th scope="row">
      <Mono>{route.prefix}</Mono>
    </th>
    <td>{route.kind}</td>
    <td>
      {route.ways.map((w) => (
        <div key={w.over}>
          {w.over}
          {w.to !== null && ` to ${w.to}`}
          {w.path.length > 0 && <Faded> path {w.path.join(' ')}</Faded>}
          {w.said.map((s) => `, ${s}`)}
        </div>
      ))}
      <Unsure why={route.unsure} />
    </td>
    <td>
      <Lines because={route.because} {...shown} />
    </td>
  </tr>
);
const HearingRow = ({ hearing, ...shown }: Shown & { readonly hearing: Hearing }) => (
  <tr>
    <th scope="row">
      <Mono>{hearing.host}</Mono>
    </th>
    <td>
      {/* Who hears nobody though he should is wrong; of a prefix it may be as it is meant. */}
      {hearing.hears.length === 0 && (hearing.deafTo.length > 0 ? <Bad>nothing</Bad> : <Faded>nothing</Faded>)}
      {hearing.hears.map((h) => (
        <div key={h}>{h}</div>
      ))}
      <Unsure why={hearing.unsure} />
    </td>
    <td>
      {hearing.deafTo.map((d) => (
        <div key={d.host}>
          not <Mono>{d.host}</Mono>
          <Lines because={[d.because]} {...shown} />
        </div>
      ))}
    </td>
  </tr>
);

const EvpnRow = ({ route: r, ...shown }: Shown & { readonly route: EvpnRouteAnswer }) => (
  <tr>
    <td>{r.type}</td>
    <th scope="row">
      {r.about} <Faded>RD {r.rd ?? 'made up by it'}</Faded>
      <Unsure why={r.unsure} />
    </th>
    <td>
      <Mono>{r.from}</Mono> <Faded>{r.vtep ?? 'no VTEP'}</Faded>
    </td>
    <td>
      {r.into.length > 0 ? `into ${r.into.join(' and ')}` : <Faded>not used: {r.why}</Faded>}
      <Lines because={r.because} {...shown} />
    </td>
  </tr>
);

function AnswerView({ answer, ...shown }: Shown & { readonly answer: Answer }) {
  switch (answer.ask) {
    case 'reach':
      return (
        <>
          <Unsure why={answer.unsure} />
          <Ways>
            {answer.ways.map((w) => (
              <Way key={w.from} way={w} {...shown} />
            ))}
          </Ways>
        </>
      );
    case 'routes':
      return answer.routes.length === 0 ? (
        answer.missing === null ? (
          <Faded>There is no route.</Faded>
        ) : (
          <Unsure why={`none is known, but ${answer.missing}`} />
        )
      ) : (
        <>
          <Unsure why={answer.missing === null ? null : `there may be others: ${answer.missing}`} />
          <table aria-label="Routes">
            <tbody>
              {answer.routes.slice(0, MOST_SHOWN).map((r) => (
                <Route key={r.prefix} route={r} {...shown} />
              ))}
            </tbody>
          </table>
          <Left of={answer.routes.length} cure="ask for those to one address: routes SWITCH to ADDRESS" />
        </>
      );
    case 'evpn':
      return (
        <>
          <table aria-label="Routes of EVPN">
            <thead>
              <tr>
                <th scope="col">Type</th>
                <th scope="col">About</th>
                <th scope="col">From</th>
                <th scope="col">What becomes of it</th>
              </tr>
            </thead>
            <tbody>
              {answer.routes.slice(0, MOST_SHOWN).map((r) => (
                <EvpnRow key={`${r.type} ${r.about} ${r.from}`} route={r} {...shown} />
              ))}
            </tbody>
          </table>
          <Left of={answer.total} cure="ask for one type: evpn SWITCH type 5" />
        </>
      );
    case 'differs':
      return answer.total === 0 ? (
        <Faded>Every answer is the same as what is live.</Faded>
      ) : (
        <>
          <Faded>
            {answer.total} answers differ from what is live
            {answer.total > answer.rows.length && `; the first ${answer.rows.length} are shown`}.
          </Faded>
          <table aria-label="Answers that differ">
            <tbody>
              {answer.rows.map((r) => (
                <tr key={`${r.kind} ${r.about}`}>
                  <th scope="row">{r.about}</th>
                  <td>{r.was === '' ? 'none' : r.was}</td>
                  <td>→ {r.is === '' ? 'none' : r.is}</td>
                  <td>{r.by && <Faded>{r.by}</Faded>}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      );
    default:
      return (
        <>
          <table aria-label="Who hears it">
            <tbody>
              {answer.hearings.slice(0, MOST_SHOWN).map((h) => (
                <HearingRow key={h.host} hearing={h} {...shown} />
              ))}
            </tbody>
          </table>
          <Left of={answer.hearings.length} cure="ask one switch: routes SWITCH to ADDRESS" />
        </>
      );
  }
}

/** Asks the network model of a fabric one question at a time, live or as a change would have it. */
export function AskNetwork({ fabric, change, seatOf }: Shown & { readonly change: string | null }) {
  const [params, setParams] = useSearchParams();
  const asked = params.get('ask');
  const [words, setWords] = useState(asked ?? '');
  const query = api.useAskNetworkQuery(asked === null ? skipToken : { name: fabric, change, question: asked });
  const put = (question: string): void => {
    setWords(question);
    const next = new URLSearchParams(params);
    if (question.trim() === '') next.delete('ask');
    else next.set('ask', question.trim());
    setParams(next, { replace: true });
    // The same again: what failed may work by now.
    if (question.trim() === asked && query.isError) void query.refetch();
  };
  const [host = 'SWITCH'] = seatOf.keys();
  return (
    <section aria-label="Ask the network">
      <Cap>Ask the network</Cap>
      <Asking
        onSubmit={(e: FormEvent) => {
          e.preventDefault();
          put(words);
        }}
      >
        <TextInput
          label="Question"
          code
          value={words}
          onChange={setWords}
          placeholder="reach SERVER SERVER"
          hint="routes SWITCH [in VRF] [to ADDRESS] · reach SERVER SERVER [tcp PORT] [size BYTES] · hears PREFIX · hears vni NUMBER · evpn SWITCH"
          {...(query.isError && asked === words.trim() ? { error: problemOf(query.error).detail } : {})}
        />
        <Button type="submit">Ask</Button>
      </Asking>
      <Row $gap={8}>
        {change !== null && <Button onPress={() => put('differs')}>What differs from live</Button>}
        <Button onPress={() => put(`routes ${host}`)}>Routes of {host}</Button>
      </Row>
      <Answered aria-live="polite">
        {query.isFetching && <Waiting what="Asking" />}
        {query.currentData && !query.isError && (
          <AnswerView answer={query.currentData} fabric={fabric} seatOf={seatOf} />
        )}
      </Answered>
    </section>
  );
}
const Asking = styled.form`
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 10px;
  align-items: start;
  margin: 6px 0 8px;
  > button {
    margin-top: 19px;
  }
`;
const Answered = styled.div`
  margin-top: 10px;
  && td {
    text-align: left;
    vertical-align: top;
  }
  && th {
    vertical-align: top;
    padding-right: 14px;
  }
`;
const Ways = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(320px, 1fr));
  gap: 32px;
`;
const Steps = styled.ol`
  margin-top: 6px;
  font-size: 13px;
  > li {
    border-top: 1px solid ${token('rule-soft')};
    padding: 5px 0;
  }
`;
const Small = styled.ul`
  font-size: 12px;
  color: ${token('faded')};
`;
