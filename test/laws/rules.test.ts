/**
 * Rules: what is refused is what an oracle refuses that shares no code with the library, and what is folded passes all rules
 * that its edited rows are under, also when only the good rows are.
 */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compare, fold, hatch, type MemoryTables } from "hatch-fold";
import { law, RUNS } from "../support/laws.js";
import { Random } from "../support/random.js";
import { ACTION, copyTables, edit, readRows, setCell } from "../support/sheets.js";

interface Line {
  readonly account: string;
  readonly debit: string;
  readonly credit: string;
}
interface Entry {
  readonly no: string;
  readonly day: string;
  readonly lines: readonly Line[];
}

/** Each rule: what the plan says, and the oracle's own reading of it. */
interface CellRule {
  readonly table: "entries" | "lines";
  readonly title: string;
  readonly words: string;
  readonly passes: (cell: string) => boolean;
}
const CELL_RULES: readonly CellRule[] = [
  { table: "entries", title: "no", words: 'pattern: "J-[0-9]+"', passes: (cell) => /^J-\d+$/.test(cell) },
  {
    table: "entries",
    title: "day",
    words: 'type: date, minimum: "2026-01-10", maximum: "2026-01-20"',
    passes: (cell) => cell === "" || (cell >= "2026-01-10" && cell <= "2026-01-20"),
  },
  {
    table: "lines",
    title: "account",
    words: "required: true, min-length: 4, max-length: 5",
    passes: (cell) => cell.length === 4 || cell.length === 5,
  },
  {
    table: "lines",
    title: "debit",
    words: "type: decimal, minimum: 1, maximum: 40.5",
    passes: (cell) => cell === "" || (Number(cell) >= 1 && Number(cell) <= 40.5),
  },
  { table: "lines", title: "credit", words: "type: decimal, check: \"value < 30.0 || row.account == '9000'\"", passes: () => true },
];
const POOL: Readonly<Record<string, readonly string[]>> = {
  no: ["J-1", "J-2", "J-7", "K-1", "J-9x"],
  day: ["2026-01-09", "2026-01-10", "2026-01-20", "2026-01-21"],
  account: ["4000", "7000", "9000", "123", "123456", ""],
  debit: ["1", "0.5", "40.5", "41", "20.25", ""],
  credit: ["1", "29.5", "30", "20.25", ""],
};

const FORMATS = {
  json: (entries: readonly Entry[]): string =>
    `${JSON.stringify({ entries: entries.map(({ no, day, lines }) => ({ no, day, lines: lines.map(({ account, debit, credit }) => ({ account, ...(debit === "" ? {} : { debit: Number(debit) }), ...(credit === "" ? {} : { credit: Number(credit) }) })) })) }, null, 1)}\n`,
  xml: (entries: readonly Entry[]): string =>
    `<book>\n${entries
      .map(
        ({ no, day, lines }) =>
          `<entry no="${no}" day="${day}">\n${lines
            .map(
              ({ account, debit, credit }) =>
                ` <line account="${account}"${debit === "" ? "" : ` debit="${debit}"`}${credit === "" ? "" : ` credit="${credit}"`}/>\n`,
            )
            .join("")}</entry>\n`,
      )
      .join("")}</book>\n`,
  fixed: (entries: readonly Entry[]): string =>
    entries
      .map(({ no, day, lines }) =>
        [
          `E${no.padEnd(8)}${day}        `,
          ...lines.map(({ account, debit, credit }) => `L${account.padEnd(8)}${debit.padEnd(8)}${credit.padEnd(8)}  `),
          "",
        ].join("\n"),
      )
      .join(""),
} as const;

const LAYOUT = `format: fixed, layout: { records: {
  entry: { tag: { at: 1-1, is: E }, fields: { no: 2-9, day: 10-19 } },
  line: { tag: { at: 1-1, is: L }, inside: entry, fields: { account: 2-9, debit: 10-17, credit: 18-25 } } } }`;

/** What the plan says of each: the source, the paths of its records, and what stands before a field. */
const PATHS: Readonly<Record<keyof typeof FORMATS, { source: string; entries: string; lines: string; at: string }>> = {
  json: { source: "", entries: "entries", lines: "entries/lines", at: "" },
  xml: { source: "", entries: "book/entry", lines: "book/entry/line", at: "@" },
  fixed: { source: `, ${LAYOUT}`, entries: "entry", lines: "entry/line", at: "" },
};

