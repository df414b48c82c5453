/** Tables of a switch that a fabric fills, as people call what is in them. */
export const TABLES = {
  vnis: 'VNIs',
  vrfs: 'VRFs',
  lags: 'LAGs',
  gateways: 'gateways',
} as const;
export type TableName = keyof typeof TABLES;
/** How much of each a switch holds; what is not said is not judged. */
export type TableSizes = Partial<Readonly<Record<TableName, number>>>;

const NAMES = Object.keys(TABLES) as TableName[];

/** What tables hold as people write it; what `tablesText` writes, `tablesOf` reads. */
export const tablesText = (sizes: TableSizes = {}): string =>
  NAMES.flatMap((name) => (sizes[name] === undefined ? [] : `${sizes[name]} ${TABLES[name]}`)).join(', ');

/** `4000 VNIs, 512 VRFs`; null = it is not written so. */
export function tablesOf(text: string): TableSizes | null {
  const out: Partial<Record<TableName, number>> = {};
  for (const part of text.split(',').map((p) => p.trim())) {
    if (part === '') continue;
    const [, size = '', word = ''] = /^(\d{1,7}) +([a-z]+)$/i.exec(part) ?? [];
    const name = NAMES.find((n) => TABLES[n].toLowerCase() === word.toLowerCase());
    if (name === undefined || out[name] !== undefined) return null;
    out[name] = Number(size);
  }
  return out;
}
