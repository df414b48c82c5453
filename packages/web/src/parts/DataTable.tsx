import { useTable, type ColumnDef } from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Download } from 'lucide-react';
import { useMemo, useRef, useState, type ClipboardEvent, type KeyboardEvent, type ReactNode } from 'react';
import { Button, IconButton } from './basics.tsx';
import { csvOf, pastedCells, saveCsv } from './csv.ts';
import { Tick } from './fields.tsx';
import { ColumnsMenu } from './table/ColumnsMenu.tsx';
import { features, inOrder } from './table/features.ts';
import { filterRows, readFilter } from './table/filter.ts';
import { FilterBox } from './table/FilterBox.tsx';
import { Bar, BulkBar, Frame, LEAST_WIDTH, ROW_HEIGHT, Scroller } from './table/tableStyles.ts';
import { TableHead } from './table/TableHead.tsx';
import { useKept } from './table/useKept.ts';

export interface TableColumn<T> {
  readonly id: string;
  readonly title: string;
  readonly width?: string;
  readonly right?: boolean;
  /** What the cell sorts, filters and exports by. */
  readonly text: (row: T) => string | number;
  readonly cell?: (row: T) => ReactNode;
}
export interface TableProps<T> {
  readonly label: string;
  readonly rows: readonly T[];
  /** The first one is the name of a row: it is always shown. */
  readonly columns: readonly TableColumn<T>[];
  readonly rowKey: (row: T) => string;
  readonly selected?: string | undefined;
  readonly onSelect?: (row: T) => void;
  /** Rows can be picked, several together; the bar is shown above them while some are. */
  readonly bulk?: (picked: readonly T[], done: () => void) => ReactNode;
  /** Cells pasted from a spreadsheet, row by row. */
  readonly onPaste?: (cells: readonly (readonly string[])[]) => void;
  readonly actions?: ReactNode;
  readonly empty?: ReactNode;
  readonly fileName?: string;
}

/**
 * A table of any length: typed filter with completion, sorting, columns hidden, resized and kept, rows picked together,
 * cells pasted in, CSV out, and everything by keys (arrows, Home, End, Enter, Space, Ctrl-A; Alt and arrows on a heading).
 */
