/**
 * Four bytes at a time: what a word of 32 bits holds, without looking at each byte.
 *
 * The answers have the high bit of a byte set where something was found. They say rightly whether
 * there is any; above the lowest find, further bits may be set (Warren, Hacker's Delight, 6-1).
 */
export const HIGH_BITS = 0x80808080;
const ONES = 0x01010101;

/** Finds bytes that are `byte`, which is given four times: `0x22222222`. */
export function equalTo(word: number, byte: number): number {
  const other = word ^ byte;
  return (other - ONES) & ~other;
}

/** Finds bytes below `byte` (at most 0x80), which is given four times. Bytes from 0x80 up are not below it. */
export function below(word: number, byte: number): number {
  return (word - byte) & ~word;
}

/** Which of the four bytes, from 0, is the first one that was found; `found` holds at least one. */
export function firstOf(found: number): number {
  return (31 - Math.clz32(found & -found)) >> 3;
}

/** A run of bytes as words of four; the last one may overlap the one before. A run of less than four bytes has none. */
export function wordsOf(bytes: Uint8Array): Int32Array {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  const count = bytes.length < 4 ? 0 : (bytes.length + 3) >> 2;
  return Int32Array.from({ length: count }, (_, k) => view.getInt32(Math.min(4 * k, bytes.length - 4), true));
}

/**
 * A run of at least eight bytes as doubles, to be compared eight bytes at a time; the last one may overlap the one before.
 * `null` where that would not say whether bytes are the same: a double that is no number equals nothing, and -0 equals 0.
 */
export function doublesOf(bytes: Uint8Array): Float64Array | null {
  if (bytes.length < 8) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  const doubles = Float64Array.from({ length: (bytes.length + 7) >> 3 }, (_, k) =>
    view.getFloat64(Math.min(8 * k, bytes.length - 8), true),
  );
  return doubles.every((double) => double === double && double !== 0) ? doubles : null;
}

/** Do the bytes whose doubles are `known` stand at `at`? There are `length` of them. */
export function sameDoubles(words: DataView, at: number, length: number, known: Float64Array): boolean {
  const last = known.length - 1;
  for (let k = 0; k < last; k++) if (known[k] !== words.getFloat64(at + 8 * k, true)) return false;
  return known[last] === words.getFloat64(at + length - 8, true);
}

/** Do these bytes, whose words are known, stand at `at`? `words` shows `buf` in words. */
export function sameWords(buf: Uint8Array, words: DataView, at: number, bytes: Uint8Array, known: Int32Array): boolean {
  const { length } = bytes;
  if (length < 4) {
    for (let j = 0; j < length; j++) if (bytes[j] !== buf[at + j]) return false;
    return true;
  }
  const last = known.length - 1;
  for (let k = 0; k < last; k++) if (known[k] !== words.getInt32(at + 4 * k, true)) return false;
  return known[last] === words.getInt32(at + length - 4, true);
}
