/** Sheets that a program saved in an older encoding, or in UTF-16: the source tells which one it was. */
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, test } from "vitest";
import { compare, hatch, type MemoryTables } from "hatch-fold";
import { freshFolder, inProcess } from "./support/cli.js";
import { setCell, text } from "./support/sheets.js";

const PROGRAMS = ["spreadsheet", "semicolon-spreadsheet", "tab-spreadsheet", "script"] as const;
const NAMES = ["Ærø & Søn", "Łódź", "Größe “groß”", "Café – 5 €", "Žižkov", "plain"];
const plan = (layout = ""): string => `hatchfold: 1
sources: { s: { file: s.json } }
tables: { rows: { rows: rows, key: id, columns: { id: id, name: name } }, items: { rows: rows/items, inside: rows${layout}, columns: { item: . } } }
`;
const sourceOf = (names: readonly string[]): string =>
  JSON.stringify({ rows: names.map((name, i) => ({ id: `r${i}`, name, items: [`${name} 1`, `${name} 2`] })) });

/** Bytes as a program would write them, `?` for letters that the encoding lacks. */
function encoded(value: string, encoding: string): Uint8Array {
  if (encoding === "utf-16le") return Buffer.from(value, "utf16le");
  const decoder = new TextDecoder(encoding);
  const isSeveral = ["shift_jis", "gbk", "big5", "euc-kr"].includes(encoding);
  if (isSeveral) return severalBytes(value, decoder);
  const byLetter = new Map(Array.from({ length: 256 }, (_, byte) => [decoder.decode(Uint8Array.of(byte)), byte]));
  return Uint8Array.from([...value], (letter) => byLetter.get(letter) ?? 0x3f);
}

/** By trying all pairs of bytes. */
function severalBytes(value: string, decoder: TextDecoder): Uint8Array {
  const byLetter = new Map<string, number[]>();
  for (let lead = 0x81; lead < 0xff; lead++)
    for (let trail = 0x40; trail < 0xff; trail++) {
      const letter = decoder.decode(Uint8Array.of(lead, trail));
      if (!byLetter.has(letter)) byLetter.set(letter, [lead, trail]);
    }
  return Uint8Array.from([...value].flatMap((letter) => (letter < "\x80" ? [letter.charCodeAt(0)] : (byLetter.get(letter) ?? [0x3f]))));
}

function saveAs(tables: MemoryTables, encoding: string): void {
  for (const [file, content] of tables.contents)
    if (file.endsWith(".csv")) tables.contents.set(file, encoded(text(content).replace(/^\ufeff/, ""), encoding));
}

describe.each(["", ", beneath: true", ", repeat: true"])("tables%s", (layout) => {
  test.each<[string, readonly string[]]>([
    ["windows-1252", NAMES],
    ["windows-1250", ["Łódź", "Žižkov", "plain"]],
    ["windows-1251", ["Северный маяк", "Остров"]],
    ["macintosh", ["Ærø & Søn", "Größe", "Café"]],
    ["iso-8859-15", ["Ærø", "5 €"]],
    ["utf-16le", NAMES],
    ["shift_jis", ["灯台", "能登ソ灯台", "plain"]],
    ["gbk", ["灯塔", "北岛灯塔"]],
    ["big5", ["燈塔", "功許"]],
    ["euc-kr", ["등대", "북쪽 등대"]],
  ])("in %s: nothing changes, and an edit arrives", async (encoding, names) => {
    const source = sourceOf(names);
    const { tables } = await hatch(source, { plan: plan(layout) });
    const file = [...tables.contents.keys()].find((one) => one.endsWith(".csv"))!;
    saveAs(tables, encoding);
    const unedited = await compare(tables, { source });
    expect([unedited.problems, unedited.changes]).toEqual([[], []]);
    expect(text((await unedited.fold()).bytes)).toBe(source);

    const edited = await hatch(source, { plan: plan(layout) });
    setCell(edited.tables, file, 2, layout.includes("repeat") ? "item" : "name", "Ny plan");
    saveAs(edited.tables, encoding);
    const { changes, problems } = await compare(edited.tables, { source });
    expect([problems, changes.map((change) => change.new)]).toEqual([[], ["Ny plan"]]);
  });
});

