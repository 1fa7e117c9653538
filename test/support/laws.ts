/** The laws of the product (docs/laws.md), as properties over the generated documents of one format. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { check, compare, fold, hatch, MemorySource, type ColumnPlan, type MemoryTables } from "hatch-fold";
import { RUNS, SEED } from "./runs.js";
import { Random } from "./random.js";
import { ACTION, bytes, copyTables, edit, FILE, MARK, readRows, sheetFiles, text, writeRows, type Rows } from "./sheets.js";

export { RUNS };

const again = { seed: SEED, path: process.env.LAW_PATH ?? "" };
/** Documents for which a law says nothing, for each for which it does. */
const MOST_SKIPPED = 12;

/** `until`: what has to be seen in some run; on a day without luck it is looked for further. */
export async function law<T>(
  arbitrary: fc.Arbitrary<T>,
  property: (value: T) => Promise<void>,
  runs = RUNS,
  until = (): boolean => true,
): Promise<void> {
  const numRuns = Math.max(4, Math.ceil(runs));
  const maxSkipsPerRun = Math.max(MOST_SKIPPED, 150 / numRuns);
  await fc.assert(fc.asyncProperty(arbitrary, property), { numRuns, maxSkipsPerRun, ...again });
  for (const value of until() ? [] : fc.sample(arbitrary, { numRuns: 300, seed: SEED })) {
    if (until()) return;
    await property(value).catch((error: unknown) => {
      if (!fc.PreconditionFailure.isFailure(error)) throw error;
    });
  }
}

/** One format's documents, and what may be written into them. */
export interface World {
  /** Name of the source: its ending helps to tell the format. */
  readonly name: string;
  readonly anything: fc.Arbitrary<string>;
  /** Documents with lists of records. */
  readonly records: fc.Arbitrary<string>;
  /** Throws when another parser does not take the text. */
  wellFormed(text: string): void;
  readonly values?: Readonly<Record<string, readonly string[]>>;
  /** What a blank cell stands for where the plan does not say. */
  readonly blank?: string;
  /** How a new record that is nothing but a text, and has none, reads. */
  readonly emptyText?: string;
  /** Bytes beside the value's own that one edit may touch. */
  readonly slack?: number;
  /** How many of the runs it gets: its values are those of another format. */
  readonly share?: number;
  readonly freshKey?: (n: number) => string;
  /** Of files whose layout cannot be guessed. */
  readonly plan?: string;
}

