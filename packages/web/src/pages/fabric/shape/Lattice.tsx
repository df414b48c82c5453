import { hasServers, type Layout, type LinkStand } from '@anthemion/core';
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
  const spines = layout.seats.filter((s) => !hasServers(s));
  const leaves = layout.seats.filter(hasServers);
  return (
    <Scroll tabIndex={0} role="region" aria-label="Lattice of links">
      <table>
        <thead>
          <tr>
            <th scope="col">Leaf \ spine</th>
            {spines.map((s) => (
              <th key={s.id} scope="col">
                {s.id}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {leaves.map((leaf) => (
            <tr key={leaf.id} className={selected === `rack:${leaf.rack}` ? 'on' : ''}>
              <th scope="row">
                <button onClick={() => onSelect(`rack:${leaf.rack}`)}>{leaf.host}</button>
              </th>
              {spines.map((spine) => (
                <td key={spine.id}>
                  {(layout.linksOf.get(leaf.id) ?? [])
                    .filter((l) => l.b.seat === spine.id)
                    .map((l) => {
                      const stand = links.get(l.id) ?? 'up';
                      return (
                        <span key={l.id} className={isWrong(stand) ? 'wrong' : ''}>
                          {stand !== 'up' && <StateMark mood={linkMood[stand]} size={12} label={stand} />}
                          {l.a.port} – {l.b.port}
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
