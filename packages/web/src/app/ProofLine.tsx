import type { ChangeAnswer } from '@anthemion/contract';
import { groupBy, plural, waivedRules, type ProofReport, type Severity } from '@anthemion/core';
import { Link, useLocation } from 'react-router';
import { styled } from 'styled-components';
import { Mono } from '../parts/basics.tsx';
import { fullness, StateMark } from '../parts/StateMark.tsx';
import { token } from '../parts/theme.ts';
import { ago } from '../parts/times.ts';
import { api } from './api.ts';
import { useAppSelector } from './store.ts';
import { fabricOfPath } from './usePresence.ts';
import { watchApi } from './watchApi.ts';

/**
 * The proof line: what the open change would mean now, or how what is live stands. Each part opens the proof sheet. On a
 * page of another fabric than the change's it speaks of that fabric, and says so.
 */
export function ProofLine() {
  const openChange = useAppSelector((s) => s.work.openChange);
  const lost = useAppSelector((s) => s.connection.lost);
  const { pathname } = useLocation();
  const { currentData: opened, isFetching } = api.useChangeQuery(openChange ?? '', { skip: openChange === null });
  const fabric = fabricOfPath(pathname);
  const elsewhere = fabric !== null && opened !== undefined && opened.fabric !== fabric;
  const change = elsewhere ? undefined : opened;
  const ofLive = fabric !== null && (openChange === null || elsewhere) ? fabric : null;
  const { currentData: live } = api.useLiveProofQuery(ofLive ?? '', { skip: ofLive === null });
  const proof = ofLive === null ? change?.proof : live;
  return (
    <Line aria-live="polite">
      {lost && (
        <span className="lost" role="status">
          <StateMark mood="fallen" /> The connection is lost; what you see may be old. Trying again …
        </span>
      )}
      {!proof ? (
        <span>
          <StateMark mood={change ? 'dewed' : 'bud'} />{' '}
          {change
            ? change.state === 'Stale'
              ? 'The proof is stale: prove the change again'
              : 'Not proven yet'
            : 'No change is open; what you see is live'}
        </span>
      ) : (
        <Proven
          proof={proof}
          change={ofLive === null ? (change ?? null) : null}
          fabric={fabric ?? change?.fabric ?? ''}
        />
      )}
      <span className="last">
        {isFetching
          ? 'judging …'
          : ofLive === null && change?.provenAt
            ? `judged ${ago(change.provenAt)}`
            : elsewhere
              ? `what is live in ${fabric}; the open change is about ${opened.fabric}`
              : ofLive !== null
                ? 'what is live, by the model'
                : ''}
      </span>
      {fabric !== null && <ReadAt fabric={fabric} />}
    </Line>
  );
}

function Proven({
  proof,
  change,
  fabric,
}: {
  readonly proof: ProofReport;
  readonly change: ChangeAnswer | null;
  readonly fabric: string;
}) {
  const standing = groupBy(
    proof.findings.filter((f) => !f.waived),
    (f) => f.severity,
  );
  const count = (severity: Severity): number => standing.get(severity)?.length ?? 0;
  const errors = count('error');
  const waived = waivedRules(proof.findings).size;
  const beside = [
    count('warning') > 0 && plural(count('warning'), 'warning'),
    count('note') > 0 && plural(count('note'), 'note'),
    waived > 0 && `${waived} waived`,
  ].filter((w) => w !== false);
  const to = change ? `/changes/${change.id}` : `/fabrics/${fabric}/proof`;
  const values = fullness(proof.values.drawn, proof.values.needed);
  const touched = proof.switches.filter((s) => s.fate !== 'same');
  const added = touched.reduce((n, s) => n + s.added, 0);
  const removed = touched.reduce((n, s) => n + s.removed, 0);
  return (
    <>
      {proof.values.needed > 0 && (
        <Link to={to}>
          <StateMark {...values} /> {proof.values.drawn} of {proof.values.needed} values drawn
        </Link>
      )}
      <Link to={to}>
        <StateMark mood={errors > 0 ? 'fallen' : 'bloom'} />
        {errors > 0 ? (
          <b className="bad">
            {plural(errors, 'finding')} of {proof.rules.length} rules
          </b>
        ) : (
          `${proof.rules.length - waived} rules hold`
        )}
        {beside.length > 0 && `, ${beside.join(', ')}`}
      </Link>
      {(proof.after.sessions > 0 || proof.before.sessions > 0) && (
        <Link to={to} title="Computed from the texts, not read">
          <StateMark {...fullness(proof.after.sessionsUp, Math.max(1, proof.after.sessions))} />{' '}
          {proof.after.sessionsUp / 2} of {proof.after.sessions / 2} sessions {change ? 'would come up' : 'meant'}
        </Link>
      )}
      {change && (
        <Link to={to}>
          {touched.length} of {proof.switches.length} switches change&nbsp;
          <Mono className="new">+{added}</Mono>&nbsp;
          <Mono className="bad">−{removed}</Mono>
        </Link>
      )}
    </>
  );
}

/** What was read of the fabric one looks at, and when. */
function ReadAt({ fabric }: { readonly fabric: string }) {
  const { currentData: live } = watchApi.useLiveQuery({ name: fabric, change: null });
  if (!live || live.readAt === null) return null;
  const wrong = live.causes.length;
  return (
    <Link to={`/watch?fabric=${fabric}`} className="read">
      <StateMark mood={wrong > 0 ? 'fallen' : 'bloom'} />
      {wrong > 0
        ? `${wrong} wrong now`
        : live.sessions.meant > 0
          ? `${live.sessions.up} of ${live.sessions.meant} sessions up`
          : `${live.links.up} of ${live.links.planned} links up`}
      , read {ago(live.readAt)}
    </Link>
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
    padding-right: 14px;
    margin-right: 14px;
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
    color: ${token('faded')};
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    margin-right: 0;
  }
  .read {
    border: 0;
    margin-right: 0;
    padding-right: 0;
  }
  .bad,
  .lost {
    color: ${token('madder')};
  }
  .new {
    color: ${token('lapis')};
  }
`;
