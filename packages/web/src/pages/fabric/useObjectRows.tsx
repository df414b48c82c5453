import type { DrawnValues, MadeKind, TableName } from '@anthemion/core';
import type { ReactNode } from 'react';
import { useMay } from '../../app/session.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button } from '../../parts/basics.tsx';
import type { TableProps } from '../../parts/DataTable.tsx';
import { useFabricView } from './FabricFrame.tsx';
import { removal } from './inPlace.ts';
import { usePasting } from './usePasting.tsx';

/** Objects of the open fabric as rows of a table. */
export interface ObjectRows<T> {
  /** Their table, as it comes from a spreadsheet. */
  readonly table: TableName;
  readonly kind: MadeKind;
  readonly keyOf: (item: T) => string;
  /** What the button says that takes so many away. */
  readonly away: (picked: number) => string;
  /** What is drawn, where the table writes it. */
  readonly values?: DrawnValues;
}

/** What a table of objects lets do who may design: take away those that are picked, and take in what is pasted. */
export function useObjectRows<T extends object>({
  table,
  kind,
  keyOf,
  away,
  values = null,
}: ObjectRows<T>): {
  readonly does: Pick<TableProps<T>, 'onPaste' | 'bulk'>;
  readonly dialog: ReactNode;
} {
  const { fabric } = useFabricView();
  const makeEdits = useEdits(fabric.name);
  const may = useMay('designer');
  const { onPaste, dialog } = usePasting(table, values);
  if (!may) return { does: {}, dialog };
  return {
    dialog,
    does: {
      onPaste,
      bulk: (picked, done) => (
        <Button
          $kind="danger"
          onPress={() => void makeEdits(picked.map((item) => removal(kind, { key: keyOf(item), item }))).then(done)}
        >
          {away(picked.length)}
        </Button>
      ),
    },
  };
}
