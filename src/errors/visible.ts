/** Text from a source, a sheet or a file name, as it can be printed: nothing in it moves the cursor or turns the line round. */

/** Controls of both sets, ends of lines, and what changes the direction of text (UAX 9). */
const UNSEEN = /[\u0000-\u001f\u007f-\u009f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ufeff]/g;

/** Control characters as their pictures (U+2400 and on), the rest by its number; a line's end as ⏎. */
export function visible(text: string): string {
  return text.replace(/\r\n/g, "\n").replace(UNSEEN, (char) => {
    const code = char.charCodeAt(0);
    if (char === "\n") return "⏎";
    if (code < 0x20) return String.fromCharCode(0x2400 + code);
    return code === 0x7f ? "\u2421" : `‹U+${code.toString(16).toUpperCase().padStart(4, "0")}›`;
  });
}
