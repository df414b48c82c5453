import type { CauseAnswer } from '@anthemion/contract';
import { Link } from 'react-router';
import { styled } from 'styled-components';
import { Button, Mono, Row } from '../../parts/basics.tsx';
import { LinkButton } from '../../parts/LinkButton.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { serif, token } from '../../parts/theme.ts';
import { ago, clock, dated } from '../../parts/times.ts';
import { useMay } from '../../app/session.ts';
import { causeMood, hangs, placeOf } from './causeWords.ts';

interface Props {
  readonly cause: CauseAnswer;
  /** Whether the fabric is to be named: not on the fabric's own pages. */
  readonly withFabric: boolean;
  readonly onPutBack: (cause: CauseAnswer) => void;
  readonly onAdopt: (cause: CauseAnswer) => void;
  readonly onReadAgain: (cause: CauseAnswer) => void;
  /** Everything that hangs on it, not only counts. */
  readonly whole?: boolean;
  /** The tick box of a list in which several are picked. */
  readonly pick?: React.ReactNode;
}

/** One thing that is wrong: what, since when, what hangs on it, and the way to where one acts. */
export function CauseLine({ cause: c, withFabric, onPutBack, onAdopt, onReadAgain, whole = false, pick }: Props) {
  const operator = useMay('operator', c.fabric);
  const designer = useMay('designer', c.fabric);
  return (
    <Line $tone={causeMood(c) === 'fallen' ? 'madder' : 'ochre'} aria-label={c.title}>
      {pick}
      <div className="what">
        <h3>
          <StateMark mood={causeMood(c)} size={14} /> {c.title}
        </h3>
        <p>
          <span title={dated(c.since)}>
            since {clock(c.since)}, {ago(c.since)}
          </span>
          {withFabric && (
            <>
              {' '}
              in <Link to={`/fabrics/${c.fabric}`}>{c.fabric}</Link>
            </>
          )}
          : {c.details.slice(0, whole ? undefined : 2).join('; ')}
          {!whole && c.details.length > 2 && ` and ${c.details.length - 2} more`}
        </p>
        {c.moves.length > 0 && (
          <ul aria-label="Plugs to move">
            {c.moves.slice(0, whole ? undefined : 3).map((m) => (
              <li key={`${m.from.host} ${m.from.port}`}>
                at{' '}
                <Mono>
                  {m.from.host} {m.from.port}
                </Mono>{' '}
                take the plug of{' '}
                <Mono>
                  {m.stays.host} {m.stays.port}
                </Mono>{' '}
                into <Mono>{m.to.host === m.from.host ? m.to.port : `${m.to.host} ${m.to.port}`}</Mono>
              </li>
            ))}
          </ul>
        )}
        <p className="hangs">
          {hangs(c).map(({ n, words }) => (
            <span key={words}>
              <b>{n}</b> {words}
            </span>
          ))}
        </p>
        {whole && <Hanging c={c} />}
      </div>
      <Row className="acts">
        {c.kind === 'edited' && operator && (
          <Button $kind="main" onPress={() => onPutBack(c)}>
            Put back
          </Button>
        )}
        {c.kind === 'edited' && designer && <Button onPress={() => onAdopt(c)}>Adopt</Button>}
        {c.kind !== 'edited' && <Button onPress={() => onReadAgain(c)}>Read again</Button>}
        <LinkButton to={placeOf(c)}>{c.kind === 'edited' ? 'Text' : 'Show'}</LinkButton>
      </Row>
    </Line>
  );
}

function Hanging({ c }: { readonly c: CauseAnswer }) {
  const lists = [
    ['Links', c.links],
    ['Sessions', c.sessions],
    ['Servers cut off', c.serversCut],
    ['Servers on one leg', c.serversHalf],
  ] as const;
  return (
    <dl>
      {lists.map(([name, items]) =>
        items.length === 0 ? null : (
          <div key={name}>
            <dt>{name}</dt>
            <dd>
              <Mono>
                {items.slice(0, 12).join(', ')}
                {items.length > 12 && ` and ${items.length - 12} more`}
              </Mono>
            </dd>
          </div>
        ),
      )}
    </dl>
  );
}

const Line = styled.li<{ $tone: 'madder' | 'ochre' }>`
  border-left: 3px solid ${(p) => token(p.$tone)};
  padding: 8px 0 8px 14px;
  display: flex;
  gap: 14px;
  align-items: start;
  .what {
    flex: 1;
    min-width: 0;
    overflow-wrap: anywhere;
  }
  h3 {
    font: 600 15px ${serif};
    display: flex;
    gap: 7px;
    align-items: center;
  }
  p,
  li {
    font-size: 13px;
    color: ${token('faded')};
    margin-top: 3px;
  }
  a {
    color: inherit;
  }
  ul {
    margin: 4px 0 0 16px;
    list-style: disc;
  }
  .hangs {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 16px;
  }
  .hangs b {
    color: ${token('ink')};
  }
  dl {
    margin-top: 6px;
    font-size: 13px;
  }
  dl div {
    display: grid;
    grid-template-columns: 130px 1fr;
    gap: 10px;
    padding: 3px 0;
  }
  dt {
    color: ${token('faded')};
  }
  .acts {
    flex: none;
  }
`;
