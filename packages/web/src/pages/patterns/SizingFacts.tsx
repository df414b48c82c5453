import type { FabricPattern, PartsCatalogue } from '@anthemion/core';
import { styled } from 'styled-components';
import { token } from '../../parts/theme.ts';
import { Cap, Note } from '../../parts/basics.tsx';
import { fullness, StateMark } from '../../parts/StateMark.tsx';
import { useSizing } from './useSizing.ts';

const ratio = (n: number | null): string => (n === null || !Number.isFinite(n) ? '–' : `${Number(n.toFixed(2))} : 1`);

/** Does it fit: ports needed and left, oversubscription, how far it can grow, what it will draw. */
export function SizingFacts({ pattern, parts }: { readonly pattern: FabricPattern; readonly parts: PartsCatalogue }) {
  const s = useSizing(pattern, parts);
  if (!s) return null;
  const draws: [string, number][] = [
    ['AS numbers', s.draws.spineAsns + s.draws.leafAsns],
    ['loopbacks', s.draws.loopbacks],
    ['VTEPs', s.draws.vteps],
    ['/31 links', s.draws.linkPrefixes],
    ['IPv6 loopbacks', s.draws.loopbacks6],
    ['/127 links', s.draws.linkPrefixes6],
  ];
  return (
    <Box aria-label="Sizing">
      {s.findings.map((f) => (
        <Note key={f.message} $tone="bad">
          {f.message} <b>{f.cure}</b>
        </Note>
      ))}
      <div className="grid">
        <div>
          <Cap>Shape</Cap>
          <b>{s.switches} switches</b>
          <span>
            {s.tiers
              .toReversed()
              .map((t) => `${t.switches} ${t.switches === 1 ? t.tier : `${t.tier}s`}, `)
              .join('')}
            {s.leaves} leaves in {s.racks} {s.racks === 1 ? 'rack' : 'racks'}, {s.links} links
          </span>
        </div>
        <div>
          <Cap>{s.tiers.length > 0 ? 'Ports above the racks' : 'Ports between leaves'}</Cap>
          {s.tiers.map((t) => (
            <b key={t.tier}>
              <StateMark {...fullness(t.portsNeeded > t.portsFitted ? 0 : t.portsNeeded, t.portsFitted)} size={14} />{' '}
              {t.portsNeeded} of {t.portsFitted} on a {t.tier}
            </b>
          ))}
          <span>
            grows to {s.largestLeaves} leaves{pattern.shape === 'five-stages' && ' a pod'}
          </span>
        </div>
        <div>
          <Cap>Oversubscription</Cap>
          {s.rackSizings
            .filter((r) => r.count > 0)
            .map((r) => (
              <span key={r.pattern}>
                <b>{ratio(r.oversubscription)}</b> {r.pattern}; a spine lost {ratio(r.oversubscriptionSpineLost)}
              </span>
            ))}
        </div>
        <div>
          <Cap>Will draw</Cap>
          <span>
            {draws
              .filter(([, n]) => n > 0)
              .map(([what, n]) => `${n} ${what}`)
              .join(', ') || 'nothing but what its networks need'}
          </span>
        </div>
      </div>
    </Box>
  );
}
const Box = styled.section`
  background: ${token('sheet')};
  border: 1px solid ${token('rule')};
  border-radius: 5px;
  padding: 12px 16px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  .grid {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(170px, 1fr));
    gap: 14px;
    font-size: 13px;
  }
  .grid > div {
    display: flex;
    flex-direction: column;
    gap: 2px;
  }
  .grid > div > span {
    color: ${token('faded')};
  }
`;
