import { useVirtualizer } from '@tanstack/react-virtual';
import { Download } from 'lucide-react';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import { styled } from 'styled-components';
import { sans, token } from '../app/theme.ts';
import { IconButton } from './basics.tsx';
import { csvOf } from './csv.ts';

export interface TableColumn<T> {
  readonly id: string;
  readonly title: string;
  readonly width?: string;
  readonly right?: boolean;
  /** What the cell sorts, filters and exports by. */
  readonly text: (row: T) => string | number;
  readonly cell?: (row: T) => ReactNode;
}
interface Props<T> {
  readonly label: string;
  readonly rows: readonly T[];
  readonly columns: readonly TableColumn<T>[];
  readonly rowKey: (row: T) => string;
  readonly selected?: string | undefined;
  readonly onSelect?: (row: T) => void;
  readonly actions?: ReactNode;
  readonly empty?: ReactNode;
  readonly fileName?: string;
}

const ROW_HEIGHT = 31;
const collator = new Intl.Collator('en', { numeric: true });

/** A virtualised table: sorts, filters (`word` or `column:word`), exports CSV, and is walked with the arrow keys. */
export function DataTable<T>({ label, rows, columns, rowKey, selected, onSelect, actions, empty, fileName }: Props<T>) {
  const [query, setQuery] = useState('');
  const [sort, setSort] = useState<{ id: string; down: boolean } | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const filterBox = useRef<HTMLInputElement>(null);

  const shown = useMemo(() => {
    const words = query.toLowerCase().split(/\s+/).filter(Boolean);
    const hit = (row: T): boolean =>
      words.every((word) => {
        const cut = word.indexOf(':');
        const column =
          cut > 0
            ? columns.find(
                (c) =>
                  c.title.toLowerCase().startsWith(word.slice(0, cut)) || c.id.toLowerCase() === word.slice(0, cut),
              )
            : undefined;
        return column
          ? String(column.text(row))
              .toLowerCase()
              .includes(word.slice(cut + 1))
          : columns.some((c) => String(c.text(row)).toLowerCase().includes(word));
      });
    const kept = words.length === 0 ? [...rows] : rows.filter(hit);
    const by = sort && columns.find((c) => c.id === sort.id);
    if (by)
      kept.sort((a, b) => {
        const [x, y] = [by.text(a), by.text(b)];
        const order = typeof x === 'number' && typeof y === 'number' ? x - y : collator.compare(String(x), String(y));
        return sort.down ? -order : order;
      });
    return kept;
  }, [rows, columns, query, sort]);

  useEffect(() => {
    const onKey = (e: globalThis.KeyboardEvent): void => {
      const target = e.target as HTMLElement;
      if (e.key === '/' && !/INPUT|TEXTAREA/.test(target.tagName) && !target.isContentEditable) {
        e.preventDefault();
        filterBox.current?.focus();
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);

  const virtual = useVirtualizer({
    count: shown.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 12,
  });
  const items = virtual.getVirtualItems();
  const above = items[0]?.start ?? 0;
  const below = items.length > 0 ? virtual.getTotalSize() - items.at(-1)!.end : 0;

  const walk = (e: KeyboardEvent<HTMLTableRowElement>, index: number): void => {
    const to = { ArrowDown: index + 1, ArrowUp: index - 1, Home: 0, End: shown.length - 1 }[e.key];
    if ((e.key === 'Enter' || e.key === ' ') && e.target === e.currentTarget) {
      e.preventDefault();
      onSelect?.(shown[index]!);
    }
    if (to === undefined || to < 0 || to >= shown.length) return;
    e.preventDefault();
    virtual.scrollToIndex(to);
    requestAnimationFrame(() => scroller.current?.querySelector<HTMLElement>(`[data-index="${to}"]`)?.focus());
  };
  const exportCsv = (): void => {
    const text = csvOf([columns.map((c) => c.title), ...shown.map((r) => columns.map((c) => c.text(r)))]);
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([text], { type: 'text/csv' }));
    link.download = `${fileName ?? label.toLowerCase().replaceAll(' ', '-')}.csv`;
    link.click();
    URL.revokeObjectURL(link.href);
  };

  return (
    <Frame>
      <Bar>
        <input
          ref={filterBox}
          value={query}
          onChange={(e) => setQuery(e.target.value)}
          placeholder="Filter  /"
          aria-label={`Filter ${label}`}
          onKeyDown={(e) => e.key === 'Escape' && (setQuery(''), e.currentTarget.blur())}
        />
        <span className="count">
          {shown.length === rows.length ? `${rows.length}` : `${shown.length} of ${rows.length}`}
        </span>
        <IconButton aria-label={`Export ${label} as CSV`} onPress={exportCsv}>
          <Download size={15} />
        </IconButton>
        <span className="grow" />
        {actions}
      </Bar>
      {rows.length === 0 && empty ? (
        empty
      ) : (
        // The scroller takes focus so that it can be scrolled by keys where no row can.
        <Scroller ref={scroller} tabIndex={0} role="region" aria-label={label}>
          <table aria-rowcount={shown.length + 1}>
            <colgroup>
              {columns.map((c) => (
                <col key={c.id} style={c.width ? { width: c.width } : {}} />
              ))}
            </colgroup>
            <thead>
              <tr>
                {columns.map((c) => (
                  <th
                    key={c.id}
                    scope="col"
                    className={c.right ? 'right' : ''}
                    aria-sort={sort?.id === c.id ? (sort.down ? 'descending' : 'ascending') : 'none'}
                  >
                    <button
                      onClick={() =>
                        setSort(
                          sort?.id === c.id ? (sort.down ? null : { id: c.id, down: true }) : { id: c.id, down: false },
                        )
                      }
                    >
                      {c.title}
                      {sort?.id === c.id ? (sort.down ? ' ↓' : ' ↑') : ''}
                    </button>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {above > 0 && <tr aria-hidden style={{ height: above }} />}
              {items.map(({ index }) => {
                const row = shown[index]!;
                const key = rowKey(row);
                return (
                  <tr
                    key={key}
                    data-index={index}
                    aria-rowindex={index + 2}
                    className={key === selected ? 'selected' : ''}
                    {...(onSelect
                      ? {
                          tabIndex: 0,
                          onClick: () => onSelect(row),
                          onKeyDown: (e: KeyboardEvent<HTMLTableRowElement>) => walk(e, index),
                          'aria-current': key === selected,
                        }
                      : {})}
                  >
                    {columns.map((c, i) => {
                      const content = c.cell ? c.cell(row) : c.text(row);
                      return i === 0 ? (
                        <th key={c.id} scope="row">
                          {content}
                        </th>
                      ) : (
                        <td key={c.id} className={c.right ? 'right' : ''}>
                          {content}
                        </td>
                      );
                    })}
                  </tr>
                );
              })}
              {below > 0 && <tr aria-hidden style={{ height: below }} />}
            </tbody>
          </table>
          {shown.length === 0 && <p className="none">Nothing matches “{query}”.</p>}
        </Scroller>
      )}
    </Frame>
  );
}

const Frame = styled.div`
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
`;
const Bar = styled.div`
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 10px 0 8px;
  input {
    border: 1px solid ${token('rule')};
    border-radius: 4px;
    background: ${token('sheet')};
    padding: 4px 9px;
    width: 220px;
    font-size: 13px;
  }
  .count {
    color: ${token('faded')};
    font-size: 12.5px;
  }
  .grow {
    flex: 1;
  }
`;
const Scroller = styled.div`
  overflow: auto;
  flex: 1;
  min-height: 0;
  table {
    border-collapse: separate;
    border-spacing: 0;
    width: 100%;
    font-size: 13px;
    table-layout: fixed;
  }
  thead th {
    position: sticky;
    top: 0;
    background: ${token('paper')};
    text-align: left;
    border-bottom: 1px solid ${token('rule')};
    padding: 0 8px;
    z-index: 1;
    button {
      all: unset;
      cursor: pointer;
      font: 600 11px ${sans};
      letter-spacing: 0.08em;
      text-transform: uppercase;
      color: ${token('faded')};
      padding: 6px 0;
    }
    button:focus-visible {
      outline: 2px solid ${token('verdigris')};
    }
  }
  tbody th,
  td {
    height: ${ROW_HEIGHT}px;
    padding: 0 8px;
    border-bottom: 1px solid ${token('rule-soft')};
    font-weight: 400;
    text-align: left;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .right {
    text-align: right;
  }
  tbody tr[tabindex] {
    cursor: pointer;
  }
  tbody tr[tabindex]:hover > * {
    background: ${token('sheet')};
  }
  tbody tr.selected > * {
    background: ${token('verdigris-wash')};
  }
  tbody tr:focus-visible {
    outline-offset: -2px;
  }
  .none {
    color: ${token('faded')};
    padding: 16px 8px;
  }
`;
