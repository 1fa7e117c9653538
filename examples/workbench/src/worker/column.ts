import type { BaseRows } from "./rows";

/** The cells of a column by the ids of their rows: each value is kept once, and of each row the number of its value. */
export class Column {
  readonly values: string[] = [];
  private readonly numbers = new Map<string, number>();
  /** Values of ASCII by a hash of their bytes: most columns have few of them, and no text is made for each row. */
  private readonly known = new Map<number, number>();
  private readonly of: Uint32Array;

  /** @param rows - ids are below this */
  constructor(readonly rows: number) {
    this.of = new Uint32Array(rows);
    this.numberOf("");
  }

  set(id: number, text: string): void {
    this.of[id] = this.numberOf(text);
  }

  setBytes(id: number, bytes: Uint8Array, from: number, to: number): void {
    let [hash, high] = [0x811c9dc5, 0];
    for (let i = from; i < to; i++) {
      hash = Math.imul(hash ^ bytes[i], 0x01000193);
      high |= bytes[i];
    }
    const known = this.known.get(hash);
    if (known !== undefined && isSame(this.values[known], bytes, from, to)) {
      this.of[id] = known;
      return;
    }
    this.of[id] = this.numberOf(decoder.decode(bytes.subarray(from, to)));
    if (high < 0x80 && known === undefined && this.known.size < MOST_KNOWN) this.known.set(hash, this.of[id]);
  }

  /** With what the rows of a hatch say in a column. */
  filledFrom(base: BaseRows, column: number): this {
    base.forEachIn(column, (id, bytes, from, to) => this.setBytes(id, bytes, from, to));
    return this;
  }

  text(id: number): string {
    return this.values[this.of[id]];
  }

  /** The number of the value in a row. */
  at(id: number): number {
    return this.of[id];
  }

  private numberOf(text: string): number {
    const known = this.numbers.get(text);
    if (known !== undefined) return known;
    this.numbers.set(text, this.values.length);
    this.values.push(text);
    return this.values.length - 1;
  }
}

const MOST_KNOWN = 1 << 16;
const decoder = new TextDecoder("utf-8", { ignoreBOM: true });

/** Is the text, which is of ASCII, what the bytes say? */
function isSame(text: string, bytes: Uint8Array, from: number, to: number): boolean {
  if (text.length !== to - from) return false;
  for (let i = 0; i < text.length; i++) if (text.charCodeAt(i) !== bytes[from + i]) return false;
  return true;
}
