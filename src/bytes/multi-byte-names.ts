/** Encodings of one to four bytes a character, by the names of the Encoding Standard. */
export const MULTI_BYTE = ["shift_jis", "euc-jp", "gbk", "gb18030", "big5", "euc-kr"] as const;
export type MultiByteEncoding = (typeof MULTI_BYTE)[number];
