/** The layouts, and the reading of all sheets as rows of their tables: what is behind them knows only these. */
import type { ProblemList } from "../model/problem-list.js";
import type { CompiledPlan, CompiledTable } from "../plan/compile.js";
import type { RowFilter } from "../records/filter.js";
import type { RecordReader } from "../records/reader.js";
import type { SheetContainer } from "../sheets/container.js";
import type { Receipt } from "../sheets/receipt.js";
import { crossTables } from "./cross.js";
import { filledColumns } from "./fill.js";
import { givenLists } from "./given.js";
import type { ArrangedSheet, Arrangement, ArrangementInput, ColumnView, GivenLists, SheetReading, TableRows } from "./layout.js";
import { mirrors } from "./mirror.js";
import { stacks } from "./stack/index.js";
import { trees } from "./tree/index.js";

/** In the order in which sheets are read: a view sees the rows that those before it have read. */
export const LAYOUTS: readonly (Arrangement | ColumnView)[] = [givenLists, filledColumns, stacks, trees, crossTables, mirrors];

/** The sheets in which records stand otherwise than each in a row of its table's own. */
export async function arrangedSheets(input: ArrangementInput): Promise<readonly ArrangedSheet[]> {
  return (await Promise.all(LAYOUTS.flatMap((layout) => ("open" in layout ? [layout.open(input)] : [])))).flat();
}

/** What the layouts read. */
export interface LaidOut {
  readonly compiled: CompiledPlan;
  readonly receipt: Receipt;
  readonly container: SheetContainer;
  readonly problems: ProblemList;
  /** All rows are new. */
  readonly fresh: boolean;
  readonly filter: RowFilter;
  readonly records: RecordReader;
  readonly lists: GivenLists;
  readonly copiesAreNew: boolean;
}

/** The rows of tables whose sheets have a layout; `null` for tables whose sheet cannot be taken apart. */
export async function readLayouts(what: LaidOut): Promise<ReadonlyMap<CompiledTable, TableRows | null>> {
  const { compiled, receipt, container, problems, fresh, filter, records, lists, copiesAreNew } = what;
  const laid = new Map<CompiledTable, TableRows | null>();
  const sheetOf = async (table: CompiledTable): Promise<SheetReading | null> => {
    const entry = receipt.tables.find(({ name }) => name === table.plan.name);
    const sheet = entry === undefined ? null : await container.sheet(entry.file);
    return sheet === null
      ? null
      : {
          sheet,
          problems,
          fresh,
          copiesAreNew,
          isWhole: container.isWhole,
          filter,
          readSource: records.rows,
          readRests: records.rests,
        };
  };
  for (const layout of LAYOUTS) {
    if ("open" in layout) {
      for (const arranged of await layout.open({ compiled, records, slotsOf: (table) => table.shown })) {
        const reading = await sheetOf(arranged.tables[0]);
        if (reading === null) continue;
        const rows = await arranged.read(reading);
        for (const table of rows === null ? arranged.tables.slice(1) : arranged.tables) laid.set(table, rows?.get(table) ?? null);
      }
    } else for (const [table, rows] of await layout.read({ compiled, lists, sheetOf, laid })) laid.set(table, rows);
  }
  return laid;
}