describe.each(PROGRAMS)("tables for a %s", (program) => {
  const SOURCE = JSON.stringify({
    rows: NAMES.map((name, i) => ({ id: `00${i}`, name, height: `${i}.50`, odd: i === 2 ? "7,5" : `${i}.125`, text: '1,5; a\tb "c"\nd' })),
  });
  const PLAN = `hatchfold: 1
sources: { s: { file: s.json } }
tables: { rows: { rows: rows, key: id, columns: { id: id, name: name, height: { at: height, type: decimal }, odd: { at: odd, type: number }, text: text } } }
`;
  const file = program === "tab-spreadsheet" ? "rows.tsv" : "rows.csv";
  const isComma = program === "semicolon-spreadsheet";

  test("nothing changes, and edits arrive", async () => {
    const { tables } = await hatch(SOURCE, { plan: PLAN, program });
    const unedited = await compare(tables, { source: SOURCE });
    expect([unedited.problems, unedited.changes, unedited.notes]).toEqual([[], [], []]);
    expect(text((await unedited.fold()).bytes)).toBe(SOURCE);
    const bytes = tables.contents.get(file)!;
    const isUtf16 = program === "tab-spreadsheet";
    const content = isUtf16 ? Buffer.from(bytes).toString("utf16le") : text(bytes);
    expect(content.startsWith("\ufeff")).toBe(program !== "script");
    expect(content).toContain(isComma ? ';"1,50";' : isUtf16 ? "\t1.50\t" : ",1.50,");
    const edited = content.replace(isComma ? "1,50" : "1.50", isComma ? "42,75" : "42.75");
    tables.contents.set(file, Uint8Array.from(Buffer.from(edited, isUtf16 ? "utf16le" : "utf8")));
    const { changes, problems } = await compare(tables, { source: SOURCE });
    expect([problems, changes.map((one) => one.new)]).toEqual([[], ["42.75"]]);
  });

  test("also when they come back in an older encoding", async () => {
    const { tables } = await hatch(SOURCE, { plan: PLAN, program });
    const bytes = tables.contents.get(file)!;
    const content = program === "tab-spreadsheet" ? Buffer.from(bytes).toString("utf16le") : text(bytes);
    tables.contents.set(file, encoded(content.replace("\ufeff", "").replace("Søn", "Sønner"), "windows-1252"));
    const { changes, problems, notes } = await compare(tables, { source: SOURCE });
    expect([problems, changes.map((one) => one.new), notes.map(({ code }) => code)]).toEqual([[], ["Ærø & Sønner"], ["encoding-healed"]]);
  });

  test("they go on after a fold as they were", async () => {
    const folder = freshFolder();
    writeFileSync(join(folder, "s.json"), SOURCE);
    writeFileSync(join(folder, "plan.yaml"), PLAN);
    await inProcess(folder, ["hatch", "s.json", "-p", "plan.yaml", "-o", "t", "--for", program]);
    const path = join(folder, "t", file);
    const before = readFileSync(path);
    expect(await inProcess(folder, ["fold", "t", "--in-place", "--renew"])).toMatchObject({ status: 0, err: "" });
    expect(readFileSync(path)).toEqual(before);
    expect((await inProcess(folder, ["compare", "t"])).out).toContain("no changes: ");
  });
});

test("a sheet in an older encoding goes on after a fold, in its order and with columns of its own", async () => {
  const folder = freshFolder();
  const source = sourceOf(["Ærø", "Größe", "plain"]);
  writeFileSync(join(folder, "s.json"), source);
  writeFileSync(join(folder, "plan.yaml"), plan());
  await inProcess(folder, ["hatch", "s.json", "-p", "plan.yaml", "-o", "t"]);
  const path = join(folder, "t/rows.csv");
  const [titles, ...rows] = readFileSync(path, "utf8").replace("\ufeff", "").trimEnd().split("\r\n");
  const mine = rows.reverse().map((row, i) => `${row},æ${i}`);
  writeFileSync(path, encoded([`${titles},notes`, ...mine, ",,r3,Søn,"].join("\r\n"), "windows-1252"));
  expect(await inProcess(folder, ["fold", "t", "--in-place", "--renew"])).toMatchObject({ status: 0, err: "" });
  const lines = readFileSync(path, "utf8").replace("\ufeff", "").trimEnd().split("\r\n");
  expect(lines.map((line) => line.split(",").slice(2).join())).toEqual([
    "id,name,notes",
    "r2,plain,æ0",
    "r1,Größe,æ1",
    "r0,Ærø,æ2",
    "r3,Søn,",
  ]);
});

test("a program that is not known", async () => {
  await expect(hatch("[]", { program: "spredsheet" as "script" })).rejects.toMatchObject({
    code: "program-unknown",
    hint: 'Perhaps "spreadsheet" is meant.',
  });
});

test("where no word of the source tells the encoding, that is a problem and no guess", async () => {
  const source = sourceOf(["plain", "plainer"]);
  const { tables } = await hatch(source, { plan: plan() });
  setCell(tables, "rows.csv", 2, "name", "Ærø");
  saveAs(tables, "windows-1252");
  expect((await compare(tables, { source })).problems).toMatchObject([{ code: "sheet-encoding", file: "rows.csv" }]);
});