export function describeLaws(world: World): void {
  const { name, share = 1 } = world;
  const how = world.plan === undefined ? { name } : { name, plan: world.plan };
  const held: typeof law = (arbitrary, property, runs) => law(arbitrary, property, (runs ?? RUNS) * share);
  const documentAndSeed = fc.tuple(world.records, fc.nat());

  describe("law 1: nothing edited, nothing changed", () => {
    test("any document at all comes back byte for byte", () =>
      held(world.anything, async (source) => {
        const { tables } = await hatch(source, how);
        const folded = await fold(tables, { source, name });
        expect(text(folded.bytes)).toBe(source);
        expect(folded.counts).toMatchObject({ changed: 0, added: 0, removed: 0, moved: 0, healed: 0, problems: 0 });
      }));

    test("also when the file is cut into small pieces", () =>
      held(fc.tuple(world.anything, fc.integer({ min: 1, max: 9 })), async ([source, size]) => {
        const whole = bytes(source);
        const pieces = {
          name,
          size: whole.length,
          read: (start: number, end: number) => Promise.resolve(whole.subarray(start, end)),
          async *chunks(start = 0) {
            for (let at = start; at < whole.length; at += size) yield await Promise.resolve(whole.slice(at, at + size));
          },
        };
        const a = await hatch(source, how);
        const b = await hatch(pieces, how);
        expect([...b.tables.contents]).toEqual([...a.tables.contents]);
        expect(text((await fold(b.tables, { source: pieces, name })).bytes)).toBe(source);
      }));
  });

  describe("law 4: order does not matter", () => {
    test("sorting, leaving out rows and columns, another delimiter or line end change nothing", () =>
      held(documentAndSeed, async ([source, seed]) => {
        const random = new Random(seed);
        const { tables } = await hatch(source, how);
        for (const file of sheetFiles(tables)) shuffleSheet(tables, file, random);
        const folded = await fold(tables, { source, name });
        expect(text(folded.bytes)).toBe(source);
      }));
  });

  describe("laws 2, 3 and 7: what you edited is what you get, and nothing else moves", () => {
    test("one cell: the edited tables come back, and only the value's bytes change", () =>
      held(documentAndSeed, async ([source, seed]) => {
        const random = new Random(seed);
        const { tables, plan } = await hatch(source, how);
        const edited = editOneCell(tables, plan.tables, random, world);
        fc.pre(edited !== null);
        const folded = await foldOrNull(tables, source, name);
        fc.pre(folded !== null);
        await sameTables(tables, folded, name, plan.text, new Set([edited.column]));
        const { prefix, suffix } = common(source, folded);
        if (edited.replaced) {
          // old and new value stand between what is common; the rest of the file is outside
          const { changes } = await compare(tables, { source, name });
          expect(changes).toHaveLength(1);
          const longest = 6 * Math.max(changes[0].old!.length, changes[0].new!.length) + (world.slack ?? 8);
          expect(Math.max(source.length, folded.length) - prefix - suffix).toBeLessThanOrEqual(longest);
        }
      }));

    test("many cells at once", () =>
      held(documentAndSeed, async ([source, seed]) => {
        const random = new Random(seed);
        const { tables, plan } = await hatch(source, how);
        for (let i = 0; i < 6; i++) {
          const before = copyTables(tables);
          const edited = editOneCell(tables, plan.tables, random, world);
          if (edited === null) continue;
          if ((await check(tables, { source, name })).problems.length > 0)
            before.contents.forEach((content, file) => tables.contents.set(file, content));
        }
        const folded = await foldOrNull(tables, source, name);
        if (folded !== null) await sameTables(tables, folded, name, plan.text, new Set());
      }));

    test("rows added, removed and moved: each record is where the tables say, once", async () => {
      await held(documentAndSeed, async ([source, seed]) => {
        const random = new Random(seed);
        const { tables, plan } = await hatch(source, how);
        restructure(tables, plan.tables, random, world);
        const expected = signatures(tables, plan.tables);
        const folded = await foldOrNull(tables, source, name);
        fc.pre(folded !== null);
        world.wellFormed(folded);
        const again = await hatch(folded, { name, plan: plan.text });
        expect(signatures(again.tables, plan.tables)).toEqual(expected);
      });
    });
  });

  describe("several files of one kind", () => {
    const several = fc.array(world.records, { minLength: 2, maxLength: 4 });
    const opened = (documents: readonly string[]): MemorySource[] =>
      documents.map((one, i) => new MemorySource(bytes(one), `${i}/${name}`));

    test("nothing edited, nothing changed in any of them", () =>
      held(
        several,
        async (documents) => {
          const hatched = await hatchSet(opened(documents), world.plan);
          fc.pre(hatched !== null);
          const { files } = await fold(hatched.tables, { source: opened(documents) });
          expect(files.map((file) => text(file.bytes))).toEqual(documents);
          expect(files.every((file) => file.unchanged)).toBe(true);
        },
        RUNS / 2,
      ));

    test("rows added, removed and moved, from file to file too; a file without changes keeps every byte", async () => {
      await held(
        fc.tuple(several, fc.nat()),
        async ([documents, seed]) => {
          const random = new Random(seed);
          const hatched = await hatchSet(opened(documents), world.plan);
          fc.pre(hatched !== null);
          const { tables, plan } = hatched;
          // of many rows few, as rows in others that go are mostly a problem
          restructure(tables, plan.tables, random, world, 4);
          fc.pre(identsAreUnique(tables, plan.tables));
          const expected = signatures(tables, plan.tables);
          const { problems, changes } = await compare(tables, { source: opened(documents) });
          fc.pre(problems.length === 0);
          const { files } = await fold(tables, { source: opened(documents) });
          const folded = files.map((file) => text(file.bytes));
          for (const one of folded) world.wellFormed(one);
          fc.pre(folded.every((one) => one !== "")); // an empty file says nothing of its columns
          if (changes.length === 0) expect(folded).toEqual(documents);
          files.forEach((file, i) => file.unchanged && expect(folded[i]).toBe(documents[i]));
          const again = await hatch(opened(folded), { plan: plan.text });
          expect(signatures(again.tables, plan.tables)).toEqual(expected);
        },
        RUNS / 2,
      );
    });
  });
}

/** Documents that look like different formats cannot be read together: nothing is said of those. */
async function hatchSet(documents: readonly MemorySource[], plan?: string): Promise<Awaited<ReturnType<typeof hatch>> | null> {
  try {
    return await hatch(documents, { plan });
  } catch (error) {
    if ((error as { code?: string }).code === "set-mixed") return null;
    throw error;
  }
}

