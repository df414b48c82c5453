import type { Interval } from './pool.ts';

/**
 * Taken intervals of one pool, merged and sorted, with search for the first free block. Neighbouring blocks merge, so a
 * pool drawn from the front stays a handful of intervals however many values are held.
 */
export class FreeSpace {
  private readonly from: number[] = [];
  private readonly to: number[] = [];

  /** Index of the first taken interval that ends at or after `at`. */
  private seek(at: number): number {
    let lo = 0;
    let hi = this.to.length;
    while (lo < hi) {
      const mid = (lo + hi) >> 1;
      if (this.to[mid]! < at) lo = mid + 1;
      else hi = mid;
    }
    return lo;
  }

  isFree(block: Interval): boolean {
    const i = this.seek(block.from);
    return i === this.from.length || this.from[i]! > block.to;
  }

  take(block: Interval): void {
    let i = this.seek(block.from - 1);
    let { from, to } = block;
    let n = 0;
    while (i + n < this.from.length && this.from[i + n]! <= to + 1) {
      from = Math.min(from, this.from[i + n]!);
      to = Math.max(to, this.to[i + n]!);
      n++;
    }
    this.from.splice(i, n, from);
    this.to.splice(i, n, to);
    i = 0;
  }

  /** Start of the first free block of `size` (aligned to its size) within the range, or null. */
  firstFree(range: Interval, size: number): number | null {
    const align = (n: number): number => Math.ceil(n / size) * size;
    let at = align(range.from);
    for (let i = this.seek(at); at + size - 1 <= range.to; i++) {
      if (i === this.from.length || this.from[i]! > at + size - 1) return at;
      at = align(this.to[i]! + 1);
    }
    return null;
  }

  /** How many numbers of the range are taken. */
  takenIn(range: Interval): number {
    let n = 0;
    for (let i = this.seek(range.from); i < this.from.length && this.from[i]! <= range.to; i++)
      n += Math.min(range.to, this.to[i]!) - Math.max(range.from, this.from[i]!) + 1;
    return n;
  }
}
