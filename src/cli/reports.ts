/** Writes the reports that were asked for, by the ending of each file's name. */
import { withFlags } from "./print.js";
import { basename } from "node:path";
import { concat, copied, decode, encode } from "../bytes/writer.js";
import type { Comparison } from "../compare/comparison.js";
import { CallError } from "../errors/error.js";
import { writeWhole } from "../node/out-file.js";
import { mayReplace } from "./outputs.js";
import { REPORT_KINDS, reportKind, writeReport } from "../report/report.js";
import type { ReportInput } from "../report/input.js";
import { inSentences, type Findings, type FindingsInSentences } from "../report/sentences.js";
import { foldedText } from "../fold/write.js";
import { planSplices } from "../source/splices.js";
import type { Context } from "./io.js";

export function checkReportNames(files: readonly string[] | undefined): void {
  for (const file of files ?? []) {
    if (reportKind(file) === null) {
      throw new CallError("call", {
        reason: `it is not clear what kind of report ${file} should be`,
        hint: `Let the name end in one of ${REPORT_KINDS.map(([ending]) => ending).join(", ")}.`,
      });
    }
  }
}

/** What reports are of, and whether files that are there may go. */
export interface ReportsOf {
  readonly source: string;
  readonly tables: string;
  readonly context: Context;
  readonly force?: boolean;
}

/** What was found, as part of the one document of --json. */
export function foundJson(findings: Findings): FindingsInSentences {
  return inSentences(withFlags(findings));
}

export async function writeReports(
  files: readonly string[] | undefined,
  comparison: Comparison,
  { source, tables, context, force = false }: ReportsOf,
): Promise<void> {
  const { counts, changes, healed, problems, follows } = comparison;
  const input: ReportInput = {
    source: basename(source),
    tables,
    counts,
    changes,
    healed,
    ...withFlags(comparison),
    follows,
    documents: () => documentsOf(comparison),
  };
  for (const file of files ?? []) {
    const kind = reportKind(file)!;
    const { dialect } = comparison.parts[0];
    if (kind === "patch" && (dialect.parse === undefined || comparison.receipt.source.files !== undefined)) {
      const what = comparison.receipt.source.files === undefined ? dialect.name : "a set of files";
      throw new CallError("call", {
        reason: `${file}: a JSON Patch (RFC 6902) is for one source that is JSON, and this one is ${what}`,
        hint: "For a list of the changes let the name end in .json alone.",
      });
    }
    if (kind === "patch" && problems.length > 0) {
      context.say(`${file} was not written: there are problems, so there is nothing to patch`);
      continue;
    }
    await writeWhole(file, encode(await writeReport(kind, input)), { replace: force || (await mayReplace(file)) });
    context.say(`wrote ${file}`);
  }
}

async function documentsOf(comparison: Comparison): Promise<{ before: unknown; after: unknown }> {
  const { parts, corrections } = comparison;
  const [{ whole: text, dialect }] = parts;
  const before: Uint8Array[] = [];
  for await (const chunk of text.chunks()) before.push(copied(chunk));
  const after: Uint8Array[] = [];
  const [splices] = await planSplices(comparison);
  for await (const piece of foldedText(text, splices, corrections[0]).chunks()) after.push(copied(piece));
  const parse = (pieces: readonly Uint8Array[]): unknown => dialect.parse!(decode(concat(pieces)).replace(/^\ufeff/, ""));
  return { before: parse(before), after: parse(after) };
}
