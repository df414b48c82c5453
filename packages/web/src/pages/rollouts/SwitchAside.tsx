import { type RolloutAnswer, type RolloutSwitchAnswer } from '@anthemion/contract';
import { Link } from 'react-router';
import { styled } from 'styled-components';
import { api } from '../../app/api.ts';
import { mono, token } from '../../parts/theme.ts';
import { Bad, Cap, Faded, Facts, H3, Mono, New, Note, Row } from '../../parts/basics.tsx';
import { FAILED } from './outcomes.ts';

/** One switch of a rollout: where it stands, in its own words, and its log. */
export function SwitchAside({ rollout, s }: { readonly rollout: RolloutAnswer; readonly s: RolloutSwitchAnswer }) {
  // The log is read again whenever the switch moves a step.
  const { data: log = [] } = api.useRolloutLogQuery({
    id: rollout.id,
    host: s.host,
    stamp: `${s.stepsDone}${s.outcome}${s.message}`,
  });
  return (
    <>
      <Cap>
        {s.host} · {s.outcome}
      </Cap>
      <H3>
        {FAILED.has(s.outcome)
          ? 'What it said'
          : s.outcome === 'as meant'
            ? 'As meant'
            : s.outcome === 'waits'
              ? 'Waits'
              : `Now: ${s.step ?? ''}`}
      </H3>
      {s.message && (
        <Note $tone={FAILED.has(s.outcome) ? 'bad' : s.outcome === 'as meant' ? 'good' : 'wait'}>{s.message}</Note>
      )}
      <Facts>
        <dt>Seat</dt>
        <dd>{s.seat}</dd>
        <dt>Serial</dt>
        <dd>
          <Mono>{s.serial}</Mono>
        </dd>
        <dt>Lines</dt>
        <dd>
          <New>+{s.added}</New> <Bad>−{s.removed}</Bad>
        </dd>
      </Facts>
      <Cap>Log</Cap>
      <Log aria-live="polite">
        {log.map((l, i) => (
          <li key={i}>
            <time>{l.at.slice(11, 19)}</time> {l.text}
          </li>
        ))}
        {log.length === 0 && <Faded>Nothing yet.</Faded>}
      </Log>
      <Row style={{ marginTop: 'auto' }}>
        <Link to={`/fabrics/${rollout.fabric}/text/${s.seat}`}>Its text</Link>
      </Row>
    </>
  );
}

const Log = styled.ol`
  font: 11.5px/1.5 ${mono};
  overflow: auto;
  li {
    padding: 1px 0;
    overflow-wrap: anywhere;
  }
  time {
    color: ${token('faded')};
  }
`;
