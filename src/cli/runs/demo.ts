/** The demo: every step as an analyst would call it. Loaded when it is called for. */
import { copyFile, cp, mkdir, readdir, readFile, rm, stat, writeFile } from "node:fs/promises";
import { join, relative } from "node:path";
import { fileURLToPath } from "node:url";
import { CallError } from "../../errors/error.js";
import { formatMark, markSalt } from "../../model/marks.js";
import { CHAPTERS, RULES, type Chapter, type DemoEdit } from "../demo-chapters.js";
import { DemoSheet } from "../demo-sheet.js";
import { colorsFor, type Io } from "../io.js";
import type { Main, Status } from "../command.js";
import { ROOT } from "../root.js";

/** Says that a folder may be cleared. */
const SIGN = "about-this-demo.txt";
const DATA = fileURLToPath(new URL("demo/", ROOT));

export function runDemo(output: string, color: boolean | undefined, io: Io, main: Main): Promise<Status> {
  return new Demo(output, color, io, main).run();
}

class Demo {
  private readonly colors;
  private step = 0;

  constructor(
    private readonly folder: string,
    private readonly color: boolean | undefined,
    private readonly io: Io,
    private readonly main: Main,
  ) {
    this.colors = colorsFor(io.stdout, io.env, color);
  }

  async run(): Promise<Status> {
    await this.begin();
    const source = join(this.folder, "register.json");
    const plan = join(this.folder, "plan.yaml");
    const tables = join(this.folder, "tables");
    await copyFile(join(DATA, "register.json"), source);
    const before = await readFile(source);

    this.title("Look at what is in the file", "The register of the coastal lights authority of Havland, a made-up place.");
    await this.call(0, "survey", source);
    this.title("Draft a plan", "It says which tables and columns to take. It is yours to change; here it is used as it stands.");
    await this.call(0, "draft", source, "-o", plan);
    this.title("Take the tables out");
    await this.call(0, "hatch", source, "-p", plan, "-o", tables);
    this.title("Edit them, with some mistakes", "As in a spreadsheet: sorted by name, cells changed, a row added, copied, moved, removed.");
    await this.edit(tables);
    this.title("Check", "All problems at once, each with its row and with what would be right.");
    await this.call(1, "check", tables);
    this.title("A fold refuses as long as there are problems", "Nothing is written.");
    await this.call(1, "fold", tables, "--in-place", "--quiet");
    this.title("Mend the mistakes, check again");
    await this.mend(tables);
    await this.call(0, "check", tables);
    this.title("Compare", "What would a fold change? Also as a page to send around.");
    await this.call(0, "compare", tables, "--report", join(this.folder, "changes.html"));
    this.title("Fold", "Exactly those changes go back into the source. A backup is kept.");
    await this.call(0, "fold", tables, "--in-place");
    const folded = await readFile(source);
    this.line(`The file had ${before.length} bytes and has ${folded.length}; every byte outside the changes is the one that was there.`);
    this.title("Go back");
    await this.call(0, "undo", source);
    if (!(await readFile(source)).equals(before)) throw new CallError("call", { reason: "undo did not bring the file back", hint: "" });
    this.line("The file is as it was at the start, byte for byte.");
    for (const chapter of CHAPTERS) await this.chapter(chapter);
    await this.rules();
    await this.workbook(source);
    await this.flat();
    await this.refused();
    this.line();
    this.line(`Everything is in ${this.folder}/: try a fold of your own with`);
    this.line(this.colors.cyan(`  hatchfold compare ${tables}`));
    return 0;
  }

  /** A folder of its own: only one that a demo made before is cleared. */
  private async begin(): Promise<void> {
    const names: string[] | null = await readdir(this.folder).catch((error: NodeJS.ErrnoException) =>
      error.code === "ENOENT" ? [] : null,
    );
    if (names === null || (names.length > 0 && !names.includes(SIGN)))
      throw new CallError("demo-folder", { folder: this.folder }, { file: this.folder });
    await rm(this.folder, { recursive: true, force: true });
    await mkdir(this.folder, { recursive: true });
    await writeFile(join(this.folder, SIGN), "This folder was made by hatchfold demo, and is cleared when it runs again.\n");
  }

