/**
 * Changes to choose from: a sheet with a change in each row, from which people take some out, or write another new value; a
 * fold then takes only what is left.
 */
import { fingerprint } from "../bytes/hash.js";
import { encode } from "../bytes/writer.js";
import { harmless } from "../cells/spelling.js";
import type { Comparison } from "../compare/comparison.js";
import { CallError } from "../errors/error.js";
import type { Change } from "../model/findings.js";
import { ACTION_TITLE } from "../model/plan.js";
import type { OpenSheet, SheetContainer, SheetReading, SheetRow } from "../sheets/container.js";
import { rowsBelowWords, titlesIn } from "../sheets/plain-rows.js";
import type { Receipt } from "../sheets/receipt.js";
import { RowsSheet } from "../sheets/rows/sheet.js";
import { readAll } from "../sheets/titled.js";

export const LIST_SHEET = "changes";
const TITLES = ["take", "table", "row", "record", "change", "column", "old", "new", "sign"] as const;
type Title = (typeof TITLES)[number];
/** What stands under `take`. */
const [TAKEN, FOLLOWS] = ["yes", "follows"];
const NOT_TAKEN = new Set(["", "no", "n", "false", "0", "nein", "non", "-"]);

/** The sheet of changes: titles, and a row for each. */
export async function changeList(changes: readonly Change[]): Promise<string[][]> {
  const rows = await Promise.all(
    changes.map(async (change) => {
      const { table, row, record, kind, column, old, new: now, cells = {} } = change;
      const added = Object.entries(cells).map(([title, cell]) => `${title} ${cell}`);
      const cell: Record<Title, string> = {
        take: row > 0 ? TAKEN : FOLLOWS,
        table,
        row: row > 0 ? String(row) : "",
        record,
        change: kind,
        column,
        old: old ?? "",
        new: kind === "added" ? added.join(", ") : (now ?? ""),
        sign: await signOf(change),
      };
      return TITLES.map((title) => (title === "old" || (title === "new" && kind !== "added") ? cell[title] : harmless(cell[title])));
    }),
  );
  return [[...TITLES], ...rows];
}

/** Says which change a row of the list is, whatever becomes of the row. */
async function signOf({ table, row, kind, column, old, new: now, cells }: Change): Promise<string> {
  return `c${(await fingerprint(encode(JSON.stringify([table, row, kind, column, old, now, cells])))).slice(0, 10)}`;
}

/** A row of a list that came back. */
export type Listed = Readonly<Record<Title, string>>;

export async function readList(sheet: OpenSheet): Promise<Listed[]> {
  const [header, ...rows] = (await readAll(sheet, (title) => (TITLES as readonly string[]).includes(title))) ?? [];
  const titles = (header as SheetRow | undefined)?.cells.map((title) => (title ?? "").trim().toLowerCase()) ?? [];
  const missing = TITLES.filter((title) => ["take", "new", "sign"].includes(title) && !titles.includes(title));
  if (missing.length > 0) throw new CallError("list-columns", { missing }, { file: sheet.name });
  return rows.map(({ cells }) => Object.fromEntries(TITLES.map((title) => [title, cells[titles.indexOf(title)] ?? ""])) as Listed);
}

/**
 * The tables with only those edits that a list takes.
 *
 * @throws {@link CallError} where the list is of other tables, or a change cannot be left out by itself
 */
export async function chosenTables(
  container: SheetContainer,
  { changes, receipt }: Pick<Comparison, "changes" | "receipt">,
  list: readonly Listed[],
): Promise<ChosenTables> {
  const bySign = new Map(list.map((one) => [one.sign.trim(), one]));
  const signs = await Promise.all(changes.map(signOf));
  const known = new Set(signs);
  const strange = list.find(({ sign }) => sign.trim() !== "" && !known.has(sign.trim()));
  if (strange !== undefined) throw new CallError("list-other", { table: strange.table, row: strange.row });
  const fileOf = new Map(receipt.tables.map(({ name, file }) => [name, file]));
  const overlays = new Map<string, Map<number, Overlay>>();
  const left: Change[] = [];
  for (const [i, change] of changes.entries()) {
    const { table, row, kind, column, old } = change;
    const listed = bySign.get(signs[i]);
    const isTaken = listed !== undefined && !NOT_TAKEN.has(listed.take.trim().toLowerCase());
    const other = kind === "changed" || kind === "moved" ? (listed?.new ?? "") : "";
    const isOther = isTaken && (kind === "changed" || kind === "moved") && other !== (change.new ?? "");
    if ((isTaken && !isOther) || (row === 0 && listed?.take.trim().toLowerCase() === FOLLOWS)) continue;
    left.push(change);
    if (row === 0) throw new CallError("list-follows", { table, column, record: change.record });
    const of = overlays.get(fileOf.get(table)!) ?? new Map<number, Overlay>();
    overlays.set(fileOf.get(table)!, of);
    const overlay = of.get(row) ?? { drop: false, cells: new Map<string, string>() };
    of.set(row, kind === "added" ? { ...overlay, drop: true } : overlay);
    if (kind === "removed") overlay.cells.set(ACTION_TITLE, "");
    else if (kind !== "added") overlay.cells.set(column, isOther ? other : (old ?? ""));
  }
  return new ChosenTables(container, overlays, left);
}

/** What becomes of a row of a sheet. */
interface Overlay {
  readonly drop: boolean;
  /** Cells by title. */
  readonly cells: Map<string, string>;
}

export class ChosenTables implements SheetContainer {
  constructor(
    private readonly container: SheetContainer,
    private readonly overlays: ReadonlyMap<string, ReadonlyMap<number, Overlay>>,
    private readonly left: readonly Change[],
  ) {}

  get name(): string {
    return this.container.name;
  }

  get isWhole(): boolean {
    return this.container.isWhole;
  }

  receipt(): Promise<Receipt> {
    return this.container.receipt();
  }

  names(): Promise<readonly string[]> {
    return this.container.names();
  }

  async sheet(name: string, as?: SheetReading): Promise<OpenSheet | null> {
    const sheet = await this.container.sheet(name, as);
    const overlays = this.overlays.get(name);
    if (sheet === null || overlays === undefined) return sheet;
    const { tables } = await this.receipt();
    const known = tables.filter(({ file }) => file === name).flatMap(({ titles }) => titles);
    const [header, ...rows] = await rowsBelowWords(sheet);
    const titles = titlesIn(header, known);
    const kept = rows.flatMap((row): SheetRow[] => {
      const { drop = false, cells = new Map<string, string>() } = overlays.get(row.number) ?? {};
      return drop ? [] : [{ ...row, cells: titles.map((title, i) => cells.get(title) ?? row.cells[i]) }];
    });
    return new RowsSheet(name, header, kept);
  }

  /** @throws {@link CallError} for a change that was not taken, or not as it was, and comes all the same */
  async check(changes: readonly Change[]): Promise<void> {
    const signs = new Set(await Promise.all(changes.map(signOf)));
    for (const change of this.left)
      if (signs.has(await signOf(change)))
        throw new CallError("list-follows", { table: change.table, column: change.column, record: change.record });
  }
}
