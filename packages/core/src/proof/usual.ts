/** A value that something has on switches, and the first of them. */
interface Standing<V> {
  readonly value: V;
  readonly host: string;
  n: number;
}

/**
 * What most switches say of each of many things: where they do not agree, the odd one is blamed, not the many. Of values
 * that are equally many it is the first.
 */
export class Usual<K, V> {
  private readonly seen = new Map<K, Standing<V>[]>();

  add(key: K, value: V, host: string): void {
    const known = this.seen.get(key);
    if (!known) {
      this.seen.set(key, [{ value, host, n: 1 }]);
      return;
    }
    const same = known.find((s) => s.value === value);
    if (same) same.n++;
    else known.push({ value, host, n: 1 });
  }

  /** What is usual, where `value` is not; null = it is usual itself. */
  against(key: K, value: V): { readonly value: V; readonly host: string } | null {
    const all = this.seen.get(key);
    if (!all || all.length === 1) return null;
    const most = all.reduce((a, b) => (b.n > a.n ? b : a));
    return most.value === value ? null : most;
  }
}
