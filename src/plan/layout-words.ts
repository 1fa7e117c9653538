/** What layouts say in plans: the reading of a plan knows their words only from here. */
import type { z } from "zod";
import type { Place } from "../errors/error.js";
import type { Path } from "../model/path.js";
import type { ColumnPlan, InlineColumnPlan, TablePlan } from "../model/plan.js";

/** Words by name, with what may stand behind each; the schema package is handed in, so that nothing else loads it. */
export type WordSchemas = (zod: typeof z) => Readonly<Record<string, z.ZodType>>;

/** The entry of a table or a column in a plan, as its words say it. */
export type Entry = Readonly<Record<string, unknown>>;

/** A table of a plan that is read. */
export interface TableEntry {
  readonly name: string;
  readonly entry: Entry;
  readonly columns: readonly ColumnPlan[];
  /** Where a word of the entry stands in the plan's text. */
  readonly place: (word: string) => Place;
  /** @throws PlanError when the text is no path */
  readonly path: (text: string, word: string) => Path;
}

/** A plan whose tables have all been read. */
export interface PlanEntries {
  readonly tables: readonly TablePlan[];
  /** The entry of a table; nothing for lists that have none of their own. */
  readonly entry: (table: string) => Entry | undefined;
  readonly place: (path: readonly string[]) => Place;
}

export interface LayoutWords {
  /** Its words in the entry of a table, and in that of a column. */
  readonly table?: WordSchemas;
  readonly column?: WordSchemas;
  /** What they make of the table, and of the column. */
  readonly readTable?: (entry: TableEntry) => Partial<TablePlan>;
  readonly readColumn?: (entry: Entry) => Partial<ColumnPlan> & Partial<InlineColumnPlan>;
  /** Do the records of the table stand so? No sheet can be arranged in two ways. */
  readonly claims?: (table: TablePlan, tables: readonly TablePlan[]) => boolean;
  /** @throws PlanError for what does not go together */
  readonly check?: (table: TablePlan, plan: PlanEntries) => void;
}

/** A layout by name, with its words. */
export interface NamedWords {
  readonly name: string;
  readonly words?: LayoutWords;
}
