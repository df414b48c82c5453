import type { BetweenStand, SwitchBetween } from '@anthemion/contract';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef } from 'react';
import { styled } from 'styled-components';
import { mono, token } from '../../parts/theme.ts';

const LINE = 26;
const WORDS: Readonly<Record<Exclude<BetweenStand, 'differs'>, string>> = {
  same: 'same',
  'only left': 'only left',
  'only right': 'only right',
  'no text left': 'no text left',
  'no text right': 'no text right',
};

/** The switches of a fabric at two moments, those that differ first; drawn as far as one sees. */
export function BetweenList({
  switches,
  isOneMoment,
  of,
  onPick,
}: {
  readonly switches: readonly SwitchBetween[];
  /** Both moments are one: then of course every switch is the same. */
  readonly isOneMoment: boolean;
  readonly of: string | null;
  readonly onPick: (seat: string) => void;
}) {
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: switches.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => LINE,
    overscan: 10,
  });
  return (
    <Box ref={scroller}>
      <ul aria-label="Switches" style={{ height: virtual.getTotalSize() + 12 }}>
        {virtual.getVirtualItems().map(({ index, start }) => {
          const s = switches[index]!;
          return (
            <li
              key={s.seat}
              aria-setsize={switches.length}
              aria-posinset={index + 1}
              style={{ transform: `translateY(${start + 6}px)` }}
            >
              <button aria-pressed={s.seat === of} onClick={() => onPick(s.seat)}>
                <b>{s.host}</b>{' '}
                <small>{isOneMoment ? '' : s.stand === 'differs' ? `+${s.added} −${s.removed}` : WORDS[s.stand]}</small>
              </button>
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
  button {
    all: unset;
    box-sizing: border-box;
    cursor: pointer;
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 5px;
    align-items: center;
    width: 100%;
    height: 100%;
    padding: 0 8px 0 22px;
  }
  b {
    font: 600 12px ${mono};
  }
  small {
    color: ${token('faded')};
    font-size: 11.5px;
  }
  button:hover {
    background: ${token('sheet')};
  }
  button[aria-pressed='true'] {
    background: ${token('verdigris-wash')};
  }
  button[aria-pressed='true'] small {
    color: ${token('ink')};
  }
  button:focus-visible {
    outline: 2px solid ${token('verdigris')};
    outline-offset: -2px;
  }
`;
