import type { Seat } from '@anthemion/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef } from 'react';
import { Link } from 'react-router';
import { styled } from 'styled-components';
import { healthMood } from '../../parts/moods.ts';
import { StateMark } from '../../parts/StateMark.tsx';
import { mono, token } from '../../parts/theme.ts';
import { useFabricView } from './FabricFrame.tsx';

const LINE = 26;

/** The switches of a fabric beside their text, with what a change or a hand did to each; drawn as far as one sees. */
export function SwitchList({
  seats,
  seat,
  onGo,
}: {
  readonly seats: readonly Seat[];
  /** The one whose text is shown. */
  readonly seat: string;
  readonly onGo: () => void;
}) {
  const { fabric, change, proof, stands } = useFabricView();
  const scroller = useRef<HTMLDivElement>(null);
  const touched = useMemo(() => new Map((proof?.switches ?? []).map((s) => [s.seat, s])), [proof]);
  const virtual = useVirtualizer({
    count: seats.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => LINE,
    overscan: 10,
  });
  const at = seats.findIndex((s) => s.id === seat);
  useEffect(() => virtual.scrollToIndex(at), [virtual, at]);
  return (
    <Box ref={scroller}>
      <ul aria-label="Switches" style={{ height: virtual.getTotalSize() + 12 }}>
        {virtual.getVirtualItems().map(({ index, start }) => {
          const s = seats[index]!;
          const t = touched.get(s.id);
          const state = stands.get(s.id);
          const waits = change !== null && t !== undefined && t.fate !== 'same';
          return (
            <li
              key={s.id}
              aria-setsize={seats.length}
              aria-posinset={index + 1}
              style={{ transform: `translateY(${start + 6}px)` }}
            >
              <Link to={`/fabrics/${fabric.name}/text/${s.id}`} aria-current={s.id === seat} onClick={onGo}>
                <StateMark
                  mood={waits ? 'dewed' : state?.serial == null ? 'bud' : healthMood[state.health]}
                  size={12}
                />
                <b>{s.host}</b>
                <small>{waits ? `+${t.added} −${t.removed}` : state?.health === 'drifted' ? 'drifted' : ''}</small>
              </Link>
            </li>
          );
        })}
      </ul>
    </Box>
  );
}

const Box = styled.div`
  overflow: auto;
  border-right: 1px solid ${token('rule')};
  ul {
    position: relative;
  }
  li {
    position: absolute;
    inset: 0 0 auto;
    height: ${LINE}px;
  }
  a {
    display: grid;
    grid-template-columns: 16px 1fr auto;
    gap: 5px;
    align-items: center;
    height: 100%;
    padding: 0 8px 0 20px;
    color: ${token('ink')};
    text-decoration: none;
    font-size: 13px;
  }
  b {
    font: 600 12px ${mono};
  }
  small {
    color: ${token('faded')};
    font-size: 11.5px;
  }
  a:hover {
    background: ${token('sheet')};
  }
  a[aria-current='true'] {
    background: ${token('verdigris-wash')};
  }
`;
