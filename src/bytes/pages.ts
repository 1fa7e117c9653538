/** Numbers by index, in pages of typed arrays: growing copies nothing. */
type Numbers = Float64Array | Int32Array | Uint32Array | Uint16Array | Uint8Array;

const BITS = 14;
const PAGE = 1 << BITS;

export class Pages {
  length = 0;
  private readonly pages: Numbers[] = [];

  constructor(private readonly type: new (length: number) => Numbers) {}

  at(index: number): number {
    return this.pages[index >> BITS][index & (PAGE - 1)];
  }

  set(index: number, value: number): void {
    while (index >> BITS >= this.pages.length) this.pages.push(new this.type(PAGE));
    this.pages[index >> BITS][index & (PAGE - 1)] = value;
    if (index >= this.length) this.length = index + 1;
  }

  push(value: number): void {
    this.set(this.length, value);
  }

  /** Indexes whose number is one of `wanted`, by number. */
  find(wanted: ReadonlySet<number>): Map<number, number[]> {
    const found = new Map<number, number[]>();
    if (wanted.size === 0) return found;
    for (let index = 0; index < this.length; index++) {
      const value = this.at(index);
      if (!wanted.has(value)) continue;
      const indexes = found.get(value);
      if (indexes === undefined) found.set(value, [index]);
      else indexes.push(index);
    }
    return found;
  }
}
