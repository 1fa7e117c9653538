/** Numbers that are no text: packed decimals and binary numbers of mainframes, seen as characters of the file's code page. */
import { ebcdicPage } from "../../bytes/ebcdic.js";
import { codePage, isEbcdic, type Encoding } from "../../bytes/encoding.js";

/** A way of writing whole numbers, of any sign, into so many bytes. */
export type Stored = "packed" | "binary";

/** Characters by byte, and the other way round. */
export interface CodePage {
  readonly chars: readonly string[];
  readonly bytes: ReadonlyMap<string, number>;
}

/** The page of an encoding in which each byte is a character; `null` for others: bytes that are no text would be lost there. */
export function pageOf(encoding: Encoding): CodePage | null {
  if (!isEbcdic(encoding) && encoding !== "iso-8859-1") return null;
  const chars = isEbcdic(encoding) ? ebcdicPage(encoding) : codePage(encoding);
  return { chars, bytes: new Map(chars.map((char, byte) => [char, byte])) };
}

/** Digits with a minus, if need be; `null` for bytes that are no such number. */
export function readStored(raw: string, stored: Stored, { bytes }: CodePage): string | null {
  const own = [...raw].map((char) => bytes.get(char) ?? 0);
  if (own.length === 0) return null;
  if (stored === "binary")
    return String(
      BigInt.asIntN(
        8 * own.length,
        own.reduce((value, byte) => (value << 8n) | BigInt(byte), 0n),
      ),
    );
  const nibbles = own.flatMap((byte) => [byte >> 4, byte & 15]);
  const sign = nibbles.pop()!;
  if (sign < 10 || nibbles.some((digit) => digit > 9)) return null;
  const digits = nibbles.join("").replace(/^0+(?=\d)/, "");
  return (sign === 0xb || sign === 0xd ? "-" : "") + digits;
}

/**
 * A whole number as characters of `width` bytes; `null` when it does not fit. A positive packed one has the sign that stands
 * in `old`, where that is positive.
 */
export function writeStored(text: string, stored: Stored, page: CodePage, width: number, old: string | null): string | null {
  const { chars, bytes } = page;
  if (stored === "binary") {
    const value = BigInt(text);
    if (BigInt.asIntN(8 * width, value) !== value) return null;
    const whole = BigInt.asUintN(8 * width, value);
    return Array.from({ length: width }, (_, i) => chars[Number((whole >> BigInt(8 * (width - 1 - i))) & 255n)]).join("");
  }
  const digits = text.replace("-", "").padStart(2 * width - 1, "0");
  if (digits.length > 2 * width - 1) return null;
  const was = old === null || old === "" ? null : (bytes.get([...old].at(-1)!) ?? 0) & 15;
  const plus = was === 0xf || was === 0xa || was === 0xe ? was : 0xc;
  const nibbles = [...digits].map(Number).concat(text.startsWith("-") ? 0xd : plus);
  return Array.from({ length: width }, (_, i) => chars[(nibbles[2 * i] << 4) | nibbles[2 * i + 1]]).join("");
}
