import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, type ReactNode } from 'react';
import { Link } from 'react-router';
import { styled } from 'styled-components';
import { mono, token } from '../../parts/theme.ts';

const LINE = 26;

/** A switch in the column beside a text. */
export interface SwitchLine {
  readonly seat: string;
  readonly host: string;
  readonly mark?: ReactNode;
  readonly note: string;
  readonly to: string;
}

/** Switches of a fabric beside a text, each with a word on it; drawn as far as one sees. */
export function SwitchColumn({
  lines,
  seat,
  onGo,
}: {
  readonly lines: readonly SwitchLine[];
  /** The one whose text is shown; null = none yet. */
  readonly seat: string | null;
  readonly onGo?: () => void;
}) {
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => LINE,
    overscan: 10,
  });
  const at = lines.findIndex((s) => s.seat === seat);
  useEffect(() => {
    if (at >= 0) virtual.scrollToIndex(at);
  }, [virtual, at]);
  return (
    <Box ref={scroller}>
      <ul aria-label="Switches" style={{ height: virtual.getTotalSize() + 12 }}>
        {virtual.getVirtualItems().map(({ index, start }) => {
          const s = lines[index]!;
          return (
            <li
              key={s.seat}
              aria-setsize={lines.length}
              aria-posinset={index + 1}
              style={{ transform: `translateY(${start + 6}px)` }}
            >
              <Link to={s.to} aria-current={s.seat === seat} {...(onGo ? { onClick: onGo } : {})}>
                <span>{s.mark}</span>
                <b>{s.host}</b> <small>{s.note}</small>
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
  a[aria-current='true'] small {
    color: ${token('ink')};
  }
`;