export function DataTable<T extends object>(props: TableProps<T>) {
  const { label, rows, columns, rowKey, selected, onSelect, bulk, onPaste, actions, empty, fileName } = props;
  const [query, setQuery] = useState('');
  const scroller = useRef<HTMLDivElement>(null);
  const lastPicked = useRef<number | null>(null);
  const [setup, keepSetup] = useKept(fileName ?? label);
  // Columns are often made anew by the page though they mean the same.
  const meaning = columns.map((c) => c.id).join();
  // eslint-disable-next-line react-hooks/exhaustive-deps
  const texts = useMemo(() => new Map<T, string>(), [rows, meaning]);
  const data = useMemo(
    () => filterRows(rows, readFilter(query, columns), columns, texts) as T[],
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [rows, query, meaning, texts],
  );
  const defs = useMemo(
    () =>
      columns.map((c): ColumnDef<typeof features, T> => ({
        id: c.id,
        accessorFn: (row) => c.text(row),
        sortFn: (a, b) => inOrder(c.text(a.original), c.text(b.original)),
        sortDescFirst: false,
        minSize: 48,
      })),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [meaning, data],
  );
  const visibility = useMemo(() => Object.fromEntries(setup.hidden.map((id) => [id, false])), [setup.hidden]);
  const table = useTable({
    features,
    columns: defs,
    data,
    getRowId: (row) => rowKey(row),
    enableRowSelection: bulk !== undefined,
    state: { columnVisibility: visibility, columnSizing: setup.widths },
    columnResizeMode: 'onChange',
    onColumnSizingChange: (next) =>
      keepSetup({ widths: typeof next === 'function' ? next({ ...setup.widths }) : next }),
  });
  const shown = table.getRowModel().rows;
  const byId = new Map(columns.map((c) => [c.id, c]));
  const heads = (table.getHeaderGroups()[0]?.headers ?? []).filter((h) => byId.has(h.column.id));
  const picked = bulk ? shown.filter((r) => r.getIsSelected()).map((r) => r.original) : [];

  const virtual = useVirtualizer({
    count: shown.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 6,
  });
  const items = virtual.getVirtualItems();
  const above = items[0]?.start ?? 0;
  const below = items.length > 0 ? virtual.getTotalSize() - items.at(-1)!.end : 0;

  const focusRow = (to: number): void => {
    virtual.scrollToIndex(to);
    requestAnimationFrame(() => scroller.current?.querySelector<HTMLElement>(`[data-index="${to}"]`)?.focus());
  };
  const pickTo = (index: number, range: boolean): void => {
    const from = range && lastPicked.current !== null ? lastPicked.current : index;
    const on = range || !shown[index]!.getIsSelected();
    for (let i = Math.min(from, index); i <= Math.max(from, index); i++) shown[i]?.toggleSelected(on);
    lastPicked.current = index;
  };
  const walk = (e: KeyboardEvent<HTMLTableRowElement>, index: number): void => {
    if (e.target !== e.currentTarget) return;
    if (bulk && (e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'a') {
      e.preventDefault();
      table.toggleAllRowsSelected(true);
      return;
    }
    if (e.key === ' ' && bulk) {
      e.preventDefault();
      pickTo(index, e.shiftKey);
      return;
    }
    if (e.key === 'Enter' || e.key === ' ') {
      e.preventDefault();
      onSelect?.(shown[index]!.original);
    }
    const to = { ArrowDown: index + 1, ArrowUp: index - 1, Home: 0, End: shown.length - 1 }[e.key];
    if (to === undefined || to < 0 || to >= shown.length) return;
    e.preventDefault();
    if (bulk && e.shiftKey) {
      shown[index]!.toggleSelected(true);
      pickTo(to, true);
    }
    focusRow(to);
  };
  /** Widths are kept for all columns together, from what they are on the screen. */
  const freeze = (): Readonly<Record<string, number>> => {
    const widths: Record<string, number> = {};
    for (const th of scroller.current?.querySelectorAll<HTMLElement>('thead th[data-column]') ?? [])
      widths[th.dataset['column']!] = th.offsetWidth;
    keepSetup({ widths });
    return widths;
  };
  const widen = (id: string, by: number): void => {
    const widths = freeze();
    keepSetup({ widths: { ...widths, [id]: Math.max(48, (widths[id] ?? LEAST_WIDTH) + by) } });
  };
  const exportCsv = (): void => {
    const visible = heads.map((h) => byId.get(h.column.id)!);
    saveCsv(
      fileName ?? label.toLowerCase().replaceAll(' ', '-'),
      csvOf([visible.map((c) => c.title), ...shown.map((r) => visible.map((c) => c.text(r.original)))]),
    );
  };
  const paste = (e: ClipboardEvent): void => {
    const target = e.target as HTMLElement;
    if (!onPaste || /INPUT|TEXTAREA/.test(target.tagName)) return;
    const cells = pastedCells(e.clipboardData.getData('text/plain'));
    if (cells.length === 0) return;
    e.preventDefault();
    onPaste(cells);
  };
  const sized = heads.some((h) => setup.widths[h.column.id] !== undefined);
  const least = sized
    ? heads.reduce((n, h) => n + (setup.widths[h.column.id] ?? LEAST_WIDTH), 0)
    : heads.length * LEAST_WIDTH;

  return (
    <Frame onPaste={paste}>
      <Bar>
        <FilterBox label={label} query={query} onQuery={setQuery} rows={rows} columns={columns} />
        <span className="count">
          {shown.length === rows.length ? `${rows.length}` : `${shown.length} of ${rows.length}`}
        </span>
        <IconButton aria-label={`Export ${label} as CSV`} onPress={exportCsv}>
          <Download size={15} />
        </IconButton>
        <ColumnsMenu
          label={label}
          columns={columns}
          hidden={setup.hidden}
          onHidden={(hidden) => keepSetup({ hidden })}
          onReset={() => keepSetup({ hidden: [], widths: {} })}
        />
        <span className="grow" />
        {actions}
      </Bar>
      {bulk && picked.length > 0 && (
        <BulkBar role="toolbar" aria-label={`For the picked ${label.toLowerCase()}`}>
          <b>{picked.length} picked</b>
          {bulk(picked, () => table.resetRowSelection())}
          <span style={{ flex: 1 }} />
          <Button onPress={() => table.resetRowSelection()}>Pick none</Button>
        </BulkBar>
      )}
      {rows.length === 0 && empty ? (
        empty
      ) : (
        // The scroller takes focus so that it can be scrolled by keys where no row can.
        <Scroller ref={scroller} tabIndex={0} role="region" aria-label={label}>
          <table
            aria-rowcount={shown.length + 1}
            style={{ minWidth: least + (bulk ? 32 : 0), ...(sized ? { width: least + (bulk ? 32 : 0) } : {}) }}
            {...(bulk ? { role: 'grid', 'aria-multiselectable': true } : {})}
          >
            <colgroup>
              {bulk && <col style={{ width: 32 }} />}
              {heads.map((h) => {
                const width = setup.widths[h.column.id] ?? byId.get(h.column.id)!.width;
                return <col key={h.id} style={width === undefined ? {} : { width }} />;
              })}
            </colgroup>
            <TableHead
              heads={heads.map((h) => ({
                id: h.id,
                column: byId.get(h.column.id)!,
                sorted: h.column.getIsSorted(),
                onSort: () => h.column.toggleSorting(),
                onResize: (e) => {
                  freeze();
                  h.getResizeHandler()(e);
                },
              }))}
              {...(bulk
                ? {
                    allPicked: shown.length > 0 && picked.length === shown.length,
                    onPickAll: (on: boolean) => table.toggleAllRowsSelected(on),
                  }
                : {})}
              onWiden={widen}
              onReset={() => keepSetup({ widths: {} })}
            />
            <tbody>
              {above > 0 && <tr aria-hidden style={{ height: above }} />}
              {items.map(({ index }) => {
                const row = shown[index]!;
                const isPicked = bulk !== undefined && row.getIsSelected();
                return (
                  <tr
                    key={row.id}
                    data-index={index}
                    aria-rowindex={index + 2}
                    className={row.id === selected ? 'selected' : ''}
                    {...(bulk ? { 'aria-selected': isPicked } : {})}
                    {...(onSelect || bulk
                      ? {
                          tabIndex: 0,
                          onClick: (e) => {
                            if (bulk && (e.shiftKey || e.ctrlKey || e.metaKey)) pickTo(index, e.shiftKey);
                            else onSelect?.(row.original);
                          },
                          onKeyDown: (e: KeyboardEvent<HTMLTableRowElement>) => walk(e, index),
                          ...(bulk ? {} : { 'aria-current': row.id === selected }),
                        }
                      : {})}
                  >
                    {bulk && (
                      <td className="pick" onClick={(e) => e.stopPropagation()}>
                        <Tick
                          hideLabel
                          label={`Pick ${row.id}`}
                          value={isPicked}
                          onChange={() => pickTo(index, false)}
                        />
                      </td>
                    )}
                    {heads.map((h, i) => {
                      const c = byId.get(h.column.id)!;
                      const content = c.cell ? c.cell(row.original) : c.text(row.original);
                      return i === 0 ? (
                        <th key={h.id} scope="row">
                          {content}
                        </th>
                      ) : (
                        <td key={h.id} className={c.right ? 'right' : ''}>
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
