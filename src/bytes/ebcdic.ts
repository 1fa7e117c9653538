/**
 * Code pages of EBCDIC: characters by byte, control characters where a byte stands for one, so that the way there and back is
 * exact. Tables as the Unicode Consortium has them (`VENDORS/MICSFT/EBCDIC`, `VENDORS/MISC`).
 */
import type { EbcdicEncoding } from "./ebcdic-names.js";

/** IBM037: the others are it, but for some letters and signs. */
const IBM037 =
  "\u0000\u0001\u0002\u0003\u009c\t\u0086\u007f\u0097\u008d\u008e\u000b\f\r\u000e\u000f\u0010\u0011\u0012\u0013\u009d\u0085\b\u0087\u0018\u0019\u0092\u008f\u001c\u001d\u001e\u001f" +
  "\u0080\u0081\u0082\u0083\u0084\n\u0017\u001b\u0088\u0089\u008a\u008b\u008c\u0005\u0006\u0007\u0090\u0091\u0016\u0093\u0094\u0095\u0096\u0004\u0098\u0099\u009a\u009b\u0014\u0015\u009e\u001a" +
  " \u00a0\u00e2\u00e4\u00e0\u00e1\u00e3\u00e5\u00e7\u00f1\u00a2.<(+|&\u00e9\u00ea\u00eb\u00e8\u00ed\u00ee\u00ef\u00ec\u00df!$*);\u00ac" +
  "-/\u00c2\u00c4\u00c0\u00c1\u00c3\u00c5\u00c7\u00d1\u00a6,%_>?\u00f8\u00c9\u00ca\u00cb\u00c8\u00cd\u00ce\u00cf\u00cc`:#@'=\"" +
  "\u00d8abcdefghi\u00ab\u00bb\u00f0\u00fd\u00fe\u00b1\u00b0jklmnopqr\u00aa\u00ba\u00e6\u00b8\u00c6\u00a4" +
  "\u00b5~stuvwxyz\u00a1\u00bf\u00d0\u00dd\u00de\u00ae^\u00a3\u00a5\u00b7\u00a9\u00a7\u00b6\u00bc\u00bd\u00be[]\u00af\u00a8\u00b4\u00d7" +
  "{ABCDEFGHI\u00ad\u00f4\u00f6\u00f2\u00f3\u00f5}JKLMNOPQR\u00b9\u00fb\u00fc\u00f9\u00fa\u00ff" +
  "\\\u00f7STUVWXYZ\u00b2\u00d4\u00d6\u00d2\u00d3\u00d50123456789\u00b3\u00db\u00dc\u00d9\u00da\u009f";

/** By page: bytes and what stands for them there. */
const OTHERS: Readonly<Record<EbcdicEncoding, Readonly<Record<number, string>>>> = {
  ibm037: {},
  ibm273: {
    0x43: "{",
    0x4a: "\u00c4",
    0x4f: "!",
    0x59: "~",
    0x5a: "\u00dc",
    0x5f: "^",
    0x63: "[",
    0x6a: "\u00f6",
    0x7c: "\u00a7",
    0xa1: "\u00df",
    0xb0: "\u00a2",
    0xb5: "@",
    0xba: "\u00ac",
    0xbb: "|",
    0xbc: "\u203e",
    0xc0: "\u00e4",
    0xcc: "\u00a6",
    0xd0: "\u00fc",
    0xdc: "}",
    0xe0: "\u00d6",
    0xec: "\\",
    0xfc: "]",
  },
  ibm500: { 0x4a: "[", 0x4f: "!", 0x5a: "]", 0x5f: "^", 0xb0: "\u00a2", 0xba: "\u00ac", 0xbb: "|" },
  ibm1026: {
    0x48: "{",
    0x4a: "\u00c7",
    0x4f: "!",
    0x5a: "\u011e",
    0x5b: "\u0130",
    0x5f: "^",
    0x68: "[",
    0x6a: "\u015f",
    0x79: "\u0131",
    0x7b: "\u00d6",
    0x7c: "\u015e",
    0x7f: "\u00dc",
    0x8c: "}",
    0x8d: "`",
    0x8e: "\u00a6",
    0xa1: "\u00f6",
    0xac: "]",
    0xad: "$",
    0xae: "@",
    0xb0: "\u00a2",
    0xba: "\u00ac",
    0xbb: "|",
    0xc0: "\u00e7",
    0xcc: "~",
    0xd0: "\u011f",
    0xdc: "\\",
    0xe0: "\u00fc",
    0xec: "#",
    0xfc: '"',
  },
  ibm01140: { 0x9f: "\u20ac" },
};

/** The characters of a code page, by byte. */
export function ebcdicPage(encoding: EbcdicEncoding): string[] {
  return [...IBM037].map((char, byte) => OTHERS[encoding][byte] ?? char);
}
