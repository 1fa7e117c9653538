/** Writes the reports that were asked for, by the ending of each file's name. */
import { basename } from "node:path";
import { concat, copied, decode, encode } from "../bytes/writer.js";
import type { Comparison } from "../compare/compare.js";
import { CallError } from "../errors/error.js";
import { writeWhole } from "../node/files.js";
import { REPORT_KINDS, reportKind, writeReport, type ReportInput } from "../report/report.js";
import { foldComparison } from "../verbs.js";
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

export async function writeReports(
  files: readonly string[] | undefined,
  comparison: Comparison,
  source: string,
  tables: string,
  context: Context,
): Promise<void> {
  const { counts, changes, healed, problems, notes } = comparison;
  const input: ReportInput = {
    source: basename(source),
    tables,
    counts,
    changes,
    healed,
    problems,
    notes,
    documents: () => documentsOf(comparison),
  };
  for (const file of files ?? []) {
    const kind = reportKind(file)!;
    if (kind === "patch" && comparison.dialect.parse === undefined) {
      throw new CallError("call", {
        reason: `${file}: a JSON Patch (RFC 6902) is for sources that are JSON, and this one is ${comparison.dialect.name}`,
        hint: "For a list of the changes let the name end in .json alone.",
      });
    }
    if (kind === "patch" && problems.length > 0) {
      context.say(`${file} was not written: there are problems, so there is nothing to patch`);
      continue;
    }
    await writeWhole(file, encode(await writeReport(kind, input)));
    context.say(`wrote ${file}`);
  }
}

async function documentsOf(comparison: Comparison): Promise<{ before: unknown; after: unknown }> {
  const { text } = comparison;
  const pieces: Uint8Array[] = [];
  for await (const chunk of text.chunks()) pieces.push(copied(chunk));
  const utf8 = { ...comparison, text: { ...viewOf(text), encodeBack: (bytes: Uint8Array) => bytes } };
  const { bytes } = await foldComparison(utf8, {});
  const parse = (text: Uint8Array): unknown => comparison.dialect.parse!(decode(text).replace(/^\ufeff/, ""));
  return { before: parse(concat(pieces)), after: parse(bytes) };
}

function viewOf(text: Comparison["text"]): Comparison["text"] {
  const { name, size, encoding, bom } = text;
  return {
    name,
    size,
    encoding,
    bom,
    read: (start, end) => text.read(start, end),
    chunks: (start) => text.chunks(start),
    encodeBack: (bytes) => text.encodeBack(bytes),
    missing: (characters) => text.missing(characters),
  };
}
