import type { Answer, Because, EvpnRouteAnswer, Hearing, Hop, Journey, RouteAnswer } from '@anthemion/core';
import { Link } from 'react-router';
import { styled } from 'styled-components';
import { Bad, Cap, Faded, Mono, Note } from '../parts/basics.tsx';
import { token } from '../parts/theme.ts';

/** Where the text of a switch is shown, by host. */
export type SeatOf = ReadonlyMap<string, string>;
export interface Shown {
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
const Name = styled(Mono)`
  display: inline-block;
  white-space: pre;
`;
/** Switches of which the same is said, together. */
function alike(hearings: readonly Hearing[]): (readonly [Hearing, string[]])[] {
  const out = new Map<string, readonly [Hearing, string[]]>();
  for (const h of hearings) {
    // Whom one does not hear has lines of its own.
    const key = h.deafTo.length > 0 ? h.host : JSON.stringify([h.hears, h.unsure]);
    const row = out.get(key);
    if (row) row[1].push(h.host);
    else out.set(key, [h, [h.host]]);
  }
  return [...out.values()];
}
interface HearingProps extends Shown {
  readonly hearing: Hearing;
  readonly hosts: string[];
  /** Of a prefix nobody is deaf to anybody. */
  readonly ofVni: boolean;
}
const HearingRow = ({ hearing, hosts, ofVni, ...shown }: HearingProps) => (
  <tr>
    <th scope="row">
      {hosts.map((host, i) => (
        <Name key={host}>{i < hosts.length - 1 ? `${host}, ` : host}</Name>
      ))}
    </th>
    <td>
      {/* Who hears nobody though he should is wrong; of a prefix it may be as it is meant. */}
      {hearing.hears.length === 0 && (hearing.deafTo.length > 0 ? <Bad>nothing</Bad> : <Faded>nothing</Faded>)}
      {hearing.hears.map((h) => (
        <div key={h}>{h}</div>
      ))}
      <Unsure why={hearing.unsure} />
    </td>
    {ofVni && (
      <td>
        {hearing.deafTo.map((d) => (
          <div key={d.host}>
            not <Mono>{d.host}</Mono>
            <Lines because={[d.because]} {...shown} />
          </div>
        ))}
      </td>
    )}
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

/** The answer to a question, with the lines that make it so. */
export function AnswerView({ answer, ...shown }: Shown & { readonly answer: Answer }) {
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
    default: {
      const rows = alike(answer.hearings);
      return (
        <>
          <table aria-label="Who hears it">
            <thead>
              <tr>
                <th scope="col">Switches</th>
                <th scope="col">{answer.ask === 'vni' ? 'Hears' : 'Has it'}</th>
                {answer.ask === 'vni' && <th scope="col">Does not hear</th>}
              </tr>
            </thead>
            <tbody>
              {rows.slice(0, MOST_SHOWN).map(([h, hosts]) => (
                <HearingRow key={h.host} hearing={h} hosts={hosts} ofVni={answer.ask === 'vni'} {...shown} />
              ))}
            </tbody>
          </table>
          <Left of={rows.length} cure="ask one switch: routes SWITCH to ADDRESS" />
        </>
      );
    }
  }
}

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
/** Where answers come: it is read out as they do. */
export const Answered = styled.div.attrs({ 'aria-live': 'polite' })`
  margin-top: 10px;
  table {
    width: 100%;
    border-collapse: collapse;
  }
  && td,
  && th {
    text-align: left;
    vertical-align: top;
    padding: 5px 14px 5px 0;
    border-top: 1px solid ${token('rule-soft')};
  }
  thead th {
    color: ${token('faded')};
    font-weight: 400;
    font-size: 12px;
  }
`;
