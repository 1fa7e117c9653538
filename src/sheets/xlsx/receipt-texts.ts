/** The receipt as texts of cells: a name, and the document in pieces that cells can hold. */
import type { Receipt } from "../receipt.js";
import { RECEIPT_SHEET } from "./names.js";

/** A cell holds 32,767 letters. */
const PIECE = 30_000;

export function receiptTexts(receipt: Receipt): readonly string[] {
  const text = JSON.stringify(receipt);
  const texts = [RECEIPT_SHEET];
  for (let from = 0, to = 0; from < text.length; from = to) {
    to = Math.min(from + PIECE, text.length);
    // no letter is cut in two
    const last = text.charCodeAt(to - 1);
    if (last >= 0xd800 && last < 0xdc00) to--;
    texts.push(text.slice(from, to));
  }
  return texts;
}
