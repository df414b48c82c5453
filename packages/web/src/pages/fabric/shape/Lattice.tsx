import type { Layout, LinkStand, Seat } from '@anthemion/core';
import { styled } from 'styled-components';
import { linkMood } from '../../../parts/moods.ts';
import { StateMark } from '../../../parts/StateMark.tsx';
import { mono, token } from '../../../parts/theme.ts';
import { isWrong } from './palmetteColours.ts';

/** Leaf × spine matrix, one cell a link with the ports at both ends: cabling and failures are read from it. */
export function Lattice({
  layout,
  links,
  selected,
  onSelect,
}: {
  readonly layout: Layout;
  /** Links that are not up, by name. */
  readonly links: ReadonlyMap<string, LinkStand>;
  readonly selected: string | null;
  readonly onSelect: (at: string) => void;
}) {
  // Every seat that is the lower end of a link against every one that is the upper end of one.
  const lower = layout.seats.filter((s) => layout.linksOf.get(s.id)?.some((l) => l.a.seat === s.id));
  const upper = layout.seats.filter((s) => layout.linksOf.get(s.id)?.some((l) => l.b.seat === s.id));
  return (
    <Scroll tabIndex={0} role="region" aria-label="Lattice of links">
      <table>
        <thead>
          <tr>
            <th scope="col">Lower \ upper</th>
            {upper.map((s) => (
              <th key={s.id} scope="col">
                {s.id}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lower.map((low) => (
            <tr key={low.id} className={selected === placeOf(low) ? 'on' : ''}>
              <th scope="row">
                <button onClick={() => onSelect(placeOf(low))}>{low.host}</button>
              </th>
              {upper.map((up) => (
                <td key={up.id}>
                  {(layout.linksOf.get(low.id) ?? [])
                    .filter((l) => l.b.seat === up.id)
                    .map((l) => {
                      const stand = links.get(l.id) ?? 'up';
                      return (
                        <span key={l.id} className={isWrong(stand) ? 'wrong' : ''}>
                          {stand !== 'up' && <StateMark mood={linkMood[stand]} size={12} label={stand} />}
                          {l.a.port} – {l.b.port}
                          {l.kind !== 'fabric' && ` ${l.kind}`}
                        </span>
                      );
                    })}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </Scroll>
  );
}
const placeOf = (s: Seat): string => (s.rack === undefined ? `seat:${s.id}` : `rack:${s.rack}`);
const Scroll = styled.div`
  flex: 1;
  overflow: auto;
  padding: 12px 0;
  table {
    border-collapse: collapse;
    font-size: 13px;
  }
  th {
    text-align: left;
    font-weight: 600;
    padding: 4px 14px 4px 8px;
    position: sticky;
    left: 0;
    background: ${token('paper')};
  }
  thead th {
    top: 0;
    color: ${token('faded')};
  }
  td {
    border: 1px solid ${token('rule')};
    padding: 4px 10px;
    font: 12px ${mono};
    background: ${token('sheet')};
    white-space: nowrap;
  }
  td span {
    display: flex;
    gap: 5px;
    align-items: center;
  }
  td .wrong {
    color: ${token('madder')};
  }
  tr.on td {
    background: ${token('verdigris-wash')};
  }
  button {
    all: unset;
    cursor: pointer;
    font: 600 12.5px ${mono};
  }
  button:focus-visible {
    outline: 2px solid ${token('verdigris')};
  }
`;
