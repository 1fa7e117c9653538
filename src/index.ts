/**
 * Hatch Fold: flatten nested records to tables, edit them anywhere, put exactly the edits back.
 *
 * This entry runs in browsers and in Node; files, backups and undo are in `hatch-fold/node`.
 *
 * @packageDocumentation
 */
export { survey, draft, hatch, check, compare, fold, foldNew } from "./verbs.js";
export type {
  SurveyOptions,
  DraftOptions,
  HatchInput,
  Hatched,
  CompareInput,
  Checked,
  Compared,
  FoldInput,
  Folded,
  FoldedFile,
  FoldNewInput,
} from "./verbs.js";
export type { Shape, ShapeKind, ShapeField, Remark } from "./shape/shape.js";
export type { Change, Counts, Healed, Note, Problem } from "./compare/changes.js";
export type { Follow } from "./compare/follows.js";
export type { Receipt } from "./tables/receipt.js";
export type { ByteSource, SourceInput } from "./bytes/source.js";
export type { SourceFile, SourceFiles, SourcesInput } from "./source/files.js";
export { BlobSource, MemorySource } from "./bytes/source.js";
export { MemoryTables, type TablesSink, type TablesSource } from "./tables/containers.js";
export { HatchFoldError, SourceError, PlanError, TablesError, CallError, formatPlace, type Place } from "./errors/error.js";
export type { Code } from "./errors/words.js";
export { readPlan } from "./plan/read.js";
export type { Plan, TablePlan, ColumnPlan } from "./plan/plan.js";
export { planJsonSchema } from "./plan/schema.js";
export { mermaidDiagram, svgDiagram } from "./report/diagram.js";
export { writeReport, reportKind, type ReportInput, type ReportKind } from "./report/report.js";
