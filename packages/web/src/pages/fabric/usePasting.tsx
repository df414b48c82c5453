import { pastedInto, TABLES, type DrawnValues, type PastedEdits, type TableName } from '@anthemion/core';
import { useState, type ReactNode } from 'react';
import { notMade, useEdits } from '../../app/useEdits.ts';
import { PasteDialog } from '../../parts/PasteDialog.tsx';
import { useFabricView } from './FabricFrame.tsx';

/**
 * Takes cells from a spreadsheet into a table of the fabric: what each line asks for is shown before any of it is made.
 * @param values what is drawn, where the table writes it
 */
export function usePasting(
  table: TableName,
  values: DrawnValues = null,
): { readonly onPaste: (cells: readonly (readonly string[])[]) => void; readonly dialog: ReactNode } {
  const { fabric } = useFabricView();
  const makeEdits = useEdits(fabric.name);
  const [pasted, setPasted] = useState<PastedEdits | null>(null);
  return {
    onPaste: (cells) => setPasted(pastedInto(TABLES[table] as never, fabric.intent, values, cells)),
    dialog: (
      <PasteDialog
        pasted={pasted}
        onMake={(edits) => makeEdits(edits, true).then(notMade)}
        onClose={() => setPasted(null)}
      />
    ),
  };
}
