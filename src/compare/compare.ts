/**
 * The way of a comparison, on one page: what the edited tables want of the source that they were hatched from.
 *
 * Each step makes a new draft of the one before. What is wrong is added to the findings, and stops no step: the rows
 * with problems, and those that depend on them, are left out of the edits at the end.
 */
import type { ColumnPlan, Plan } from "../model/plan.js";
import type { CompiledTable } from "../plan/compile.js";
import { findGone, rowsGone } from "../relations/gone.js";
import { noteNearKeys } from "../relations/keys.js";
import type { Context } from "../rows/context.js";
import { NO_DRAFT } from "../rows/draft.js";
import { noteUnseen } from "../rows/unseen.js";
import type { SheetContainer } from "../sheets/container.js";
import { containerOf, type Tables } from "../sheets/index.js";
import { keepAllowed, mayDo } from "./allow.js";
import { runChecks } from "./checks/index.js";
import { noteComments } from "./comments.js";
import type { CompareInput, Comparison, Expectation, SheetRowName } from "./comparison.js";
import { describe, noteLinksNotTaken, placeAdded } from "./describe.js";
import { diffRows } from "./diff.js";
import { editsOf } from "./edits.js";
import { joinRows } from "./join.js";
import { readNewRows } from "./new-rows.js";
import { openHatched } from "./open.js";
import { placeRows } from "./parents.js";
import { rejectDependents } from "./reject.js";
import { addTotals } from "./totals.js";
import { noteMisplaced } from "./misplaced.js";
import { noteUnread } from "./unread.js";

type Wanted = (row: SheetRowName) => boolean;

/** Can the order of its records be edited? */
function isOrdered({ plan, node }: CompiledTable): boolean {
  return plan.order === "sheet" || node.indexSlot >= 0;
}

function hasColumn({ tables }: Plan, is: (column: ColumnPlan) => boolean): boolean {
  return tables.some(({ columns }) => columns.some(is));
}

/** Compares, and keeps what a fold needs. */
export async function compareTables(tables: Tables | SheetContainer, input: CompareInput): Promise<Comparison> {
  const hatched = await openHatched(containerOf(tables), input); // the source that was hatched, or the reason why not
  const ctx = await joinRows(hatched, input); // each row beside its record
  noteUnread(ctx, input); // cells without a title, rows that were deleted
  let draft = await diffRows(NO_DRAFT, ctx); // cells that differ, read and healed
  draft = keepAllowed(draft, ctx, input.allow); // what a fold may do
  noteMisplaced(draft, ctx); // rows that slid, columns that were sorted alone
  draft = await readNewRows(draft, ctx);
  if (ctx.parts.some(({ dialect }) => dialect.trial !== undefined)) draft = await (await import("./fields.js")).settleFields(draft, ctx); // what fields of one line make of each other
  draft = findGone(draft, ctx); // records that go away with others
  if (draft.news.length > 0) draft = await (await import("../relations/ids.js")).assignIds(draft, ctx); // numbers and UUIDs of new rows
  if (ctx.compiled.tables.some(({ references }) => references.length > 0)) {
    draft = await (await import("../relations/references.js")).resolveReferences(draft, ctx); // labels to codes, renamed keys, copies of labels
    draft = await (await import("../relations/lost.js")).keepReferred(draft, ctx); // records that cannot go, as others go on referring to them
  }
  if (hasColumn(ctx.plan, ({ sameFor }) => sameFor !== undefined))
    draft = await (await import("../relations/agreement.js")).keepAgreements(draft, ctx); // what says the same for one code
  draft = await placeRows(draft, ctx); // parents and files: where new rows go, which rows move
  if (ctx.compiled.tables.some(isOrdered)) draft = await (await import("./order.js")).orderRows(draft, ctx, mayDo(input.allow, "move")); // where in their lists
  if (hasColumn(ctx.plan, ({ compute }) => compute !== undefined)) draft = await (await import("./compute.js")).computeCells(draft, ctx); // what follows from other cells
  await runChecks(draft, ctx); // references, types, names, rules, expressions, moves, removals, keys
  await noteNearKeys(draft, ctx); // keys that are others but for a space
  await noteComments(draft, ctx); // what edited texts hold besides
  noteLinksNotTaken(draft, ctx); // what new rows say where it says nothing
  const { receipt, files } = hatched;
  const finish = async (of: Context, wanted?: Wanted): Promise<Omit<Comparison, "only">> => {
    const kept = rejectDependents(draft, of, wanted); // what depends on a rejected row is rejected with it
    let edits = editsOf(kept, of);
    if (input.paths === true) edits = await placeAdded(edits, ctx);
    const described = noteUnseen(describe(kept, edits, of), of);
    const expectation = async (): Promise<Expectation> => ({
      compiled: ctx.compiled,
      base: ctx.base,
      records: ctx.records,
      recordStarts: ctx.recordStarts,
      expected: await (await import("./expected.js")).expectedOf(kept, ctx), // what a fold has to say when it is read again
    });
    const unproved = input.unproved === true;
    return addTotals(
      {
        ...described,
        expectation,
        goneRows: (table) => rowsGone(kept, ctx, table),
        inner: ctx,
        encodings: ctx.encodings,
        unproved,
        parts: ctx.parts,
        styles: ctx.styles,
        receipt,
        archive: files.archive,
        corrections: [],
        unfit: [],
      },
      ctx,
    );
  };
  const { schemas = [] } = receipt;
  // rules of what a fold gives as a whole are asked of that which is wanted
  const judged = async (wanted?: Wanted): Promise<Omit<Comparison, "only">> => {
    const of = { ...ctx, findings: ctx.findings.copy() };
    if (schemas.length > 0) await (await import("./schema-check.js")).checkSchemas(draft, of, schemas, wanted);
    const made = await finish(of, wanted);
    if (made.unfit.length > 0) {
      (await import("./checks/totals.js")).tellUnfit(made.unfit, draft, of);
      return finish(of, wanted);
    }
    if (!hasColumn(ctx.plan, ({ rules }) => rules !== undefined) || ctx.parts.every(({ dialect }) => dialect.isTotal === undefined))
      return made;
    const isBroken = await (await import("./checks/totals.js")).checkTotals(made.changes, draft, of);
    return isBroken ? finish(of, wanted) : made;
  };
  return { ...(await judged()), only: judged };
}
