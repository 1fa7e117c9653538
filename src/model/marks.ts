/**
 * The fold mark: the identity of a row, the n-th record of its table.
 *
 * Form: one letter that says how many digits follow, so that marks sort in the order of the source;
 * the number, from 1; two check letters by ISO/IEC 7064 MOD 661-26, with digits read as the letters
 * A to J and the table's name as a prefix that is not written. Letters at both ends keep spreadsheets
 * from taking a mark for a number or a date, and from counting it up when it is filled down.
 */
import { ByteWriter, encode } from "../bytes/writer.js";

const MODULUS = 661;
const RADIX = 26;
/** First letters for 1, 2, 3 … digits, in alphabetical order. */
const FIRST = "bcdfghjklmnpqrs";
const LOWER_A = 97;

/** Starting value of the check for the marks of one table. */
export function markSalt(table: string): number {
  let salt = 7;
  for (let i = 0; i < table.length; i++) salt = (salt * 131 + table.charCodeAt(i)) % MODULUS;
  return salt;
}

/** The mark of the record at `place` (from 0). */
export function formatMark(salt: number, place: number): string {
  const digits = String(place + 1);
  const first = FIRST[digits.length - 1];
  let check = (salt * RADIX + first.charCodeAt(0) - LOWER_A) % MODULUS;
  for (let i = 0; i < digits.length; i++) check = (check * RADIX + digits.charCodeAt(i) - 48) % MODULUS;
  check = (MODULUS + 1 - ((check * RADIX * RADIX) % MODULUS)) % MODULUS;
  return first + digits + String.fromCharCode(LOWER_A + Math.floor(check / RADIX), LOWER_A + (check % RADIX));
}

/** Appends the marks of one table as bytes: one is written for every row, and most differ from the one before in the last digit. */
export class MarkWriter {
  /** First letter and all digits but the last, of the mark that was written last; and the check so far. */
  private readonly head = new ByteWriter(24);
  private check = 0;
  /** The number that these digits are; 0 when there is but one. */
  private tens = -1;

  constructor(private readonly salt: number) {}

  write(out: ByteWriter, place: number): void {
    const tens = Math.floor((place + 1) / 10);
    if (tens !== this.tens) this.begin(tens);
    out.ensure(20);
    const { bytes } = out;
    const { words, length } = this.head;
    // what stands behind the head is written over
    for (let i = 0; i < length; i += 4) out.words.setInt32(out.length + i, words.getInt32(i));
    let o = out.length + length;
    const digit = place + 1 - 10 * tens;
    bytes[o++] = 48 + digit;
    const check = (MODULUS + 1 - ((((this.check * RADIX + digit) % MODULUS) * RADIX * RADIX) % MODULUS)) % MODULUS;
    bytes[o++] = LOWER_A + Math.floor(check / RADIX);
    bytes[o++] = LOWER_A + (check % RADIX);
    out.length = o;
  }

  private begin(tens: number): void {
    const digits = tens === 0 ? "" : String(tens);
    this.tens = tens;
    this.head.clear();
    this.head.text(FIRST[digits.length] + digits);
    this.check = (this.salt * RADIX + FIRST.charCodeAt(digits.length) - LOWER_A) % MODULUS;
    for (let i = 0; i < digits.length; i++) {
      this.check = (this.check * RADIX + digits.charCodeAt(i) - 48) % MODULUS;
    }
  }
}

/** Reads a mark from the bytes of a cell; -1 when they are not exactly what {@link MarkWriter} writes. */
export function readMark(salt: number, bytes: Uint8Array, from: number, to: number): number {
  if (to - from < 4 || to - from > 18) return -1;
  const first = bytes[from];
  if (first !== FIRST.charCodeAt(to - from - 4) || bytes[from + 1] === 48) return -1;
  let n = 0;
  let check = (salt * RADIX + first - LOWER_A) % MODULUS;
  for (let i = from + 1; i < to - 2; i++) {
    const digit = bytes[i] - 48;
    if (digit < 0 || digit > 9) return -1;
    n = n * 10 + digit;
    check = (check * RADIX + digit) % MODULUS;
  }
  check = (MODULUS + 1 - ((check * RADIX * RADIX) % MODULUS)) % MODULUS;
  return bytes[to - 2] === LOWER_A + Math.floor(check / RADIX) && bytes[to - 1] === LOWER_A + (check % RADIX) ? n - 1 : -1;
}

/** The place (from 0) that a mark spells, or -1 when it is damaged or belongs to another table. Case and outer spaces do not matter. */
export function parseMark(salt: number, text: string): number {
  const bytes = encode(text.trim().toLowerCase());
  return readMark(salt, bytes, 0, bytes.length);
}
