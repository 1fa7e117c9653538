/** Room of a window before anything is written; pieces of a source are mostly larger, and make it grow at once. */
const FIRST = 1 << 10;

/**
 * The push core of every scanner: chunks of any size go in, the scanner sees one contiguous window.
 *
 * A scanner consumes what is complete and says from where the rest has to be kept; that rest stands
 * at the front of the next window. When nothing could be consumed the window is doubled before the
 * next attempt, so that a value of any length costs linear time.
 */
export abstract class WindowScanner {
  /** Bytes now in view; those from `limit` on are not part of the source. */
  window: Uint8Array = new Uint8Array(FIRST);
  /** The same bytes, to be read four at a time; a scanner may look up to four bytes beyond `limit`. */
  words = new DataView(this.window.buffer);
  /** Offset in the source of `window[0]`. */
  base = 0;
  /** End of the valid bytes in `window`. */
  limit = 0;
  private enough = 0;

  /** Consumes the window; returns the position from which bytes must be kept. */
  protected abstract scan(final: boolean): number;
  /** Called before positions change: whoever holds positions copies the bytes. */
  protected abstract leave(): void;

  write(chunk: Uint8Array): void {
    this.reserve(this.limit + chunk.length);
    this.window.set(chunk, this.limit);
    this.limit += chunk.length;
    if (this.limit >= this.enough) this.advance(false);
  }

  end(): void {
    this.reserve(this.limit);
    this.advance(true);
  }

  private advance(final: boolean): void {
    const keep = this.scan(final);
    if (keep > 0) {
      this.leave();
      this.window.copyWithin(0, keep, this.limit);
      this.base += keep;
      this.limit -= keep;
    }
    this.enough = 2 * this.limit;
  }

  /** Room for `size` bytes and a few sentinels behind them. */
  private reserve(size: number): void {
    if (size + 8 <= this.window.length) return;
    const grown = new Uint8Array(Math.max(size + 8, this.window.length * 2));
    grown.set(this.window.subarray(0, this.limit));
    this.window = grown;
    this.words = new DataView(grown.buffer);
  }
}
