import { Link, useLocation } from 'react-router';
import { styled } from 'styled-components';
import { Mono } from '../parts/basics.tsx';
import { fullness, StateMark } from '../parts/StateMark.tsx';
import { ago } from '../parts/times.ts';
import { api } from './api.ts';
import { useAppSelector } from './store.ts';
import { token } from './theme.ts';

/** The proof line: what the open change would mean now, or how what is live stands. Each part opens the proof sheet. */
export function ProofLine() {
  const openChange = useAppSelector((s) => s.work.openChange);
  const { pathname } = useLocation();
  const { data: change, isFetching } = api.useChangeQuery(openChange ?? '', { skip: openChange === null });
  const fabric = /^\/fabrics\/([^/]+)/.exec(pathname)?.[1];
  const { data: live } = api.useLiveProofQuery(fabric ?? '', { skip: fabric === undefined || openChange !== null });
  const proof = openChange === null ? (fabric === undefined ? undefined : live) : change?.proof;
  if (!proof)
    return (
      <Line>
        <span>
          <StateMark mood={change ? 'dewed' : 'bud'} />{' '}
          {change
            ? change.state === 'Stale'
              ? 'The proof is stale: prove the change again'
              : 'Not proven yet'
            : 'No change is open; what you see is live'}
        </span>
      </Line>
    );
  const errors = proof.findings.filter((f) => f.severity === 'error');
  const warnings = proof.findings.length - errors.length;
  const to = change ? `/changes/${change.id}` : `/fabrics/${fabric}/proof`;
  const values = fullness(proof.values.drawn, proof.values.needed);
  const touched = proof.switches.filter((s) => s.fate !== 'same');
  const added = touched.reduce((n, s) => n + s.added, 0);
  const removed = touched.reduce((n, s) => n + s.removed, 0);
  return (
    <Line aria-live="polite">
      <Link to={to}>
        <StateMark {...values} /> {proof.values.drawn} of {proof.values.needed} values drawn
      </Link>
      <Link to={to}>
        <StateMark mood={errors.length > 0 ? 'fallen' : 'bloom'} />
        {errors.length > 0 ? (
          <b className="bad">
            {errors.length} {errors.length === 1 ? 'finding' : 'findings'} of {proof.rules.length} rules
          </b>
        ) : (
          `${proof.rules.length} rules hold`
        )}
        {warnings > 0 && `, ${warnings} ${warnings === 1 ? 'warning' : 'warnings'}`}
      </Link>
      <Link to={to}>
        <StateMark {...fullness(proof.after.sessionsUp, Math.max(1, proof.after.sessions))} />{' '}
        {proof.after.sessionsUp / 2} of {proof.after.sessions / 2} sessions come up
      </Link>
      {change && (
        <Link to={to}>
          {touched.length} of {proof.switches.length} switches change&nbsp;
          <Mono className="new">+{added}</Mono>&nbsp;
          <Mono className="bad">−{removed}</Mono>
        </Link>
      )}
      <span className="last">
        {isFetching ? 'judging …' : change?.provenAt ? `judged ${ago(change.provenAt)}` : 'live'}
      </span>
    </Line>
  );
}
const Line = styled.footer`
  grid-column: 1 / 3;
  border-top: 1px solid ${token('rule')};
  background: ${token('sheet')};
  display: flex;
  align-items: center;
  padding: 0 18px;
  font-size: 13px;
  white-space: nowrap;
  overflow: hidden;
  > a,
  > span {
    display: flex;
    gap: 7px;
    align-items: center;
    padding-right: 18px;
    margin-right: 18px;
    border-right: 1px solid ${token('rule-soft')};
    height: 18px;
    color: inherit;
    text-decoration: none;
  }
  > a:hover {
    text-decoration: underline;
  }
  .last {
    margin-left: auto;
    border: 0;
    margin-right: 0;
    padding: 0;
    color: ${token('faded')};
  }
  .bad {
    color: ${token('madder')};
  }
  .new {
    color: ${token('lapis')};
  }
`;