/** Rows inside others name them by key: where two have one key, this test could not tell them apart. */
function identsAreUnique(tables: MemoryTables, plans: Tables): boolean {
  return plans.every((table) => {
    if (table.key === undefined || !plans.some((one) => one.inside === table.name)) return true;
    const rows = readRows(tables, `${table.name}.csv`);
    const keys = rows.slice(1).map((row) => row[rows[0].indexOf(table.key!)]);
    return new Set(keys).size === keys.length;
  });
}

// ---- edits

function shuffleSheet(tables: MemoryTables, file: string, random: Random): void {
  const [head, ...body] = readRows(tables, file);
  const kept = random.shuffle(body.filter(() => !random.chance(4)));
  const mark = head.indexOf(MARK);
  const order = random.shuffle([...head.keys()]).filter((c) => c === mark || !random.chance(6));
  const rows = [head, ...kept].map((row) => order.map((c) => row[c]));
  writeRows(tables, file, rows, { delimiter: order.length > 1 ? random.pick([",", ";", "\t"]) : ",", line: random.pick(["\r\n", "\n"]) });
  // what some spreadsheets call Unicode text
  if (random.chance(8)) tables.contents.set(file, Buffer.from(`\ufeff${tables.text(file)}`, "utf16le"));
}

type Tables = readonly {
  readonly name: string;
  readonly inside?: string;
  readonly key?: string;
  readonly columns: readonly ColumnPlan[];
}[];

const VALUES: Record<string, readonly string[]> = {
  text: ["new", 'Ærø, "x"', "'=1+1", " lead", "(empty)", "(null)", "[]", "two\nlines", "漢", "((null))", "'=x", ""],
  number: ["42", "-1.50", "1e9", "", "(null)"],
  integer: ["7", "-12", "", "(null)"],
  decimal: ["7.50", "-12", "", "(null)"],
  boolean: ["true", "false", ""],
  date: ["2001-02-03", "", "(null)"],
  any: ["word", "12", "true", "", "(null)", "(empty)", "[]", "{}"],
};

