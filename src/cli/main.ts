/** The command line: a function of arguments, input and outputs that returns the exit status. */
import { asFlags } from "./print.js";
import { readFileSync } from "node:fs";
import { Command, CommanderError } from "commander";
import { visible } from "../errors/visible.js";
import { CallError, HatchFoldError, SourceError } from "../errors/error.js";
import { systemReason } from "../node/files.js";
import { addCheck } from "./commands/check.js";
import { addCompare } from "./commands/compare.js";
import { addDemo } from "./commands/demo.js";
import { addDraft } from "./commands/draft.js";
import { addFold } from "./commands/fold.js";
import { addHatch } from "./commands/hatch.js";
import { addSurvey } from "./commands/survey.js";
import { addUndo } from "./commands/undo.js";
import type { Run, Status } from "./command.js";
import { type Io, colorsFor, escapedJson } from "./io.js";
import { ROOT } from "./root.js";

const EXAMPLES = `
Examples:
  hatchfold survey register.json                    look at what is in the file
  hatchfold draft register.json -o plan.yaml        a plan to start from
  hatchfold hatch register.json -p plan.yaml -o t   take the tables out, into the folder t
  hatchfold check t                                 do the edited tables hold together?
  hatchfold compare t                               what would a fold change?
  hatchfold fold t -o new.json                      put exactly the changes back
  hatchfold fold t --in-place                       … into the source itself, with a backup
  hatchfold undo register.json                      take the last fold back

Exit status: 0 done, 1 the data has problems and nothing was written,
2 wrong call, unreadable file or wrong plan, 3 partly done as asked (--partial).
"hatchfold demo" shows it all on made-up data.`;

export async function main(args: readonly string[], io: Io): Promise<Status> {
  let status: Promise<Status> = Promise.resolve(0);
  const run: Run = (result) => {
    status = result;
  };
  const program = new Command("hatchfold")
    .description("Flatten nested records to tables, edit them in a spreadsheet, put exactly the edits back.")
    .usage("COMMAND …")
    .helpOption("-h, --help", "show help")
    .version(version(), "--version", "show the version")
    .addHelpText("after", EXAMPLES)
    .exitOverride()
    .showSuggestionAfterError(true)
    .configureOutput({ writeOut: (text) => void io.stdout.write(text), writeErr: (text) => void io.stderr.write(lines(text)) });
  for (const add of [addSurvey, addDraft, addHatch, addCheck, addCompare, addFold, addUndo]) add(program, io, run);
  addDemo(program, io, run, main);
  for (const command of program.commands) {
    command.option("--color", "colour even when not at a terminal").option("--no-color", "no colour");
    command.exitOverride().copyInheritedSettings(program).helpOption("-h, --help", "show help");
  }
  try {
    await program.parseAsync(args, { from: "user" });
    return await status;
  } catch (error) {
    return report(error, args, io);
  }
}

/** A message of the argument parser quotes what was typed. */
const lines = (text: string): string => text.split("\n").map(visible).join("\n");

function version(): string {
  const about = readFileSync(new URL("package.json", ROOT), "utf8");
  return (JSON.parse(about) as { version: string }).version;
}

async function report(error: unknown, args: readonly string[], io: Io): Promise<Status> {
  const json = args.includes("--json");
  if (error instanceof CommanderError) {
    if (error.exitCode === 0) return 0;
    if (json) void io.stdout.write(`${escapedJson({ error: { code: "call", message: error.message, hint: "", place: {} } })}\n`);
    return 2;
  }
  const known = error instanceof HatchFoldError ? (error as HatchFoldError) : unforeseen(error);
  if (json) {
    const { code, message, hint, place } = known;
    void io.stdout.write(`${escapedJson({ error: { code, message, hint: asFlags(hint), place } })}\n`);
  }
  const colors = colorsFor(io.stderr, io.env, undefined);
  const text = known.toString();
  const said = `${colors.red("hatchfold:")} ${text.slice(0, text.length - known.hint.length)}${asFlags(known.hint)}`;
  if (!io.stderr.isTTY) void io.stderr.write(`${said}\n`);
  else {
    // over what progress was told there
    const { wrapLines } = await import("./print.js");
    void io.stderr.write(`\r\x1b[K${wrapLines(said, io.stderr.columns ?? Infinity)}\n`);
  }
  return known.status;
}

/** What the system refused where nobody expected it; and a defect of the program itself still gets a sentence, not a stack trace. */
function unforeseen(error: unknown): HatchFoldError {
  if (error instanceof Error && "syscall" in error) {
    const { path } = error as NodeJS.ErrnoException;
    return new SourceError("file-failed", { reason: systemReason(error) }, path === undefined ? {} : { file: path });
  }
  const message = error instanceof Error ? error.message : String(error);
  return new CallError("call", {
    reason: `this should not have happened: ${message}`,
    hint: "Nothing was written. Please report it with the command you gave.",
  });
}
