/**
 * Gives each name a place of so many, always the same one: the place that has fewest names when it is first asked for.
 * So two names have places of their own as long as there are enough.
 */
export class Places {
  private readonly placeOf = new Map<string, number>();
  private readonly taken: number[];
  constructor(many: number) {
    this.taken = Array.from({ length: many }, () => 0);
  }
  of(name: string): number {
    let place = this.placeOf.get(name);
    if (place === undefined) {
      place = this.taken.indexOf(Math.min(...this.taken));
      this.taken[place]!++;
      this.placeOf.set(name, place);
    }
    return place;
  }
}
