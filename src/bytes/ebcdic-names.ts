/** Code pages of mainframes, by their IANA names. */
export const EBCDIC = ["ibm037", "ibm273", "ibm500", "ibm1026", "ibm01140"] as const;
export type EbcdicEncoding = (typeof EBCDIC)[number];
