import { capital } from '@anthemion/core';
import type { FabricDay } from '@anthemion/contract';
import { Link } from 'react-router';
import { styled } from 'styled-components';
import { healthMood } from '../../parts/moods.ts';
import { StandingStrip } from '../../parts/StandingStrip.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { tierText } from '../../parts/tierText.ts';
import { serif, token } from '../../parts/theme.ts';
import { ago } from '../../parts/times.ts';
import { worstOf } from '../../parts/moods.ts';

/** One fabric on the day sheet: its last day as a strip, and how many of its switches are as meant now. */
export function WhatRuns({ f }: { readonly f: FabricDay }) {
  const all = Object.values(f.counts).reduce((a, b) => a + b, 0);
  const worst = worstOf((Object.keys(f.counts) as (keyof FabricDay['counts'])[]).filter((h) => f.counts[h] > 0));
  const rest = [
    ...(['drifted', 'waiting', 'unread', 'out of service'] as const).flatMap((h) =>
      f.counts[h] > 0 ? `${f.counts[h]} ${h}` : [],
    ),
    ...(f.drained.length > 0 ? [`${f.drained.length} drained`] : []),
  ];
  return (
    <Line to={`/fabrics/${f.name}`}>
      <span className="name">
        <b>{capital(f.name)}</b>
        <small>{f.revision === 0 ? 'nothing live yet' : tierText(f)}</small>
      </span>
      {f.revision > 0 && <StandingStrip standings={f.standings} label={`The last day of ${f.name}`} />}
      <span className="now">
        {f.revision > 0 && (
          <>
            <span>
              <StateMark mood={healthMood[worst]} size={16} /> {f.counts['as meant']} of {all} as meant
            </span>
            <small>
              {rest.length > 0 && `${rest.join(', ')} · `}
              {f.readAt === null ? 'never read' : `read ${ago(f.readAt)}`}
            </small>
          </>
        )}
      </span>
    </Line>
  );
}

const Line = styled(Link)`
  display: grid;
  grid-template-columns: 128px minmax(120px, 1fr) 178px;
  gap: 16px;
  align-items: center;
  padding: 10px 0;
  border-top: 1px solid ${token('rule-soft')};
  color: inherit;
  text-decoration: none;
  &:first-of-type {
    margin-top: 8px;
  }
  &:hover b {
    text-decoration: underline;
  }
  b {
    font: 600 16px ${serif};
    display: block;
  }
  small {
    color: ${token('faded')};
    font-size: 12.5px;
  }
  .now {
    text-align: right;
    display: flex;
    flex-direction: column;
  }
  .now span {
    display: flex;
    gap: 7px;
    justify-content: flex-end;
    align-items: center;
  }
`;
