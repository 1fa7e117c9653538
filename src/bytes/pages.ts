/** Numbers by index, in pages of typed arrays: growing copies nothing, and pages of which no number was set take no room. */
type Numbers = Float64Array | Int32Array | Uint32Array | Uint16Array | Uint8Array;

const BITS = 14;
const PAGE = 1 << BITS;
const SHORT = 64;

export class Pages {
  length = 0;
  private readonly pages: (Numbers | undefined)[] = [];

  constructor(private readonly type: new (length: number) => Numbers) {}

  /** The number at an index; 0 where none was set. */
  at(index: number): number {
    return this.pages[index >> BITS]?.[index & (PAGE - 1)] ?? 0;
  }

  set(index: number, value: number): void {
    const nth = index >> BITS;
    const at = index & (PAGE - 1);
    while (nth >= this.pages.length) this.pages.push(undefined);
    const page = this.pages[nth];
    if (page !== undefined && at < page.length) page[at] = value;
    else this.grown(nth, at)[at] = value;
    if (index >= this.length) this.length = index + 1;
  }

  /** Most lists are short: the first page grows, the others are made whole. */
  private grown(nth: number, at: number): Numbers {
    const before = this.pages[nth];
    const size = nth > 0 ? PAGE : Math.min(PAGE, Math.max(SHORT, 2 * at));
    const page = new this.type(size);
    if (before !== undefined) page.set(before);
    this.pages[nth] = page;
    return page;
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
