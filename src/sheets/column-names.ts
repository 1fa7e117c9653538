/** Columns as spreadsheets call them. */

/** A, B, … Z, AA: the column from 0. */
export function columnName(column: number): string {
  let name = "";
  for (let n = column + 1; n > 0; n = Math.floor((n - 1) / 26)) name = String.fromCharCode(65 + ((n - 1) % 26)) + name;
  return name;
}

/** The column, from 0, of a place such as `AB12`; -1 where there is none. */
export function columnOf(place: string): number {
  let column = 0;
  for (const letter of place) {
    const n = letter.charCodeAt(0) - 64;
    if (n < 1 || n > 26) break;
    column = 26 * column + n;
  }
  return column - 1;
}
