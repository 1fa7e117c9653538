/** So many letters (UTF-16 units) a cell holds in the programs that cut longer ones. */
export const LONGEST_CELL = 32_767;
