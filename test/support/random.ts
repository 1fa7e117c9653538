/** A small deterministic generator (xorshift32), for choices inside a property. */
export class Random {
  private state: number;
  constructor(seed: number) {
    this.state = (seed ^ 0x9e3779b9) >>> 0 || 1;
  }
  next(n: number): number {
    this.state ^= this.state << 13;
    this.state >>>= 0;
    this.state ^= this.state >>> 17;
    this.state ^= this.state << 5;
    this.state >>>= 0;
    return this.state % n;
  }
  pick<T>(list: readonly T[]): T {
    return list[this.next(list.length)];
  }
  chance(oneIn: number): boolean {
    return this.next(oneIn) === 0;
  }
  shuffle<T>(list: readonly T[]): T[] {
    const copy = [...list];
    for (let i = copy.length - 1; i > 0; i--) {
      const j = this.next(i + 1);
      [copy[i], copy[j]] = [copy[j], copy[i]];
    }
    return copy;
  }
}
