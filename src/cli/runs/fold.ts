/** fold, as the command line does it. Loaded when it is called for. */
import { basename, dirname, relative } from "node:path";
import { CallError, HatchFoldError } from "../../errors/error.js";
import { foldInto, refuseFar, refusedInto, renewTables, sourceOf, withComparison } from "../../node/index.js";
import { writeWhole } from "../../node/out-file.js";
import { isWorkbookName, receiptAt } from "../../node/tables-at.js";
import { checkOutputs } from "../outputs.js";
import { foldComparison } from "../../fold/fold.js";
import { withNew } from "../comparing.js";
import { tablesFolder } from "../inputs.js";
import { makeContext, type Context, type Io } from "../io.js";
import type { Status } from "../command.js";
import { countsLine, printNotes, printProblems, printWarnings } from "../print-changes.js";
import { inWords, type Problem } from "../../model/findings.js";
import { asFlags, counted } from "../print.js";
import { checkReportNames, foundJson, writeReports } from "../reports.js";
import { tablesInput } from "./tables-input.js";
import type { TablesOptions } from "../commands/tables-options.js";

export async function runFold(tables: string, options: Options, io: Io): Promise<Status> {
  if ((options.output === undefined) === (options.inPlace !== true)) {
    throw new CallError("call", { reason: "it is not clear where the result goes", hint: "Say either -o FILE or --in-place." });
  }
  if (options.renew === true && options.inPlace !== true)
    throw new CallError("call", {
      reason: "--renew goes with --in-place",
      hint: "Tables go on with the source that they are folded into.",
    });
  if (options.refused !== undefined && (options.partial !== true || options.new === true))
    throw new CallError("call", {
      reason: "--refused goes with --partial, and with a source",
      hint: "hatchfold fold TABLES --in-place --partial --refused MEND",
    });
  if (options.taken !== undefined && (options.renew === true || options.refused !== undefined || options.new === true))
    throw new CallError("call", {
      reason: "--taken leaves edits in the tables, which then cannot go on",
      hint: "Hatch again after the fold, or take the edits out of the sheets.",
    });
  const toStdout = options.output === "-";
  if (options.refused !== undefined && toStdout)
    throw new CallError("call", { reason: "refused rows are rows of a file", hint: "Name one with -o, or say --in-place." });
  if (toStdout && options.json === true)
    throw new CallError("call", { reason: "--json and -o - both want standard output", hint: "Name a file for the result." });
  const context = makeContext(io, options, toStdout);
  if (options.new === true) return runFoldNew(tables, options, io, context);
  checkReportNames(options.report);
  const folder = await tablesFolder(tables);
  // a receipt may name any file: one that is to be changed has to be near, or named in the call
  const far = options.source === undefined ? await farFrom(folder) : null;
  if (far !== null && options.inPlace === true) throw far;
  const input = { ...(await tablesInput(options, io)), progress: context.progress, settle: far === null, unproved: options.unproved };
  let renew: (() => Promise<string[]>) | null = null;
  const status = await withComparison(folder, input, async (comparison, source) => {
    await checkOutputs({ ...options, output: toStdout ? undefined : options.output }, folder, comparison);
    await writeReports(options.report, comparison, { source, tables, context, force: options.force });
    const { problems, warnings, notes, counts, aside } = comparison;
    const refused = problems.length > 0 && options.partial !== true;
    const { partial, unproved } = options;
    const waiting =
      options.refused === undefined || aside.length + problems.length === 0
        ? null
        : await refusedInto(comparison, { tables: folder, source, into: options.refused, replace: options.force, words: inFlags });
    const target = { out: options.output, inPlace: options.inPlace, partial, unproved, replace: options.force };
    if (toStdout && comparison.receipt.source.files !== undefined && comparison.archive === null)
      throw new CallError("call", {
        reason: "several files cannot go to standard output",
        hint: "Name a folder with -o, or say --in-place.",
      });
    const { written, backups, proved } = refused
      ? { written: [], backups: [], proved: false }
      : toStdout
        ? {
            ...(await foldComparison(comparison, { partial, unproved, sink: (bytes) => io.stdout.write(bytes.slice()) })),
            written: [],
            backups: [],
          }
        : await foldInto(comparison, source, folder, target);
    await waiting?.write(options.inPlace === true ? source : options.output!);
    const mend = options.refused === undefined ? {} : { refused: { tables: options.refused, rows: waiting?.count ?? 0 } };
    if (context.json)
      context.printJson({
        counts,
        written: written.map(shown),
        backups: backups.map(shown),
        proved,
        aside,
        ...mend,
        ...foundJson(comparison),
      });
    else {
      printWarnings(warnings, context);
      printNotes(notes, context);
      printProblems(problems, context);
      const words: Context["say"] = refused ? (line) => void io.stderr.write(`${line}\n`) : context.say;
      if (refused)
        words(`${counted(problems.length, "problem")}: nothing was written. Mend them, or say --partial to set those rows aside.`);
      else printDone(context, { written, backups, proved, source, options, counts: comparison.counts, aside });
      if (waiting !== null)
        context.say(
          `  ${counted(waiting.count, "refused row")} in ${options.refused!}, each with its problem: mend and fold ${waiting.count === 1 ? "it" : "them"} from there`,
        );
    }
    if (options.renew === true && !refused) renew = () => renewTables(folder, source, comparison);
    return refused ? 1 : problems.length > 0 ? 3 : 0;
  });
  const renewed = await (renew as (() => Promise<string[]>) | null)?.().catch(notRenewed);
  if (renewed !== undefined && !context.json)
    context.say(
      `  ${tables} goes on: ids and fresh marks are in its ${isWorkbookName(tables) ? "sheets" : counted(renewed.length - 1, "table")}`,
    );
  return status;
}