function editOneCell(tables: MemoryTables, plans: Tables, random: Random, world: World): { replaced: boolean; column: string } | null {
  const file = random.pick(sheetFiles(tables));
  const table = plans.find((one) => `${one.name}.csv` === file)!;
  let result: { replaced: boolean; column: string } | null = null;
  edit(tables, file, (rows, titles) => {
    const column = random.pick(table.columns);
    if (rows.length < 2 || column === undefined || column.readOnly) return;
    const c = titles.indexOf(column.title);
    const r = 1 + random.next(rows.length - 1);
    const chosen =
      column.title === table.key
        ? (world.freshKey ?? ((n) => `K${n}`))(random.next(1e9))
        : random.pick((world.values ?? VALUES)[column.type] ?? VALUES[column.type]);
    // what the column spells as a blank cell
    const value = chosen === `(${column.blank ?? world.blank ?? "absent"})` ? "" : chosen;
    if (rows[r][c] === value) return;
    const special = /^$|^\(|^[[{]/;
    result = { column: `${table.name} ${column.title}`, replaced: !special.test(rows[r][c]) && !special.test(value) };
    rows[r][c] = value;
  });
  return result;
}

/** Removes, copies and moves rows at random: one of `calm`. */
function restructure(tables: MemoryTables, plans: Tables, random: Random, world: World, calm = 1): void {
  for (const file of sheetFiles(tables)) {
    const table = plans.find((one) => `${one.name}.csv` === file)!;
    edit(tables, file, (rows, titles) => {
      const added: Rows = [];
      for (const row of rows.slice(1)) {
        if (!random.chance(calm)) continue;
        const kind = random.next(12);
        const inFile = titles.indexOf(FILE);
        if (kind === 0) row[titles.indexOf(ACTION)] = "remove";
        else if (kind === 1 && table.name !== "document" && row.slice(2).some((cell) => cell.trim() !== "")) {
          const copy = [...row];
          copy[titles.indexOf(MARK)] = "";
          // now and then it says nothing but where it goes
          const isBlank = table.inside !== undefined && random.chance(5);
          table.columns.forEach((column) => {
            if (isBlank) copy[titles.indexOf(column.title)] = column.at.steps.length === 0 ? (world.emptyText ?? "") : "";
            if (column.title === table.key || column.at.end === "key")
              copy[titles.indexOf(column.title)] = (world.freshKey ?? ((n) => `N${n}`))(random.next(1e9));
          });
          added.push(copy);
        } else if (kind <= 3 && table.inside !== undefined) {
          const other = random.pick(rows.slice(1));
          row[titles.indexOf(table.inside)] = other[titles.indexOf(table.inside)];
        } else if (kind <= 3 && inFile >= 0 && table.name !== "document") row[inFile] = random.pick(rows.slice(1))[inFile];
      }
      return random.shuffle([...rows.slice(1), ...added]).reduce((all, row) => [...all, row], [titles]);
    });
  }
}

/**
 * Each row with all that is around it, as one text; sorted. Removed rows, and what is inside them, are
 * left out; cells that only tell of lists being there or not follow from the rows and are left out, too.
 */
function signatures(tables: MemoryTables, plans: Tables): string[] {
  const all: string[] = [];
  const find = new Map<string, (ident: string) => { text: string; gone: boolean } | null>();
  for (const table of plans) {
    const rows = readRows(tables, `${table.name}.csv`);
    const titles = rows[0];
    const rest = (column: ColumnPlan): boolean =>
      plans.some((one) => one.inside === table.name || table.name === "document") && column.type === "any" && column.at.steps.length > 0;
    const own = rows.slice(1).map((row) => {
      const cells = table.columns.filter((column) => !rest(column)).map((column) => `${column.title}=${row[titles.indexOf(column.title)]}`);
      const file = titles.includes(FILE) ? row[titles.indexOf(FILE)] : "-";
      const parent = table.inside === undefined ? null : (find.get(table.inside)!(row[titles.indexOf(table.inside)]) ?? null);
      const gone = row[titles.indexOf(ACTION)] === "remove" || parent?.gone === true;
      return { row, gone, text: `${table.name}(${cells.join(", ")}) in ${parent?.text ?? file}` };
    });
    // a record whose key nobody sees is called by its mark
    const called = (row: readonly string[]): string => {
      const key = table.key === undefined ? "" : row[titles.indexOf(table.key)];
      return key.trim() === "" ? row[titles.indexOf(MARK)] : key;
    };
    find.set(table.name, (ident) => own.find(({ row }) => called(row) === ident) ?? null);
    all.push(...own.filter(({ gone }) => !gone).map((one) => one.text));
  }
  return all.sort();
}

// ---- what must hold

/** The folded text, or null when the edit was refused: then nothing must have been written. */
async function foldOrNull(tables: MemoryTables, source: string, name: string): Promise<string | null> {
  const { problems } = await check(tables, { source, name });
  if (problems.length === 0) return text((await fold(tables, { source, name })).bytes);
  await expect(fold(tables, { source, name })).rejects.toMatchObject({ code: "problems-left", status: 1 });
  for (const problem of problems) expect(problem.message + problem.hint).toMatch(/\w/);
  return null;
}

/**
 * All cells but those that follow from others: the name of the record around a row, and what is left of
 * a record or list taken apart (unless it was edited itself).
 */
async function sameTables(edited: MemoryTables, folded: string, name: string, plan: string, touched: ReadonlySet<string>): Promise<void> {
  const again = await hatch(folded, { name, plan });
  for (const { name: table, inside, columns } of again.plan.tables) {
    const follows = (title: string): boolean => title === inside || (isRest(columns, title) && !touched.has(`${table} ${title}`));
    const own = (rows: Rows): Rows => rows.map((row) => row.filter((_, c) => !follows(rows[0][c])));
    expect(own(readRows(again.tables, `${table}.csv`))).toEqual(own(readRows(edited, `${table}.csv`)));
  }
}

function isRest(columns: readonly ColumnPlan[], title: string): boolean {
  const column = columns.find((one) => one.title === title);
  const path = column?.at.steps.map((step) => JSON.stringify(step)).join() ?? "";
  return (
    path !== "" &&
    columns.some((one) =>
      one.at.steps
        .map((step) => JSON.stringify(step))
        .join()
        .startsWith(`${path},`),
    )
  );
}

function common(a: string, b: string): { prefix: number; suffix: number } {
  let prefix = 0;
  while (prefix < a.length && prefix < b.length && a[prefix] === b[prefix]) prefix++;
  let suffix = 0;
  while (suffix < a.length - prefix && suffix < b.length - prefix && a[a.length - 1 - suffix] === b[b.length - 1 - suffix]) suffix++;
  return { prefix, suffix };
}
