/**
 * The checks: what the plan and the source ask of rows, changed and new ones alike, when it is known where they go.
 * One file a kind of check, one line in the list; each adds problems, and changes nothing.
 */
import { checkKeys } from "../../relations/keys.js";
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";
import { mostOf } from "../most.js";
import { checkCells } from "./cells.js";
import { checkLoops } from "./loops.js";
import { checkMoves } from "./moves.js";
import { checkNames } from "./names.js";
import { checkReferences } from "./references.js";
import { checkRemovals } from "./removals.js";
import { checkRequired } from "./required.js";
import { checkRepeated } from "./repeated.js";
import { checkStandIns } from "./stand-ins.js";
import { checkTrailers } from "./trailers.js";

const CHECKS: readonly ((draft: Draft, ctx: Context) => void | Promise<void>)[] = [
  checkReferences,
  checkCells,
  checkRequired,
  checkNames,
  checkLoops,
  checkStandIns,
  checkRepeated,
  checkTrailers,
  checkRoom,
  checkRules,
  checkMoves,
  checkRemovals,
  checkKeys,
  checkTaken,
];

/** Rules of the plan: loaded where it has some. */
async function checkRules(draft: Draft, ctx: Context): Promise<void> {
  const columns = ctx.plan.tables.flatMap((table) => table.columns.flatMap(({ rules }) => rules ?? []));
  if (columns.length > 0) await (await import("./limits.js")).checkLimits(draft, ctx);
  const checks = [...ctx.plan.tables, ...columns].some((one) => one.checks !== undefined);
  if (checks) await (await import("./conditions.js")).checkConditions(draft, ctx);
}

/** Room in lines, where some have groups of fields. */
async function checkRoom(draft: Draft, ctx: Context): Promise<void> {
  if (ctx.compiled.tables.some((table) => mostOf(table, ctx.parts) !== null)) (await import("./room.js")).checkRoom(draft, ctx);
}

async function checkTaken(draft: Draft, ctx: Context): Promise<void> {
  if (ctx.plan.tables.some(({ unique, match }) => (unique ?? match) !== undefined))
    await (await import("./unique.js")).checkUnique(draft, ctx);
}

export async function runChecks(draft: Draft, ctx: Context): Promise<void> {
  for (const check of CHECKS) await check(draft, ctx);
}
