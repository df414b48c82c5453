import type { DayAnswer } from '@anthemion/contract';
import { Link } from 'react-router';
import { styled } from 'styled-components';
import { changeOpened, useAppDispatch } from '../../app/store.ts';
import { Faded, H2, Mono } from '../../parts/basics.tsx';
import { changeMood } from '../../parts/moods.ts';
import { StateMark } from '../../parts/StateMark.tsx';
import { token } from '../../parts/theme.ts';
import { ago, clock, dated } from '../../parts/times.ts';

/** Open changes that wait for the person: for a yes, for rolling out, or to be gone on with. */
export function WaitsForYou({ waits }: { readonly waits: DayAnswer['waits'] }) {
  const dispatch = useAppDispatch();
  return (
    <>
      <H2 id="waits">Waits for you</H2>
      <List aria-labelledby="waits">
        {waits.map(({ change: c, why }) => (
          <li key={c.id}>
            <Link to={`/changes/${c.id}`} onClick={() => dispatch(changeOpened(c.id))}>
              <StateMark mood={changeMood[c.state]} size={16} />
              <span>
                <b>{c.title}</b>
                <small>
                  {why === 'asks your yes' ? `${c.asked!.by} asks your yes` : why} · {c.fabric} · {c.edits}{' '}
                  {c.edits === 1 ? 'edit' : 'edits'} · {ago(c.updatedAt)}
                </small>
              </span>
            </Link>
          </li>
        ))}
        {waits.length === 0 && (
          <li>
            <Faded>Nothing. Changes that ask for your yes, and your own open ones, stand here.</Faded>
          </li>
        )}
      </List>
    </>
  );
}

export function Unfinished({ rollouts }: { readonly rollouts: DayAnswer['unfinished'] }) {
  if (rollouts.length === 0) return null;
  return (
    <>
      <H2 style={{ marginTop: 22 }}>Under way</H2>
      <List>
        {rollouts.map((r) => (
          <li key={r.id}>
            <Link to={`/rollouts/${r.id}`}>
              <StateMark mood={r.state === 'stopped' ? 'fallen' : 'dewed'} size={16} />
              <span>
                <b>{r.title}</b>
                <small>
                  {r.fabric} · {r.state}
                  {r.reason && `: ${r.reason}`}
                </small>
              </span>
            </Link>
          </li>
        ))}
      </List>
    </>
  );
}

export function SinceYouWereHere({
  before,
  events,
}: {
  readonly before: string | null;
  readonly events: DayAnswer['since'];
}) {
  const today = (iso: string): boolean => new Date(iso).toDateString() === new Date().toDateString();
  return (
    <>
      <H2 style={{ marginTop: 22 }}>
        Since you were here {before !== null && <Faded className="when">{dated(before)}</Faded>}
      </H2>
      <List>
        {events.map((e, i) => (
          <li key={`${e.at} ${i}`}>
            <Link to={e.to}>
              <Mono className="time" title={dated(e.at)}>
                {today(e.at) ? clock(e.at) : dated(e.at).slice(0, 6)}
              </Mono>
              <span>{e.text}</span>
            </Link>
          </li>
        ))}
        {events.length === 0 && (
          <li>
            <Faded>{before === null ? 'This is your first time here.' : 'Nothing came in.'}</Faded>
          </li>
        )}
      </List>
    </>
  );
}

const List = styled.ul`
  margin-top: 6px;
  li {
    border-top: 1px solid ${token('rule-soft')};
    padding: 7px 2px;
  }
  a {
    display: flex;
    gap: 10px;
    color: inherit;
    text-decoration: none;
    overflow-wrap: anywhere;
  }
  a:hover b,
  a:hover span {
    text-decoration: underline;
  }
  small {
    display: block;
    color: ${token('faded')};
    font-size: 12.5px;
  }
  .time {
    color: ${token('faded')};
    flex: none;
    width: 44px;
  }
`;
