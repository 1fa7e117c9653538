/** Options of the verbs that read edited tables. */
import type { Command } from "commander";
import { collectOption } from "../option-values.js";

export interface TablesOptions {
  source?: string;
  plan?: string;
  copies?: string;
  allow?: string;
  absent?: string;
  append?: string[];
  replace?: string[];
  new?: boolean;
  unhealed?: string[];
  strict?: boolean;
  taken?: string;
  report?: string[];
  json?: boolean;
  color?: boolean;
  quiet?: boolean;
  force?: boolean;
}

export function addTablesOptions(command: Command): Command {
  return command
    .argument("<tables>", "the folder that hatch wrote, or the workbook")
    .option("--source <file>", "the source, when it is not where the receipt says")
    .option("-p, --plan <plan>", "the plan, when it is not the one in the receipt")
    .option("--new", "no source and no receipt: all rows are new, by the plan of -p")
    .option("--copies <how>", "a second row with one mark: refuse it, or take it as new", "refuse")
    .option("--allow <kinds>", "what may be done: change,add,move,remove; the rest is left aside")
    .option("--absent <how>", "records without a row: leave them, or remove them", "leave")
    .option(
      "--append <table>",
      "its sheet has no marks: put its rows behind the records that are there; tags=S-004 puts all of them into S-004 (may be given again)",
      collectOption,
    )
    .option(
      "--replace <table>",
      "its sheet has no marks: its rows take the place of the records there; tags=S-004: of those in S-004 (may be given again)",
      collectOption,
    )
    .option("--unhealed <title>", "leave a column's cells as the spreadsheet left them (may be given again)", collectOption)
    .option("--taken <list>", "only the changes that a list of compare -o still takes")
    .option("--strict", "take warnings of the plan's rules for problems")
    .option("--report <file>", "also write a report: .html, .md, .json or .patch.json (may be given again)", collectOption)
    .option("--force", "replace results and reports that are there already; never the source or a sheet")
    .option("--quiet", "say nothing but errors")
    .option("--json", "print the result as JSON");
}
