/** Blocks of `Name: value` lines whose names come again: lists, as rows of their own or packed in a cell. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { fold, hatch, MemorySource, type MemoryTables } from "hatch-fold";
import { law, RUNS } from "../support/laws.js";
import { Random } from "../support/random.js";
import { bytes, edit, setCell, text } from "../support/sheets.js";

const CARDS = "Name: Ada\nTel: 01\n# home\nTel: 02\nNote: x\n\nName: Bo\nTel: 03\n\nName: Ed\nTel:  \n\nName: Cy\nNote: y";
const EMPTY = "Tel:  \n";
const PLAN = (rest: string): string => `
hatchfold: 1
sources: { cards: { file: cards.txt, format: blocks, comment: "#" } }
tables: { cards: { rows: ., key: name, columns: { name: Name, note: Note${rest} }`;
const ROWS = PLAN(" }") + ", tel: { rows: Tel, inside: cards, columns: { number: . } } }";
const PACKED = PLAN(', tels: { at: Tel, pack: "; " } }') + " }";

const add =
  (...cells: Record<string, string>[]) =>
  (tables: MemoryTables, file: string): MemoryTables =>
    edit(tables, file, (rows, titles) => [...rows, ...cells.map((cell) => titles.map((title) => cell[title] ?? ""))]);
const set = (row: number, title: string, value: string) => (tables: MemoryTables, file: string) => setCell(tables, file, row, title, value);

describe("a name that comes again is a list", () => {
  const AFTER: [what: string, change: (tables: MemoryTables, file: string) => MemoryTables, from: string, to: string][] = [
    ["a value is changed", set(3, "number", "09"), "Tel: 02", "Tel: 09"],
    ["one is added behind the last of its block", add({ cards: "Ada", number: "09" }), "Tel: 02\n", "Tel: 02\nTel: 09\n"],
    ["two are added to a block", add({ cards: "Bo", number: "09" }, { cards: "Bo", number: "10" }), "03\n", "03\nTel: 09\nTel: 10\n"],
    ["one where there was none, behind a last line without an end", add({ cards: "Cy", number: "09" }), "Note: y", "Note: y\nTel: 09"],
    ["one of two goes, and the remark stays", set(3, "fold action", "remove"), "Tel: 02\n", ""],
    ["a line goes to another block", set(2, "cards", "Bo"), CARDS, CARDS.replace("Tel: 01\n", "").replace("03\n", "03\nTel: 01\n")],
    ["a line goes to the end of the file", set(4, "cards", "Cy"), CARDS, `${CARDS.replace("Tel: 03\n", "")}\nTel: 03`],
    [
      "one comes behind a last line without an end, and one from another block",
      (tables: MemoryTables, file: string) => add({ cards: "Cy", number: "09" })(set(4, "cards", "Cy")(tables, file), file),
      CARDS,
      `${CARDS.replace("Tel: 03\n", "")}\nTel: 03\nTel: 09`,
    ],
    [
      "a name without a value gets the first",
      add({ cards: "Ed", number: "09" }, { cards: "Ed", number: "10" }),
      EMPTY,
      "Tel: 09\nTel: 10\n",
    ],
    ["a value over two lines", set(4, "number", "03\nor 04"), "Tel: 03", "Tel: 03\n or 04"],
  ];
  test.each(AFTER)("%s", async (_, change, from, to) => {
    const { tables } = await hatch(CARDS, { name: "cards.txt", plan: ROWS });
    change(tables, "tel.csv");
    expect(text((await fold(tables, { source: CARDS, name: "cards.txt" })).bytes)).toBe(CARDS.replace(from, to));
  });

  test("the last card, without a line end, goes to another file and gets a line", async () => {
    const files = [new MemorySource(bytes("Name: Di\nTel: 08\nTel: 09\n"), "a.txt"), new MemorySource(bytes(`${CARDS}\nTel: 05`), "b.txt")];
    const { tables } = await hatch(files, { plan: ROWS.replace("cards.txt", "'*.txt'") });
    setCell(tables, "cards.csv", 6, "in file", "a.txt");
    setCell(tables, "tel.csv", 3, "cards", "Cy");
    const folded = await fold(tables, { source: files });
    expect(folded.files.map((file) => text(file.bytes))).toEqual([
      "Name: Di\nTel: 08\n\nName: Cy\nNote: y\nTel: 05\nTel: 09\n",
      CARDS.slice(0, CARDS.indexOf("Name: Cy")),
    ]);
  });

  const PACKS: [what: string, row: number, cell: string, from: string, to: string][] = [
    ["one more", 2, "01; 02; 09", "Tel: 02\n", "Tel: 02\nTel: 09\n"],
    ["one less", 2, "01", "Tel: 02\n", ""],
    ["others", 2, "07; 02", "Tel: 01", "Tel: 07"],
    ["a first one", 5, "09", "Note: y", "Note: y\nTel: 09"],
  ];
  test.each(PACKS)("packed in a cell: %s", async (_, row, cell, from, to) => {
    const { tables } = await hatch(CARDS, { name: "cards.txt", plan: PACKED });
    expect(tables.text("cards.csv")).toContain('Ada,x,"01; 02"');
    setCell(tables, "cards.csv", row, "tels", cell);
    expect(text((await fold(tables, { source: CARDS, name: "cards.txt" })).bytes)).toBe(CARDS.replace(from, to));
  });

  const LONE: [what: string, source: string, after: string][] = [
    ["the only lines of a block leave their name", "Tel: 01\nTel: 02\n\nTel: 03\n", "Tel:\n\nTel: 03\n"],
    ["a section keeps its heading", "[a]\nTel=01\nTel=02\n[b]\nTel=03\n", "[a]\n[b]\nTel=03\n"],
  ];
  test.each(LONE)("%s", async (_, source, after) => {
    const { tables } = await hatch(source, { name: "cards.txt" });
    for (const row of [2, 3]) setCell(tables, "Tel.csv", row, "fold action", "remove");
    expect(text((await fold(tables, { source, name: "cards.txt" })).bytes)).toBe(after);
  });

  test("a new card has its lines", async () => {
    const { tables } = await hatch(CARDS, { name: "cards.txt", plan: ROWS });
    add({ name: "Di" })(tables, "cards.csv");
    add({ cards: "Di", number: "08" }, { cards: "Di", number: "09" })(tables, "tel.csv");
    expect(text((await fold(tables, { source: CARDS, name: "cards.txt" })).bytes)).toBe(`${CARDS}\n\nName: Di\nTel: 08\nTel: 09\n`);
  });

  const HIDDEN: [what: string, name: string, source: string, plan: string, note: string][] = [
    [
      "in blocks",
      "cards.txt",
      CARDS,
      PLAN(", tel: Tel }") + " }",
      'cards: "tel" shows the last value where a record has several; 1 value is in no sheet. A table of their own (rows: Tel), or pack: on the column, shows all.',
    ],
    [
      "in XML",
      "a.xml",
      "<all><card><t>1</t><t>2</t><t>3</t></card><card><t>4</t></card></all>",
      "hatchfold: 1\nsources: { a: { file: a.xml } }\ntables: { cards: { rows: all/card, columns: { tel: t } } }",
      'cards: "tel" shows the last value where a record has several; 2 values are in no sheet. A table of their own (rows: all/card/t), or pack: on the column, shows all.',
    ],
    [
      "a member name that comes again in JSON",
      "a.json",
      '[{"t":1,"t":2}]',
      "hatchfold: 1\nsources: { a: { file: a.json } }\ntables: { cards: { rows: ., columns: { tel: t } } }",
      'cards: "tel" shows the last value where a record has several; 1 value is in no sheet',
    ],
  ];
  test.each(HIDDEN)("values that a column hides are counted in a note: %s", async (_, name, source, plan, note) => {
    expect((await hatch(source, { name, plan })).notes).toContain(note);
  });
});

describe("lists of a block in every layout: the same edits give what they give in tables of their own", () => {
  type Edit = { readonly card: string; readonly old: string | null; readonly now: string | null };
  type Editor = (tables: MemoryTables, edit: Edit) => void;
  /** A number is told by its value, of which there is one in all cards. */
  const inRows =
    (file: string): Editor =>
    (tables, { card, old, now }) =>
      edit(tables, file, (rows, titles) => {
        const at = (title: string): number => titles.indexOf(title);
        const row = rows.find((one) => one[at("number")] === old);
        if (old === null) rows.push(titles.map((title) => (title === "cards" ? card : title === "number" ? now! : "")));
        else if (now === null) row![at("fold action")] = "remove";
        else row![at("number")] = now;
      });
  const inCells =
    (read: (row: string[], titles: string[]) => string[], write: (row: string[], titles: string[], list: string[]) => void): Editor =>
    (tables, { card, old, now }) =>
      edit(tables, "cards.csv", (rows, titles) => {
        const row = rows.find((one) => one[titles.indexOf("name")] === card)!;
        const list = read(row, titles);
        if (old === null) list.push(now!);
        else list.splice(list.indexOf(old), 1, ...(now === null ? [] : [now]));
        write(row, titles, list);
      });
  const LAYOUTS: [name: string, plan: string, Editor][] = [
    ["beneath", `${PLAN(" }")}, tel: { rows: Tel, inside: cards, beneath: true, columns: { number: . } } }`, inRows("cards.csv")],
    ["repeat", `${PLAN(" }")}, tel: { rows: Tel, inside: cards, repeat: true, columns: { number: . } } }`, inRows("cards.csv")],
    [
      "packed",
      PACKED,
      inCells(
        (row, titles) => row[titles.indexOf("tels")].split("; ").filter(Boolean),
        (row, titles, list) => (row[titles.indexOf("tels")] = list.join("; ")),
      ),
    ],
    [
      "spread",
      `${PLAN(", tel: { at: Tel, spread: 6 } }")} }`,
      inCells(
        (row, titles) => row.filter((cell, c) => titles[c].startsWith("tel ") && cell !== ""),
        (row, titles, list) => [0, 1, 2, 3, 4, 5].forEach((n) => (row[titles.indexOf(`tel ${n + 1}`)] = list[n] ?? "")),
      ),
    ],
  ];
  const cards = fc.tuple(
    fc.array(fc.integer({ min: 0, max: 3 }), { minLength: 1, maxLength: 4 }),
    fc.constantFrom("\n", "\r\n"),
    fc.boolean(),
    fc.nat(),
  );

  test.each(LAYOUTS)("%s", (_, plan, editor) =>
    law(
      cards,
      async ([counts, line, closed, seed]) => {
        const random = new Random(seed);
        let n = 0;
        const blocks = counts.map((count, c) =>
          [`Name: N-${c}`, ...Array.from({ length: count }, () => `Tel: 0${n++}`), ...(random.chance(2) ? ["Note: x"] : [])].join(line),
        );
        const source = blocks.join(line + line) + (closed ? line : "");
        const known = counts.flatMap((count, c) => Array.from({ length: count }, (_, k) => ({ card: `N-${c}`, k })));
        const edits = random.shuffle(known.map((one, k): Edit => ({ card: one.card, old: `0${k}`, now: random.pick([null, `1${k}`]) })));
        const fresh: Edit = { card: `N-${random.next(counts.length)}`, old: null, now: "99" };
        const some = [...edits.slice(0, random.next(3)), ...(random.chance(2) ? [fresh] : [])];
        const folded = async (text_: string, edits: readonly Edit[], change: Editor): Promise<string> => {
          const { tables } = await hatch(source, { name: "cards.txt", plan: text_ });
          if (known.length === 0) return source; // no name comes again: it is a field
          for (const one of edits) change(tables, one);
          return text((await fold(tables, { source, name: "cards.txt" })).bytes);
        };
        expect(await folded(plan, [], editor)).toBe(source);
        const values = async (folded: string): Promise<string> => {
          const { tables } = await hatch(folded, { name: "cards.txt", plan: PACKED });
          return tables.text("cards.csv");
        };
        const [laid, own] = [await folded(plan, some, editor), await folded(ROWS, some, inRows("tel.csv"))];
        if (plan.includes("inside")) expect(laid).toBe(own);
        else expect(await values(laid)).toBe(await values(own));
      },
      RUNS / 3,
    ),
  );
});
