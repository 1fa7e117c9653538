/** Code pages of DOS, by their IANA names (737 has none). */
export const PC = [
  "ibm437",
  "ibm737",
  "ibm775",
  "ibm850",
  "ibm852",
  "ibm855",
  "ibm857",
  "ibm00858",
  "ibm860",
  "ibm861",
  "ibm862",
  "ibm863",
  "ibm865",
  "ibm869",
] as const;
export type PcEncoding = (typeof PC)[number];
