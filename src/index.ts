/**
 * Hatch Fold: flatten nested records to tables, edit them anywhere, put exactly the edits back.
 *
 * This entry runs in browsers and in Node; files, backups and undo are in `hatch-fold/node`.
 *
 * @packageDocumentation
 */
export { survey, draft, type SurveyOptions, type DraftOptions, type DraftBySchema, type Drafted } from "./survey/survey.js";
export { hatch, type HatchInput, type Hatched } from "./hatch/hatch.js";
export { copyTables } from "./hatch/copy.js";
export { check, type Checked } from "./compare/verbs.js";
export { compare, type Review, type ReviewFold } from "./fold/review.js";
export type { Allowed, Compared, CompareInput, CompareOptions, SheetRowName } from "./compare/comparison.js";
export { fold, type FoldInput, type FoldOptions, type Folded, type FoldedFile } from "./fold/fold.js";
export { foldNew, type FoldNewInput } from "./fold/fold-new.js";
export type { Shape, ShapeKind, ShapeField, Remark, TypeName } from "./survey/shape.js";
export { ProblemsError, type Change, type Counts, type Healed, type Note, type Problem } from "./model/findings.js";
export type { Follow } from "./relations/follows.js";
export type { Receipt, ReceiptFile, ReceiptTable } from "./sheets/receipt.js";
export type { Phase, Progress, Watch } from "./source/watch.js";
export type { Path, Step } from "./model/path.js";
export type { ByteSink } from "./fold/write.js";
export type { ByteSource, SourceInput } from "./bytes/source.js";
export type { SourceFile, SourceFiles, SourcesInput } from "./source/files.js";
export { BlobSource, MemorySource } from "./bytes/source.js";
export { MemoryTables, type TablesSink, type TablesSource } from "./sheets/tables.js";
export type { Tables, TablesOut } from "./sheets/index.js";
export { Workbook } from "./sheets/xlsx/workbook.js";
export { RowTables, type CellsByTitle, type RowsByTable, type RowSheet } from "./sheets/rows/tables.js";
export type { SchemaFile, SchemaInput, SourceSchema } from "./model/schema.js";
export {
  HatchFoldError,
  SchemaError,
  SourceError,
  PlanError,
  TablesError,
  ProofError,
  CallError,
  formatPlace,
  type NamedFacts,
  type Place,
} from "./errors/error.js";
export type { Code, ErrorCode, Facts } from "./errors/words.js";
export type {
  ColumnPlan,
  ColumnRules,
  InlineColumnPlan,
  Plan,
  Rule,
  Settings,
  Severity,
  SourcePlan,
  TablePlan,
  TreePlan,
} from "./model/plan.js";
export { planJsonSchema, readPlan } from "./layouts/plans.js";
export { mermaidDiagram, svgDiagram } from "./report/diagram.js";
export { writeReport, reportKind, type ReportKind } from "./report/report.js";
export type { ReportInput } from "./report/input.js";
