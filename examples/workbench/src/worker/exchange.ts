/** Tables to spreadsheets and back, results and reports to take along. */
import { BlobReader, BlobWriter, TextReader, Uint8ArrayWriter, ZipReader, ZipWriter } from "@zip.js/zip.js";
import { compare, copyTables, RowTables, Workbook, writeReport, type Compared, type ReportKind, type Tables } from "hatch-fold";
import type { Named } from "../protocol";
import { stepOfSheet } from "./brought";
import type { Document } from "./document";
import { counted, Refused } from "./edits";
import { foldNow } from "./result";
import { TableFiles } from "./rows";
import { editsIn, type Step } from "./table";

const stemOf = (name: string): string => name.replace(/(?:\.[a-z0-9]{1,7})+$/i, "");
const BOM = "\ufeff";

export async function exportTables(document: Document, kind: "csv" | "workbook"): Promise<Named> {
  const tables = document.allRows();
  if (kind === "workbook") {
    const book = new Workbook();
    await copyTables(tables, book);
    const type = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet";
    return { name: `${stemOf(document.name)}.xlsx`, bytes: new Blob([book.bytes as BlobPart], { type }) };
  }
  const zip = new ZipWriter(new BlobWriter("application/zip"));
  for (const [file, bytes] of tables.contents) await zip.add(file, new BlobReader(file.endsWith(".csv") ? new Blob([BOM, bytes]) : bytes));
  return { name: `${stemOf(document.name)} tables.zip`, bytes: await zip.close() };
}

/** What was dropped, as tables. A sheet alone is one of those that were hatched. */
async function tablesIn(files: readonly Named[], document: Document): Promise<{ tables: Tables; sheets: ReadonlySet<string> | null }> {
  const [first] = files;
  if (files.length === 1 && /\.xlsx$/i.test(first.name))
    return { tables: new Workbook(new Uint8Array(await first.bytes.arrayBuffer())), sheets: null };
  const contents = new Map<string, Blob>();
  for (const { name, bytes } of files) {
    if (!/\.zip$/i.test(name)) contents.set(name.replace(/^.*\//, ""), bytes);
    else
      for (const entry of await new ZipReader(new BlobReader(bytes)).getEntries())
        if (!entry.directory) contents.set(entry.filename.replace(/^.*\//, ""), await entry.getData(new BlobWriter()));
  }
  const known = document.tables.map(({ file }) => file);
  const sheets = new Set([...contents.keys()].filter((file) => known.includes(file)));
  if (sheets.size === 0)
    throw new Refused(`Nothing was brought back: none of the files is called as a table is (${known.slice(0, 8).join(", ")}).`);
  if (contents.has("receipt.json")) return { tables: new TableFiles(contents), sheets };
  // sheets alone: the others are as they were hatched
  const hatched = document.tables.map(({ file, base }): [string, Blob] => [file, base.text()]);
  const receipt: [string, Blob] = ["receipt.json", new Blob([JSON.stringify(document.receipt)])];
  return { tables: new TableFiles([...hatched, receipt, ...contents]), sheets };
}

export interface Brought {
  readonly compared: Compared;
  readonly steps: readonly Step[];
}

/** Edited tables become steps of editing: what the sheets say now is what the tables say. */
export async function bringBack(document: Document, files: readonly Named[]): Promise<Brought> {
  const { tables, sheets } = await tablesIn(files, document);
  const compared = await compare(tables, { source: document.source(), plan: document.plan });
  const rows = new RowTables();
  await copyTables(tables, rows);
  const label = `bringing back ${files.length === 1 ? files[0].name : counted(files.length, "file")}`;
  const steps = document.tables.flatMap((table) => {
    const sheet = rows.sheets.get(table.name);
    if (sheet === undefined || (sheets !== null && !sheets.has(table.file))) return [];
    const step = stepOfSheet(document.plan, table, sheet.rows, compared, label);
    return editsIn(step) === 0 ? [] : [step];
  });
  return { compared, steps };
}

export async function report(document: Document, kind: ReportKind): Promise<Named> {
  const review = await document.settled();
  const { fold: _, ...all } = review;
  const compared = takenOf(document, all);
  const documents = async (): Promise<{ before: unknown; after: unknown }> => {
    const { files } = await foldNow(document);
    return { before: JSON.parse(await document.files[0].bytes.text()), after: JSON.parse(await files[0].bytes.text()) };
  };
  if (kind === "patch" && (document.files.length !== 1 || document.receipt.source.format !== "json"))
    throw new Refused("A JSON Patch is made of one JSON file.");
  const text = await writeReport(kind, { source: document.name, tables: "the workbench", ...compared, documents });
  const ending = { html: "html", markdown: "md", json: "json", patch: "patch.json" }[kind];
  return {
    name: `${stemOf(document.name)} changes.${ending}`,
    bytes: new Blob([text], { type: kind === "html" ? "text/html" : "text/plain" }),
  };
}

/** What is to be folded of a comparison: a report does not speak of what was left out. */
function takenOf(document: Document, all: Compared): Compared {
  const changes = all.changes.filter((change) => document.isTaken(change));
  if (changes.length === all.changes.length) return all;
  const rows = (kind: string): number => new Set(changes.flatMap((one) => (one.kind === kind ? [`${one.table}\n${one.row}`] : []))).size;
  const counts = { ...all.counts, changed: rows("changed"), added: rows("added"), removed: rows("removed"), moved: rows("moved") };
  return { ...all, changes, counts };
}

// ---- sessions as files

const SESSION = "hatch-fold workbench session";

/** The session with its files, to go on elsewhere. */
export async function sessionFile(document: Document): Promise<Named> {
  const zip = new ZipWriter(new BlobWriter("application/zip"));
  const { reading, planText: plan, steps, done } = document;
  await zip.add("session.json", new TextReader(JSON.stringify({ made: SESSION, reading, plan, steps: steps.slice(0, done) })));
  for (const { name, bytes } of document.files) await zip.add(`files/${name}`, new BlobReader(bytes));
  return { name: `${stemOf(document.name)} session.zip`, bytes: await zip.close() };
}

/** What a session file holds; `null` when it is none. */
export async function sessionIn(
  file: Named,
): Promise<{ files: Named[]; plan: string; steps: Step[]; reading: Document["reading"] } | null> {
  const entries = await new ZipReader(new BlobReader(file.bytes)).getEntries();
  const said = entries.find(({ filename }) => filename === "session.json");
  if (said === undefined || said.directory) return null;
  const parsed = JSON.parse(new TextDecoder().decode(await said.getData(new Uint8ArrayWriter()))) as {
    made?: string;
    plan: string;
    steps: Step[];
    reading: object;
  };
  if (parsed.made !== SESSION) return null;
  const files: Named[] = [];
  for (const entry of entries)
    if (!entry.directory && entry.filename.startsWith("files/"))
      files.push({ name: entry.filename.slice(6), bytes: await entry.getData(new BlobWriter()) });
  return { files, plan: parsed.plan, steps: parsed.steps, reading: parsed.reading };
}
