/** The looks of cells: numbers of formats in `styles.xml`, and that part itself. */
import { MOST_DECIMALS } from "./numbers.js";

/** What a column is to people who edit it. */
export type Standing = "open" | "key" | "closed";

/** Signs behind titles, so that nothing is said by colour alone. */
export const SIGNS = { required: "✱", key: "◆", closed: "■" } as const;

const STANDINGS: readonly Standing[] = ["open", "key", "closed"];
const LOOKS = ["plain", "title", "titleRequired", "titleClosed", "heading", "about", "reason"] as const;
/** For each standing: text, a date, and numbers by their decimal places. */
const FORMS = 2 + MOST_DECIMALS + 1;

export function look(name: (typeof LOOKS)[number]): number {
  return LOOKS.indexOf(name);
}

/** A cell of a sheet that is only read. */
export interface TextCell {
  readonly text: string;
  readonly look?: (typeof LOOKS)[number];
}

export function textStyle(standing: Standing): number {
  return LOOKS.length + STANDINGS.indexOf(standing) * FORMS;
}

export function dateStyle(standing: Standing): number {
  return textStyle(standing) + 1;
}

export function numberStyle(standing: Standing, decimals: number): number {
  return textStyle(standing) + 2 + decimals;
}

const FIRST_FORMAT = 164;
const FORMATS = ["yyyy\\-mm\\-dd", ...Array.from({ length: MOST_DECIMALS + 1 }, (_, n) => (n === 0 ? "0" : `0.${"0".repeat(n)}`))];
/** A deep sea blue for titles, brass for those that must be filled, slate for what is not to be edited. */
const FILLS = ["FF1D4E63", "FF8A5A12", "FF5B6670", "FFF6EBD3", "FFE9ECEF"];

export function stylesPart(): string {
  const fills = FILLS.map((color) => `<fill><patternFill patternType="solid"><fgColor rgb="${color}"/></patternFill></fill>`);
  const xf = (format: number, font: number, fill: number, more = "", locked = true): string =>
    `<xf numFmtId="${format}" fontId="${font}" fillId="${fill}" borderId="0" xfId="0" applyNumberFormat="1" applyFont="1" applyFill="1" applyAlignment="1" applyProtection="1">${more}<protection locked="${locked ? 1 : 0}"/></xf>`;
  const wrapped = '<alignment vertical="top" wrapText="1"/>';
  const middle = '<alignment vertical="center"/>';
  const looks = [
    xf(0, 0, 0),
    xf(49, 1, 2, middle),
    xf(49, 1, 3, middle),
    xf(49, 1, 4, middle),
    xf(49, 2, 0, middle),
    xf(49, 0, 0),
    xf(49, 0, 6, wrapped),
  ];
  const cells = STANDINGS.flatMap((standing) => {
    const fill = { open: 0, key: 5, closed: 6 }[standing];
    const formats = [49, ...FORMATS.map((_, i) => FIRST_FORMAT + i)];
    return formats.map((format) => xf(format, 0, fill, "", standing === "closed"));
  });
  const all = [...looks, ...cells];
  const font = (more: string): string => `<font>${more}<sz val="10"/><name val="Arial"/><family val="2"/></font>`;
  return [
    '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n<styleSheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">',
    `<numFmts count="${FORMATS.length}">${FORMATS.map((code, i) => `<numFmt numFmtId="${FIRST_FORMAT + i}" formatCode="${code}"/>`).join("")}</numFmts>`,
    `<fonts count="3">${font("")}<font><b/><sz val="10"/><color rgb="FFFFFFFF"/><name val="Arial"/><family val="2"/></font><font><b/><sz val="14"/><name val="Arial"/><family val="2"/></font></fonts>`,
    `<fills count="${fills.length + 2}"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill>${fills.join("")}</fills>`,
    '<borders count="1"><border><left/><right/><top/><bottom/><diagonal/></border></borders>',
    '<cellStyleXfs count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0"/></cellStyleXfs>',
    `<cellXfs count="${all.length}">${all.join("")}</cellXfs>`,
    '<cellStyles count="1"><cellStyle name="Normal" xfId="0" builtinId="0"/></cellStyles></styleSheet>',
  ].join("");
}
