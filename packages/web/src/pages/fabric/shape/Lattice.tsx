import type { SeatStand } from '../stands.ts';
import { DUTY_WORDS, hasServers, type Layout, type LinkStand, type Seat } from '@anthemion/core';
import { useMemo } from 'react';
import { styled } from 'styled-components';
import { Cap, Faded } from '../../../parts/basics.tsx';
import { linkMood } from '../../../parts/moods.ts';
import { StateMark } from '../../../parts/StateMark.tsx';
import { mono, token } from '../../../parts/theme.ts';
import { latticeSections } from './latticeSections.ts';
import { LeafMark } from './LeafMark.tsx';
import { HEALTH_COLOURS, isWrong } from './palmetteColours.ts';

interface Props {
  readonly layout: Layout;
  readonly stands: ReadonlyMap<string, SeatStand>;
  /** Links that are not up, by name. */
  readonly links: ReadonlyMap<string, LinkStand>;
  readonly selected: string | null;
  readonly onSelect: (at: string) => void;
}

/** Floor over floor as matrices, one cell for all links of two switches with the ports at both ends: cabling and failures are read from it. */
export function Lattice({ layout, stands, links, selected, onSelect }: Props) {
  const sections = useMemo(() => latticeSections(layout), [layout]);
  const head = (seat: Seat) => (
    <button onClick={() => onSelect(placeOf(seat))}>
      <SeatMark seat={seat} stand={stands.get(seat.id)} />
      {seat.host}
    </button>
  );
  return (
    <Scroll tabIndex={0} role="region" aria-label="Lattice of links">
      {sections.map(({ title, columns, rows }) => (
        <section key={title} aria-label={title}>
          <Cap as="h2">{title}</Cap>
          <table>
            <thead>
              <tr>
                <td />
                {columns.map((c) => (
                  <th key={c.key} scope="col">
                    {c.seat && head(c.seat)}
                    <Faded as="div">{c.title}</Faded>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map(({ seat, cells }) => (
                <tr key={seat.id} className={selected === placeOf(seat) ? 'on' : ''}>
                  <th scope="row">
                    {head(seat)}
                    {seat.duties && <Faded> {seat.duties.map((d) => DUTY_WORDS[d]).join(', ')}</Faded>}
                  </th>
                  {columns.map((c) => (
                    <td key={c.key} className="cell">
                      {cells.get(c.key)?.map(({ id, words }) => {
                        const stand = links.get(id) ?? 'up';
                        return (
                          <span key={id} className={isWrong(stand) ? 'wrong' : ''}>
                            {stand !== 'up' && <StateMark mood={linkMood[stand]} size={12} label={stand} />}
                            {words}
                          </span>
                        );
                      })}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      ))}
    </Scroll>
  );
}
const placeOf = (s: Seat): string => (s.rack === undefined ? `seat:${s.id}` : `rack:${s.rack}`);

/** The shape of the picture: by what it does, in the colour of how it is. */
function SeatMark({ seat, stand }: { readonly seat: Seat; readonly stand: SeatStand | undefined }) {
  const health = stand?.standing ?? 'unread';
  const [fill, stroke] = HEALTH_COLOURS[health];
  const look = {
    fill: token(fill),
    stroke: token(stroke),
    strokeWidth: 1.5,
    strokeDasharray: stand?.serial == null ? '3 2.4' : undefined,
  };
  return (
    <svg width={14} height={14} viewBox="-7 -7 14 14" role="img" aria-label={health}>
      {hasServers(seat) ? (
        <LeafMark at={{ x: 0, y: 0 }} size={5} gate={seat.duties !== undefined} {...look} />
      ) : (
        <path d="M0-6 6 0 0 6-6 0Z" {...look} />
      )}
    </svg>
  );
}

const Scroll = styled.div`
  flex: 1;
  overflow: auto;
  padding: 12px 0;
  section {
    margin-bottom: 18px;
    content-visibility: auto;
    contain-intrinsic-size: auto 300px;
  }
  table {
    border-collapse: collapse;
    font-size: 13px;
    margin-top: 4px;
  }
  th {
    text-align: left;
    font-weight: 600;
    padding: 4px 14px 4px 2px;
    white-space: nowrap;
  }
  tbody th > * {
    vertical-align: middle;
  }
  tbody th {
    position: sticky;
    left: 0;
    background: ${token('paper')};
    font-weight: 400;
  }
  thead th {
    vertical-align: bottom;
    padding-left: 8px;
    font-weight: 400;
    font-size: 12px;
  }
  .cell {
    border: 1px solid ${token('rule')};
    padding: 4px 10px;
    font: 12px ${mono};
    background: ${token('sheet')};
    white-space: nowrap;
  }
  .cell span {
    display: flex;
    gap: 5px;
    align-items: center;
  }
  .cell .wrong {
    color: ${token('madder')};
  }
  tr.on .cell {
    background: ${token('verdigris-wash')};
  }
  button {
    all: unset;
    cursor: pointer;
    font: 600 12.5px ${mono};
    display: inline-flex;
    gap: 6px;
    align-items: center;
  }
  button:focus-visible {
    outline: 2px solid ${token('verdigris')};
  }
`;
