import {
  columnResizingFeature,
  columnSizingFeature,
  columnVisibilityFeature,
  createSortedRowModel,
  rowSelectionFeature,
  rowSortingFeature,
  tableFeatures,
} from '@tanstack/react-table';

/** What tables do beside the plain rows. */
export const features = tableFeatures({
  rowSortingFeature,
  rowSelectionFeature,
  columnVisibilityFeature,
  columnSizingFeature,
  columnResizingFeature,
  sortedRowModel: createSortedRowModel(),
});
const collator = new Intl.Collator('en', { numeric: true });
/** Order in which engineers read: p2 before p10, numbers by size. */
export const inOrder = (x: string | number, y: string | number): number =>
  typeof x === 'number' && typeof y === 'number' ? x - y : collator.compare(String(x), String(y));
