/** The separators that a file of segments declares. */
import type { SegmentsInput } from "./settings.js";

export type Separators = Pick<SegmentsInput, "end" | "delimiter" | "parts" | "release" | "skip">;

/** The interchange header of X12 has places of a fixed length: behind the last stand its separators. */
const ISA_LENGTH = 106;

/** The separators that the file begins with; `null` where it is no file of segments. */
export function separatorsOf(head: string): Separators | null {
  const text = head.replace(/^\ufeff/, "").trimStart();
  const service = /^UNA(.)(.)(.)(.)(.)(.)/su.exec(text);
  if (service !== null) {
    const [, parts, delimiter, , release, , end] = service;
    return { end, delimiter, parts, ...(release === " " ? {} : { release }), skip: "UNA" };
  }
  if (/^UNB\+UNO[A-Z]:\d/.test(text)) return { end: "'", delimiter: "+", parts: ":", release: "?" };
  const delimiter = text.startsWith("ISA") ? text[3] : "";
  if (delimiter !== "" && text.length >= ISA_LENGTH && text.slice(0, ISA_LENGTH - 1).split(delimiter).length === 17)
    return { end: text[ISA_LENGTH - 1], delimiter, parts: text[ISA_LENGTH - 2] };
  return null;
}