/** What is said of a problem, as the command line says it. */
function inFlags({ message, hint }: Problem): string {
  return inWords(message, asFlags(hint));
}

/** The source that the receipt names, when it is nowhere near. */
async function farFrom(tables: string): Promise<CallError | null> {
  const { folder, receipt } = await receiptAt(tables);
  const source = await sourceOf(folder, receipt);
  return refuseFar(tables, source).then(
    () => null,
    (error: CallError) => error,
  );
}

/** What was done before stays done, and is said. */
function notRenewed(error: unknown): never {
  if (error instanceof HatchFoldError && error.code === "renew-row") throw error;
  throw new CallError("renew-failed", { reason: error instanceof HatchFoldError ? error.toString() : String(error) });
}

/** No source, no receipt: all rows are new. */
async function runFoldNew(tables: string, options: Options, io: Io, context: Context): Promise<Status> {
  const { output } = options;
  if (output === undefined)
    throw new CallError("call", {
      reason: "--new makes a new document, and there is none to be replaced",
      hint: "hatchfold fold SHEETS --new -p PLAN -o OUT",
    });
  return withNew(tables, options, io, async (comparison) => {
    const { problems, warnings, notes, counts, aside } = comparison;
    const refused = problems.length > 0 && options.partial !== true;
    if (output !== "-") await checkOutputs(options, tables, null);
    const folded = refused ? null : await foldComparison(comparison, { partial: options.partial, unproved: options.unproved });
    const proved = folded?.proved ?? false;
    if (folded !== null) {
      if (output === "-") await io.stdout.write(folded.bytes);
      else await writeWhole(output, folded.bytes, { replace: options.force === true });
    }
    const written = folded === null || output === "-" ? [] : [output];
    if (context.json) context.printJson({ counts, written, backups: [], proved, aside, ...foundJson(comparison) });
    else {
      printWarnings(warnings, context);
      printNotes(notes, context);
      printProblems(problems, context);
      if (refused)
        await io.stderr.write(
          `${counted(problems.length, "problem")}: nothing was written. Mend them, or say --partial to set those rows aside.\n`,
        );
      else printDone(context, { written, backups: [], proved, source: output, options, counts, aside });
    }
    return refused ? 1 : problems.length > 0 ? 3 : 0;
  });
}

interface Done {
  readonly written: readonly string[];
  readonly backups: readonly string[];
  readonly proved: boolean;
  readonly source: string;
  readonly options: Options;
  readonly counts: Parameters<typeof countsLine>[0];
  readonly aside: readonly { readonly table: string; readonly row: number }[];
}

function printDone({ say, colors }: Context, { written, backups, proved, source, options, counts, aside }: Done): void {
  const what =
    written.length > 0 ? `folded into ${named(written)}` : options.inPlace === true ? `${basename(source)} is unchanged` : "folded";
  say(`${colors.green("✓")} ${what}${proved ? ", proved" : ""}: ${countsLine(counts)}`);
  if (!proved) say(colors.yellow("  not proved: what was written was not read again before (--unproved)"));
  if (backups.length > 0)
    say(
      `  backup: ${backups.length === 1 ? shown(backups[0]) : `${counted(backups.length, "file")} in ${shown(dirname(backups[0]))}`}; to go back: hatchfold undo ${shown(source)}`,
    );
  for (const { table, row } of aside.filter((one) => one.row > 0)) say(colors.yellow(`  set aside: ${table} row ${row}`));
}

/** A few paths by their names, more by their number. */
function named(paths: readonly string[]): string {
  return paths.length <= 3 ? paths.map(shown).join(", ") : `${counted(paths.length, "file")} in ${shown(dirname(paths[0]))}`;
}

/** Paths as somebody in this folder would write them. */
function shown(path: string): string {
  const near = relative(process.cwd(), path);
  return near !== "" && !near.startsWith("..") ? near : path;
}
export interface Options extends TablesOptions {
  output?: string;
  inPlace?: boolean;
  partial?: boolean;
  unproved?: boolean;
  renew?: boolean;
  refused?: string;
}
