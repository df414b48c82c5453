import { useEffect, useId, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { styled } from 'styled-components';
import { token } from '../theme.ts';
import { completions, wordsOf, type FilterColumn } from './filter.ts';

/** The box a filter is typed into: `/` goes to it, the last word is completed, Escape leaves it. */
export function FilterBox<T>({
  label,
  query,
  onQuery,
  rows,
  columns,
}: {
  readonly label: string;
  readonly query: string;
  readonly onQuery: (query: string) => void;
  readonly rows: readonly T[];
  readonly columns: readonly FilterColumn<T>[];
}) {
  const box = useRef<HTMLInputElement>(null);
  const [typing, setTyping] = useState(false);
  const [at, setAt] = useState(-1);
  const id = useId();
  useEffect(() => {
    const onKey = (e: globalThis.KeyboardEvent): void => {
      const target = e.target as HTMLElement;
      // Where there are two tables, the first takes it.
      if (e.defaultPrevented) return;
      if (e.key === '/' && !/INPUT|TEXTAREA/.test(target.tagName) && !target.isContentEditable) {
        e.preventDefault();
        box.current?.focus();
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  const offers = useMemo(() => (typing ? completions(query, rows, columns) : []), [typing, query, rows, columns]);
  const take = (insert: string): void => {
    onQuery(insert);
    setAt(-1);
    box.current?.focus();
  };
  const onKeyDown = (e: KeyboardEvent): void => {
    if (e.key === 'Escape') {
      if (at >= 0) setAt(-1);
      else {
        onQuery('');
        box.current?.blur();
      }
      return;
    }
    const step = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    if (step !== undefined && offers.length > 0) {
      e.preventDefault();
      setAt((was) => Math.max(-1, Math.min(offers.length - 1, was + step)));
    }
    const picked = offers[at] ?? (e.key === 'Tab' ? offers[0] : undefined);
    if ((e.key === 'Enter' || (e.key === 'Tab' && !e.shiftKey)) && picked) {
      e.preventDefault();
      take(picked.insert);
    }
  };
  const isOpen = offers.length > 0;
  return (
    <Box>
      <input
        ref={box}
        value={query}
        onChange={(e) => {
          onQuery(e.target.value);
          setTyping(true);
          setAt(-1);
        }}
        onFocus={() => setTyping(true)}
        onBlur={() => setTyping(false)}
        onKeyDown={onKeyDown}
        placeholder="Filter  /"
        aria-label={`Filter ${label}`}
        title="Words that stand anywhere; state:drifted, port=p7, vlan>200, -word for what is not there"
        role="combobox"
        aria-autocomplete="list"
        aria-expanded={isOpen}
        aria-controls={`${id}-offers`}
        {...(at >= 0 ? { 'aria-activedescendant': `${id}-${at}` } : {})}
      />
      <ul id={`${id}-offers`} role="listbox" aria-label={`Completions for ${label}`} hidden={!isOpen}>
        {offers.map((o, i) => (
          <li
            key={o.insert}
            id={`${id}-${i}`}
            role="option"
            aria-selected={i === at}
            // Before the box loses the focus.
            onMouseDown={(e) => {
              e.preventDefault();
              take(o.insert);
            }}
          >
            <span>{wordsOf(o.insert).at(-1)}</span> <small>{o.note}</small>
          </li>
        ))}
      </ul>
    </Box>
  );
}

const Box = styled.div`
  position: relative;
  input {
    border: 1px solid ${token('rule')};
    border-radius: 4px;
    background: ${token('sheet')};
    padding: 4px 9px;
    width: 240px;
    font-size: 13px;
  }
  ul {
    position: absolute;
    z-index: 5;
    top: 100%;
    left: 0;
    min-width: 240px;
    margin-top: 3px;
    background: ${token('sheet')};
    border: 1px solid ${token('rule')};
    border-radius: 5px;
    box-shadow: 0 8px 24px ${token('shade')};
    padding: 4px;
    font-size: 13px;
  }
  ul[hidden] {
    display: none;
  }
  li {
    display: flex;
    justify-content: space-between;
    gap: 14px;
    padding: 4px 8px;
    border-radius: 3px;
    cursor: pointer;
  }
  li small {
    color: ${token('faded')};
  }
  li[aria-selected='true'],
  li:hover {
    background: ${token('verdigris-wash')};
  }
`;
