/** Rows of a sheet as they stand there, below the titles, whoever wrote lines above these. */
import { normalised } from "../cells/normalised.js";
import { harmless } from "../cells/spelling.js";
import { MARK_TITLE } from "../model/plan.js";
import type { OpenSheet, SheetRow } from "./container.js";
import { readAll } from "./titled.js";

/** That with the titles first. */
export async function rowsBelowWords(sheet: OpenSheet): Promise<readonly SheetRow[]> {
  const rows = (await readAll(sheet, (title) => title === MARK_TITLE)) ?? [];
  const top = rows.findIndex(({ cells }) => hasMark(cells));
  return top < 0 ? rows : rows.slice(top);
}

/** Is one of the titles that of marks? */
export function hasMark(titles: SheetRow["cells"]): boolean {
  return titles.some((title) => normalised(plainTitle(title)) === MARK_TITLE);
}

/** Titles as the table has them, also where they are spelled another way. */
export function titlesIn({ cells }: SheetRow, known: readonly string[]): string[] {
  return cells.map((cell) => {
    const title = plainTitle(cell);
    const near = known.filter((one) => normalised(one) === normalised(title));
    return known.includes(title) || near.length !== 1 ? title : near[0];
  });
}

/** A title without what keeps it from being taken for a formula. */
function plainTitle(title = ""): string {
  return harmless(title.slice(1)) === title ? title.slice(1) : title;
}