function planOf(format: keyof typeof FORMATS, used: ReadonlySet<string>): string {
  const { source, entries, lines, at } = PATHS[format];
  const column = (table: string, title: string): string => {
    const rule = CELL_RULES.find((one) => one.table === table && one.title === title)!;
    const plain = title === "day" ? "type: date" : title === "debit" || title === "credit" ? "type: decimal" : "type: text";
    return `      ${title}: { at: "${at}${title}", ${used.has(title) ? (rule.words.includes("type:") ? rule.words : `type: text, ${rule.words}`) : plain} }\n`;
  };
  return `hatchfold: 1
sources: { s: { file: s.${format}${source} } }
tables:
  entries:
    rows: ${entries}
${used.has("unique") ? "    unique: no\n" : ""}${used.has("sums") ? '    check: "sum(lines.map(l, l.debit)) == sum(lines.map(l, l.credit))"\n' : ""}    columns:
${column("entries", "no")}${column("entries", "day")}  lines:
    rows: ${lines}
    inside: entries
    columns:
${column("lines", "account")}${column("lines", "debit")}${column("lines", "credit")}`;
}

type Row = Readonly<Record<string, string>>;
const rowsOf = (tables: MemoryTables, file: string): Row[] => {
  const [titles, ...rows] = readRows(tables, file);
  return rows.map((cells) => Object.fromEntries(titles.map((title, i) => [title, cells[i]])));
};
const cents = (cell: string): number => Math.round(100 * Number(cell));

/** The rows that break a rule by what was edited in them, by what is new, and by what was moved: `table row`, the titles being row 1. */
function refusedBy(
  used: ReadonlySet<string>,
  was: Readonly<Record<"entries" | "lines", Row[]>>,
  now: Readonly<Record<"entries" | "lines", Row[]>>,
): Set<string> {
  const refused = new Set<string>();
  const wasAt = (table: "entries" | "lines", i: number): Row | undefined => was[table][i];
  for (const { table, title, passes } of CELL_RULES) {
    if (!used.has(title)) continue;
    for (const [i, row] of now[table].entries()) {
      const before = wasAt(table, i);
      const edited = (one: string): boolean => row[one] !== (before?.[one] ?? "");
      if (row[ACTION] === "remove") continue;
      const isNew = before === undefined;
      const isAsked = title === "credit" ? row.credit !== "" && (isNew || edited("credit") || edited("account")) : isNew || edited(title);
      const isRight = title === "credit" ? Number(row.credit) < 30 || row.account === "9000" : passes(row[title]);
      if (isAsked && !isRight) refused.add(`${table} ${i + 2}`);
    }
  }
  if (used.has("unique"))
    for (const [i, { no }] of now.entries.entries())
      if (no !== wasAt("entries", i)?.no && no !== "" && now.entries.some((other, j) => j !== i && other.no === no))
        refused.add(`entries ${i + 2}`);
  if (used.has("sums"))
    for (const [at, { "fold mark": mark }] of now.entries.entries()) {
      const stays = now.lines.filter((row) => row.entries === mark && row[ACTION] !== "remove");
      const causes = now.lines.flatMap((row, i) => {
        const before = wasAt("lines", i);
        const isHere = row.entries === mark && row[ACTION] !== "remove";
        const wasHere = before?.entries === mark;
        const isOther = before === undefined || row.debit !== before.debit || row.credit !== before.credit;
        return isHere !== wasHere || (isHere && isOther) ? [i] : [];
      });
      const sum = (title: string): number => stays.reduce((total, row) => total + cents(row[title]), 0);
      if (sum("debit") === sum("credit")) continue;
      // a new record says so itself, and takes with it what is in it
      if (wasAt("entries", at) === undefined) refused.add(`entries ${at + 2}`);
      else for (const i of causes) refused.add(`lines ${i + 2}`);
    }
  return refused;
}

