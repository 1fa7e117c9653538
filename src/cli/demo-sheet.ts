/** A table opened for the demo's scripted edits: what an analyst does in a spreadsheet, in a few verbs. */
import { readFile, writeFile } from "node:fs/promises";
import { ByteWriter } from "../bytes/writer.js";
import { MemorySource } from "../bytes/source.js";
import { MARK_TITLE } from "../model/plan.js";
import { openCsv } from "../sheets/csv/sheet.js";
import { readAll } from "../sheets/titled.js";
import { writeCells } from "../sheets/csv/write.js";

export class DemoSheet {
  private constructor(
    private readonly file: string,
    readonly titles: readonly string[],
    public rows: string[][],
  ) {}

  static async open(file: string): Promise<DemoSheet> {
    const sheet = await openCsv(file, new MemorySource(await readFile(file), file));
    const rows = (await readAll(sheet, (title) => title === MARK_TITLE)) ?? [];
    const [titles, ...body] = rows.map(({ cells }) => cells.map((cell) => cell ?? ""));
    return new DemoSheet(file, titles, body);
  }

  async save(): Promise<void> {
    const out = new ByteWriter();
    for (const row of [this.titles, ...this.rows]) writeCells(out, row);
    await writeFile(this.file, out.take());
  }

  /** The row whose cell under `title` is `value`. */
  find(title: string, value: string): string[] {
    const row = this.rows.find((one) => one[this.titles.indexOf(title)] === value);
    if (row === undefined) throw new Error(`the demo's ${this.file} has no ${title} ${value}; was it edited by hand?`);
    return row;
  }

  set(row: string[], cells: Readonly<Record<string, string>>): void {
    for (const [title, value] of Object.entries(cells)) row[this.titles.indexOf(title)] = value;
  }

  add(cells: Readonly<Record<string, string>>): void {
    const row = this.titles.map(() => "");
    this.set(row, cells);
    this.rows.push(row);
  }

  sortBy(title: string): void {
    const c = this.titles.indexOf(title);
    this.rows.sort((a, b) => a[c].localeCompare(b[c]));
  }
}
