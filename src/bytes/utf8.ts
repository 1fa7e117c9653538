/**
 * Well-formed UTF-8, after table 3-7 of The Unicode Standard.
 *
 * Looks at the sequence that begins at `at` with a byte of 0x80 or more. Returns its length, 0 when
 * it is cut off by `limit`, or -1 when it is not well formed.
 */
export function utf8Length(bytes: Uint8Array, at: number, limit: number): number {
  const first = bytes[at];
  if (first < 0xc2 || first > 0xf4) return -1;
  const length = first < 0xe0 ? 2 : first < 0xf0 ? 3 : 4;
  if (at + 1 >= limit) return 0;
  const second = bytes[at + 1];
  const low = first === 0xe0 ? 0xa0 : first === 0xf0 ? 0x90 : 0x80;
  const high = first === 0xed ? 0x9f : first === 0xf4 ? 0x8f : 0xbf;
  if (second < low || second > high) return -1;
  for (let k = 2; k < length; k++) {
    if (at + k >= limit) return 0;
    if ((bytes[at + k] & 0xc0) !== 0x80) return -1;
  }
  return length;
}

/** Position of the first byte of 0x80 or more at or behind `from`, or the length. Looks at four bytes at a time where it can. */
export function asciiEnd(bytes: Uint8Array, from: number): number {
  let i = from;
  const { length, byteOffset } = bytes;
  while (i < length && ((byteOffset + i) & 3) !== 0) {
    if (bytes[i] >= 0x80) return i;
    i++;
  }
  if (i >= length) return i;
  i += 4 * asciiWords(new Uint32Array(bytes.buffer, byteOffset + i, (length - i) >> 2));
  while (i < length && bytes[i] < 0x80) i++;
  return i;
}

/** How many words at the front have four ASCII bytes. On its own: compiled with what stands behind the loop, it was thrown away at each call. */
function asciiWords(words: Uint32Array): number {
  let w = 0;
  while (w < words.length && (words[w] & 0x80808080) === 0) w++;
  return w;
}

/** Well-formed UTF-8, but for a character that is cut off at the end. */
export function isUtf8(bytes: Uint8Array): boolean {
  for (let i = asciiEnd(bytes, 0); i < bytes.length; i = bytes[i] < 0x80 ? asciiEnd(bytes, i) : i) {
    const length = utf8Length(bytes, i, bytes.length);
    if (length <= 0) return length === 0;
    i += length;
  }
  return true;
}