  /** The same steps for a file of another format, in short. */
  private async chapter({ file, also = [], plan, isOpaque = false, about, told, edits, mended }: Chapter): Promise<void> {
    const files = [file, ...also];
    const sources = files.map((one) => join(this.folder, one));
    const tables = join(this.folder, `${(plan ?? file).replace(/(-plan)?\..*$/, "")}-tables`);
    for (const [i, source] of sources.entries()) await cp(join(DATA, files[i]), source, { recursive: true });
    const before = await Promise.all(sources.map(contents));
    this.title(files.join(" and "), about);
    for (const source of also.length === 0 && !isOpaque ? sources : []) await this.call(0, "survey", source);
    const [source] = sources;
    if (plan === null) await this.call(0, "hatch", source, "-o", tables);
    else {
      await copyFile(join(DATA, plan), join(this.folder, plan));
      await this.call(0, "hatch", "-p", join(this.folder, plan), "-o", tables);
    }
    this.line();
    for (const line of told) this.line(`  ${line}`);
    const marks = await this.apply(tables, edits);
    this.line();
    await this.call(1, "check", tables);
    await this.apply(tables, mended, marks);
    this.line("  … mended");
    await this.call(0, "compare", tables);
    await this.call(0, "fold", tables, "--in-place");
    await this.call(0, "undo", also.length === 0 ? source : this.folder);
    for (const [i, one] of sources.entries()) {
      if ((await contents(one)) !== before[i]) throw new CallError("call", { reason: `undo did not bring ${files[i]} back`, hint: "" });
    }
  }

  /** Rules of a plan and a schema, and rows that are refused. */
  private async rules(): Promise<void> {
    const { file, also, plan, about, told, edits, mended } = RULES;
    const [source, tables, mend] = [file, "dues-tables", "dues-mend"].map((name) => join(this.folder, name));
    for (const name of [file, ...also, plan]) await copyFile(join(DATA, name), join(this.folder, name));
    const before = await contents(source);
    this.title("Rules for others, and refused rows", about);
    await this.call(0, "hatch", "-p", join(this.folder, plan), "-o", tables);
    this.line();
    for (const line of told) this.line(`  ${line}`);
    await this.apply(tables, edits);
    this.line();
    await this.call(1, "check", tables);
    this.line();
    await this.call(3, "fold", tables, "--in-place", "--partial", "--refused", mend, "--quiet");
    this.line((await readFile(join(mend, "lines.csv"), "utf8")).trimEnd());
    await this.apply(mend, mended);
    this.line("  … mended");
    await this.call(0, "compare", mend);
    await this.call(0, "fold", mend, "--in-place");
    await this.call(0, "undo", source);
    await this.call(0, "undo", source);
    if ((await contents(source)) !== before) throw new CallError("call", { reason: `undo did not bring ${file} back`, hint: "" });
  }

  /** The same tables in one file, for a spreadsheet. */
  private async workbook(source: string): Promise<void> {
    const book = join(this.folder, "register.xlsx");
    this.title(
      "A workbook",
      "A sheet a table, with lists to choose from; a first sheet says what may be edited. It is folded like a folder.",
    );
    await this.call(0, "hatch", source, "-p", join(this.folder, "relations-plan.yaml"), "-o", book);
    await this.call(0, "check", book);
  }

  /** One flat sheet that somebody else made, taken apart into a new document. */
  private async flat(): Promise<void> {
    const sheets = join(this.folder, "postings");
    await cp(join(DATA, "postings"), sheets, { recursive: true });
    this.title("One flat sheet, taken apart", "No source and no marks: people once, stations once, and the postings between them, as XML.");
    const sheet = join(sheets, "postings.csv");
    this.line((await readFile(sheet, "utf8")).trimEnd());
    this.line();
    const plan = ["--new", "-p", join(sheets, "plan.yaml")];
    await this.call(1, "check", sheets, ...plan);
    const mended = (await readFile(sheet, "utf8")).replace("Lindquist", "Lindqvist").replace("P-005 ;", "P-005;");
    await writeFile(sheet, mended);
    this.line("  … mended");
    await this.call(0, "compare", sheets, ...plan);
    await this.call(0, "fold", sheets, ...plan, "-o", join(this.folder, "winter.xml"));
    this.line();
    this.line((await readFile(join(this.folder, "winter.xml"), "utf8")).trimEnd());
  }

  /** A plan that contradicts itself: what a fold looks like that cannot prove its result. */
  private async refused(): Promise<void> {
    const [source, plan, tables] = ["stores.dat", "overlap-plan.yaml", "overlap-tables"].map((name) => join(this.folder, name));
    await copyFile(join(DATA, "overlap-plan.yaml"), plan);
    const before = await contents(source);
    this.title(
      "A fold that cannot be proved",
      "What would be written is read again first. Here a field of the plan lies in the middle of another.",
    );
    await this.call(0, "hatch", "-p", plan, "-o", tables);
    this.line();
    this.line("  stations   the last digits of S-010 are 88 now, which would make its count another");
    await this.apply(tables, [{ table: "stations", find: ["code", "S-010"], cells: { last: "88" } }]);
    this.line();
    await this.call(0, "compare", tables);
    await this.call(1, "fold", tables, "--in-place");
    if ((await contents(source)) !== before) throw new CallError("call", { reason: "a refused fold has written", hint: "" });
  }

