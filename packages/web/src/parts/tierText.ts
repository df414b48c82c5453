const plural = (n: number, one: string, many: string): string => `${n} ${n === 1 ? one : many}`;

/** `4 spines · 10 leaves in 8 racks`, from the top down; tiers that are not there are not said. */
export function tierText(
  { superSpines, spines, leaves }: { readonly superSpines: number; readonly spines: number; readonly leaves: number },
  racks?: number,
): string {
  const upper = [
    superSpines > 0 ? plural(superSpines, 'super-spine', 'super-spines') : '',
    spines > 0 ? plural(spines, 'spine', 'spines') : '',
  ].filter(Boolean);
  const below = plural(leaves, 'leaf', 'leaves');
  return [...upper, racks === undefined ? below : `${below} in ${plural(racks, 'rack', 'racks')}`].join(' · ');
}
