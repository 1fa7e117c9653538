/**
 * Files for Hatch Fold: the verbs on paths, with outputs that appear all at once, backups and undo.
 *
 * @packageDocumentation
 */
export type { Comparison } from "../compare/comparison.js";
export { CallError, TablesError } from "../errors/error.js";
export { refuseFar, sourceOf, withComparison, type FolderComparison, type FolderInput } from "./compare-folder.js";
export { FileSource, openFile, type Identity } from "./files.js";
export { FolderTables, type MayWrite } from "./folder-tables.js";
export { foldInto, type FoldedInto, type FoldTarget } from "./fold-into.js";
export { hatchInto, type HatchInto, type Paths } from "./hatch-into.js";
export { undoFold, type Undone } from "./journal.js";
export type { JournalEntry, JournalFile } from "./kept-folder.js";
export { writeChangeList } from "./change-list.js";
export { refusedInto, type RefusedInto, type WaitingRows } from "./refused.js";
export { renewTables } from "./renew.js";
export type { Settled } from "./replace.js";
export { readSchema } from "./schemas.js";
export { openPaths, openSources, type OpenedPaths } from "./sources.js";
