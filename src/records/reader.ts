/** Looking at the source again: its rows, and the ways to some of them. */
import { scanParts } from "../source/pass.js";
import type { Part } from "../source/parts.js";
import type { Guide } from "../plan/guide.js";
import { type Row, Assembler } from "./assemble.js";
import type { Trail } from "../model/trail.js";

/** Reads rows of the source once more. */
export type ReadRows = (read: (row: Row, assembler: Assembler) => void) => Promise<void>;
/** All rows of the source, read anew. */
export async function readRows(parts: readonly Part[], guide: Guide, read: (row: Row, assembler: Assembler) => void): Promise<void> {
  const assembler: Assembler = new Assembler(guide, { row: (row) => read(row, assembler) }, true);
  await scanParts(parts, (part) => assembler.begin(part));
}

/** The ways to some records (`table index` and place), read anew. */
export async function readTrails(parts: readonly Part[], guide: Guide, wanted: ReadonlySet<string>): Promise<Map<string, Trail>> {
  const trails = new Map<string, Trail>();
  const reader = {
    row: (row: Row) => {
      const id = `${row.table.index} ${row.place}`;
      if (wanted.has(id)) trails.set(id, row.trail());
    },
  };
  const assembler = new Assembler(guide, reader, true);
  await scanParts(parts, (part) => assembler.begin(part));
  return trails;
}