/** A row with these cells at the end of a sheet. */
function addRow(tables: MemoryTables, file: string, cells: Row): void {
  edit(tables, file, (rows, titles) => [...rows, titles.map((title) => cells[title] ?? "")]);
}

const TITLES = { entries: ["no", "day"], lines: ["account", "debit", "credit"] } as const;
const NAMES = ["entries", "lines"] as const;

describe.each(["json", "xml", "fixed"] as const)("%s", (format) => {
  test("what is refused is what an oracle refuses; what is folded passes", () => {
    let [moved, added] = [0, 0];
    return law(
      fc.nat(),
      async (seed) => {
        const random = new Random(seed);
        const entries = Array.from({ length: 2 + random.next(3) }, (_, i): Entry => ({
          no: `J-${i + 1}`,
          day: `2026-01-1${random.next(8)}`,
          lines: Array.from({ length: 1 + random.next(3) }, (): Line => {
            const amount = random.pick(["2.5", "20.25", "31"]);
            return random.next(2) === 0 ? { account: "4000", debit: amount, credit: "" } : { account: "7000", debit: "", credit: amount };
          }),
        }));
        const used = new Set(["no", "day", "account", "debit", "credit", "unique", "sums"].filter(() => random.next(3) > 0));
        const [source, plan, name] = [FORMATS[format](entries), planOf(format, used), `s.${format}`];
        const { tables } = await hatch(source, { plan, name });
        const read = (of: MemoryTables): Record<"entries" | "lines", Row[]> => ({
          entries: rowsOf(of, "entries.csv"),
          lines: rowsOf(of, "lines.csv"),
        });
        const was = read(tables);
        const edited = copyTables(tables);
        const marks = was.entries.map((entry) => entry["fold mark"]);
        if (random.next(3) === 0) {
          addRow(edited, "entries.csv", { "fold mark": "+new", no: random.pick(POOL.no), day: random.pick(POOL.day) });
          marks.push("+new");
          added++;
        }
        for (const table of NAMES)
          for (const i of was[table].keys()) {
            if (table === "lines" && random.next(6) === 0) setCell(edited, "lines.csv", i + 2, ACTION, "remove");
            else
              for (const title of TITLES[table])
                if (random.next(4) === 0) setCell(edited, `${table}.csv`, i + 2, title, random.pick(POOL[title]));
            if (table === "lines" && random.next(8) === 0) {
              setCell(edited, "lines.csv", i + 2, "entries", random.pick(marks));
              moved++;
            }
          }
        for (let more = random.next(3); more > 0; more--)
          addRow(edited, "lines.csv", {
            entries: random.pick(marks),
            account: random.pick(POOL.account.filter((one) => one !== "")),
            debit: random.pick(POOL.debit),
            credit: random.pick(["", ...POOL.credit]),
          });
        const now = read(edited);
        const expected = refusedBy(used, was, now);
        const { problems, changes } = await compare(edited, { source, name, noHeal: ["no", "day", "account", "debit", "credit"] });
        expect(new Set(problems.flatMap(({ table, row, rows }) => (rows ?? [row]).map((one) => `${table} ${one}`)))).toEqual(expected);
        const { bytes } = await fold(edited, { source, name, partial: true, noHeal: ["no", "day", "account", "debit", "credit"] });
        // of the good rows, all that were folded pass together
        const taken = copyTables(tables);
        for (const { table, row, kind, column, new: value } of changes) {
          const cells = now[table as "entries" | "lines"][row - 2];
          if (kind === "removed") setCell(taken, `${table}.csv`, row, ACTION, "remove");
          else if (kind === "added") addRow(taken, `${table}.csv`, cells);
          else if (kind === "moved") setCell(taken, "lines.csv", row, "entries", cells.entries);
          else setCell(taken, `${table}.csv`, row, column, value ?? "");
        }
        const given = read(taken);
        expect([...refusedBy(used, was, given)]).toEqual([]);
        expect((await fold(taken, { source, name, noHeal: ["no", "day", "account", "debit", "credit"] })).bytes).toEqual(bytes);
      },
      RUNS / 2,
      () => moved > 0 && added > 0,
    ).then(() => {
      expect(moved).toBeGreaterThan(0);
      expect(added).toBeGreaterThan(0);
    });
  });
});
