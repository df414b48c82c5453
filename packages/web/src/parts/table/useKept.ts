import { useCallback, useState } from 'react';

/** How somebody has set up a table: columns hidden, and widths in pixels of those that were resized. */
export interface TableSetup {
  readonly hidden: readonly string[];
  readonly widths: Readonly<Record<string, number>>;
}
const PREFIX = 'anthemion-table ';
const NOTHING: TableSetup = { hidden: [], widths: {} };

function read(name: string): TableSetup {
  try {
    return { ...NOTHING, ...(JSON.parse(localStorage.getItem(PREFIX + name) ?? '{}') as Partial<TableSetup>) };
  } catch {
    return NOTHING;
  }
}

/** The set-up of a table, kept in this browser under its name. */
export function useKept(name: string): readonly [TableSetup, (change: Partial<TableSetup>) => void] {
  const [setup, setSetup] = useState(() => read(name));
  const change = useCallback(
    (to: Partial<TableSetup>) =>
      setSetup((was) => {
        const next = { ...was, ...to };
        localStorage.setItem(PREFIX + name, JSON.stringify(next));
        return next;
      }),
    [name],
  );
  return [setup, change];
}
