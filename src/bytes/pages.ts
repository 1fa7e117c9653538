/** Numbers by index, in pages of typed arrays: growing copies nothing, and pages of which no number was set take no room. */
type Numbers = Float64Array | Int32Array | Uint32Array | Uint16Array | Uint8Array;

const BITS = 14;
const PAGE = 1 << BITS;

export class Pages {
  length = 0;
  private readonly pages: (Numbers | undefined)[] = [];

  constructor(private readonly type: new (length: number) => Numbers) {}

  /** The number at an index; 0 where none was set. */
  at(index: number): number {
    const page = this.pages[index >> BITS];
    return page === undefined ? 0 : page[index & (PAGE - 1)];
  }

  set(index: number, value: number): void {
    const page = index >> BITS;
    while (page >= this.pages.length) this.pages.push(undefined);
    (this.pages[page] ??= new this.type(PAGE))[index & (PAGE - 1)] = value;
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