  /** Applies edits; returns the fold marks that were there before, so that a damaged one can be put back. */
  private async apply(tables: string, edits: readonly DemoEdit[], marks = new Map<string, string>()): Promise<Map<string, string>> {
    for (const { table, find, cells } of edits) {
      const sheet = await DemoSheet.open(join(tables, `${table}.csv`));
      if (find === undefined) sheet.add(cells);
      else {
        const row = sheet.find(...find);
        const id = `${table} ${find.join(" ")}`;
        if (!marks.has(id)) marks.set(id, row[0]);
        sheet.set(row, { ...cells, ...(cells["fold mark"] === "" ? { "fold mark": marks.get(id)! } : {}) });
      }
      await sheet.save();
    }
    return marks;
  }

  private async edit(tables: string): Promise<void> {
    const stations = await DemoSheet.open(join(tables, "stations.csv"));
    stations.set(stations.find("code", "S-003"), { "tower/height": "39.50" });
    stations.set(stations.find("code", "S-004"), { status: "dark", catalogue: "7" });
    stations.set(stations.find("code", "S-006"), { note: 'Bring, in winter, a "long" boat hook' });
    stations.set(stations.find("code", "S-008"), { note: "(null)" });
    stations.set(stations.find("code", "S-013"), { "tower/height": "12.00" });
    stations.set(stations.find("code", "S-005"), { districts: "02" });
    stations.set(stations.find("code", "S-009"), { "fold action": "remove" });
    stations.set(stations.find("code", "S-015"), { status: "lit", "tower/height": "tall" });
    stations.add({ districts: "O3", code: "S-025", name: "Nye Flu", "tower/height": "9.00", status: "lit" });
    const copy = [...stations.find("code", "S-020")];
    stations.rows.push(copy);
    stations.sortBy("name");
    await stations.save();
    const lights = await DemoSheet.open(join(tables, "lights.csv"));
    lights.add({ stations: "S-025", no: "0100", character: "Q W", colour: "W", range: "7" });
    lights.set(lights.find("no", "0012"), { "fold action": "remvoe" });
    await lights.save();
    const people = await DemoSheet.open(join(tables, "people.csv"));
    people.set(people.find("id", "P-002"), { "fold mark": "b2" });
    await people.save();
    for (const line of [
      "stations  sorted by name; heights, states and notes changed; S-005 moved to district 02;",
      "          S-009 marked remove; a new station S-025; S-020 copied as a start for another",
      "          slips: a height that is no number, a district O3 (letter O), the copy's mark left in,",
      "          people are still posted to S-009, and the spreadsheet made 7 of the catalogue number 007",
      "lights    a light for the new station; slip: an action misspelled",
      "people    slip: a fold mark damaged",
    ]) {
      this.line(`  ${line}`);
    }
  }

  private async mend(tables: string): Promise<void> {
    const stations = await DemoSheet.open(join(tables, "stations.csv"));
    stations.set(stations.find("tower/height", "tall"), { "tower/height": "36.50" });
    stations.set(stations.find("districts", "O3"), { districts: "03" });
    const copy = stations.rows.findLast((row) => row[stations.titles.indexOf("code")] === "S-020")!;
    stations.set(copy, { "fold mark": "", code: "S-026", name: "Perlegrunn North", asset: "" });
    await stations.save();
    const postings = await DemoSheet.open(join(tables, "postings.csv"));
    for (const row of postings.rows) if (row.includes("S-009")) postings.set(row, { "fold action": "remove" });
    await postings.save();
    const lights = await DemoSheet.open(join(tables, "lights.csv"));
    lights.set(lights.find("fold action", "remvoe"), { "fold action": "" });
    await lights.save();
    const people = await DemoSheet.open(join(tables, "people.csv"));
    people.set(people.find("fold mark", "b2"), { "fold mark": formatMark(markSalt("people"), 1) });
    await people.save();
  }

  private title(text: string, more = ""): void {
    this.line();
    this.line(this.colors.bold(`── ${++this.step}. ${text} ${"─".repeat(Math.max(2, 66 - text.length))}`));
    if (more !== "") this.line(this.colors.dim(more));
    this.line();
  }

  private line(text = ""): void {
    void this.io.stdout.write(`${text}\n`);
  }

  /** Runs a command as an analyst would type it; the demo stops when it does not end as it should. */
  private async call(expected: Status, ...args: string[]): Promise<void> {
    this.line(this.colors.cyan(`$ hatchfold ${args.map((arg) => relative(".", arg) || arg).join(" ")}`));
    const flags = this.color === undefined ? [] : [this.color ? "--color" : "--no-color"];
    const status = await this.main([...args, ...flags], { ...this.io, stderr: this.io.stdout });
    if (status !== expected)
      throw new CallError("call", { reason: `hatchfold ${args[0]} ended with ${status}, not ${expected}`, hint: "" });
  }
}

/** All bytes of a file, or of the files in a folder. */
async function contents(path: string): Promise<string> {
  const names = (await stat(path)).isDirectory() ? (await readdir(path)).filter((name) => name.includes(".json")).sort() : [""];
  return (await Promise.all(names.map((name) => readFile(join(path, name), "latin1")))).join("\n");
}
