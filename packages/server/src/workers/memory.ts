/** Remembers things up to a weight in bytes; what was used least lately goes first. */
export class BoundedMemory<V> {
  private readonly items = new Map<string, { value: V; weight: number }>();
  private readonly limit: number;
  private total = 0;
  /** `limit` in bytes, as the callers estimate them. */
  constructor(limit: number) {
    this.limit = limit;
  }

  get(key: string): V | undefined {
    const item = this.items.get(key);
    if (!item) return undefined;
    this.items.delete(key);
    this.items.set(key, item);
    return item.value;
  }

  /** Keeps a value, or weighs it again after it has grown. One that is heavier than the limit alone is still kept, alone. */
  put(key: string, value: V, weight: number): void {
    this.forget(key);
    this.items.set(key, { value, weight });
    this.total += weight;
    for (const oldest of this.items.keys()) {
      if (this.total <= this.limit || this.items.size === 1) break;
      this.forget(oldest);
    }
  }

  private forget(key: string): void {
    const item = this.items.get(key);
    if (!item) return;
    this.items.delete(key);
    this.total -= item.weight;
  }

  get weight(): number {
    return this.total;
  }
}
