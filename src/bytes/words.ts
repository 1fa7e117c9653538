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
