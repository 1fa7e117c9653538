/** Files of mainframes: EBCDIC code pages, packed decimals and binary numbers, records without line ends. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compare, fold, hatch, readPlan, survey } from "hatch-fold";
import { ebcdicPage } from "../../src/bytes/ebcdic.js";
import { EBCDIC } from "../../src/bytes/ebcdic-names.js";
import { law } from "../support/laws.js";
import { ACTION, editCells, readRows, type CellEdits } from "../support/sheets.js";

const name = "store.dat";
const LENGTH = 34;
const plan = (encoding = "ibm037", more = ""): string => `hatchfold: 1
sources:
  store:
    file: store.dat
    format: fixed
    encoding: ${encoding}
    layout:
      length: ${LENGTH}
      records:
        item:
          fields:
            code: 1-5
            name: 6-17
            amount: { at: 18-22, stored: packed, decimals: 2 }
            count: { at: 23-25, stored: packed }
            balance: { at: 26-29, stored: binary }
            zone: { at: 30-34, decimals: 1, sign: overpunch }
tables: { items: { rows: ., key: code, ${more}columns: { code: code, name: name, amount: amount, count: count, balance: balance, zone: zone } } }
`;

interface Item {
  readonly code: string;
  readonly name: string;
  readonly amount: number;
  readonly count: number;
  readonly balance: number;
  readonly zone: string;
}

/** Text in the code page, made from its table the other way round. */
function text(page: readonly string[], value: string, width: number): number[] {
  return [...value.padEnd(width)].map((char) => page.indexOf(char));
}

/** Packed decimals, by hand: digits in half bytes, the sign behind them. */
function packed(value: number, width: number, plus = "c"): number[] {
  const digits = String(Math.abs(value)).padStart(2 * width - 1, "0") + (value < 0 ? "d" : plus);
  return (digits.match(/../g) ?? []).map((pair) => parseInt(pair, 16));
}

function record({ code, name: called, amount, count, balance, zone }: Item, page: readonly string[]): number[] {
  const binary = new DataView(new ArrayBuffer(4));
  binary.setInt32(0, balance);
  return [
    ...text(page, code, 5),
    ...text(page, called, 12),
    ...packed(amount, 5),
    ...packed(count, 3, "f"),
    ...new Uint8Array(binary.buffer),
    ...text(page, zone, 5),
  ];
}

const ITEMS: Item[] = [
  { code: "S-001", name: "Skarvøy", amount: 1234550, count: 12, balance: -7, zone: "0012C" },
  { code: "S-002", name: "Ærø & Sønn", amount: -99, count: 3, balance: 1_000_000, zone: "0013}" },
];
const PAGE = ebcdicPage("ibm037");
const file = (items: readonly Item[], page = PAGE): Uint8Array => Uint8Array.from(items.flatMap((item) => record(item, page)));

async function edited(edits: CellEdits, source = file(ITEMS)): Promise<Uint8Array | string[]> {
  const { tables } = await hatch(source, { plan: plan(), name });
  editCells(tables, { items: edits });
  const { problems } = await compare(tables, { source, name });
  if (problems.length > 0) return problems.map(({ code, row, column }) => `${code} ${row} ${column}`);
  return (await fold(tables, { source, name })).bytes;
}

test.each(EBCDIC)("%s: each byte is a character of its own, and letters are where they should be", (encoding) => {
  const page = ebcdicPage(encoding);
  expect(new Set(page).size).toBe(256);
  expect([0x40, 0xc1, 0xf0, 0x81, 0x5c, 0x6b].map((byte) => page[byte]).join("")).toBe(" A0a*,");
});

test("cells show texts and numbers, and nothing edited gives the same bytes", async () => {
  for (const encoding of EBCDIC) {
    const items = encoding === "ibm1026" ? ITEMS.map((item) => ({ ...item, name: item.name.replace(/[øÆ]/g, "o") })) : ITEMS;
    const source = file(items, ebcdicPage(encoding));
    const { tables } = await hatch(source, { plan: plan(encoding), name });
    expect(
      readRows(tables, "items.csv")
        .slice(1)
        .map((row) => row.slice(2)),
    ).toEqual([
      ["S-001", items[0].name, "12345.50", "12", "-7", "12.3"],
      ["S-002", items[1].name, "-0.99", "3", "1000000", "-13.0"],
    ]);
    expect(Buffer.from((await fold(tables, { source, name })).bytes).equals(Buffer.from(source))).toBe(true);
  }
});

describe("edits", () => {
  const CASES: [what: string, edits: Parameters<typeof edited>[0], result: readonly Item[] | string[]][] = [
    [
      "a text, a packed number and a binary one",
      [[2, { name: "Ytre é", amount: "-77.5", balance: "-2" }]],
      [{ ...ITEMS[0], name: "Ytre é", amount: -7750, balance: -2 }, ITEMS[1]],
    ],
    ["a sign as its siblings have it", [[2, { count: "13" }]], [{ ...ITEMS[0], count: 13 }, ITEMS[1]]],
    [
      "a record more: what it does not say is zero",
      [["new", { code: "S-003", name: "New", balance: "5", count: "0", zone: "-3" }]],
      [...ITEMS, { code: "S-003", name: "New", amount: 0, count: 0, balance: 5, zone: "0003}" }],
    ],
    ["a record less", [[2, { [ACTION]: "remove" }]], [ITEMS[1]]],
    [
      "digits that it has not",
      [
        [2, { count: "123456" }],
        [3, { balance: "3000000000" }],
      ],
      ["stored-wide 2 count", "stored-wide 3 balance"],
    ],
    [
      "what is no number",
      [
        [2, { amount: "n/a" }],
        [3, { amount: "" }],
      ],
      ["fixed-number 2 amount", "fixed-number 3 amount"],
    ],
    ["a letter that the page has not", [[2, { name: "Жук" }]], ["letter-missing 2 name"]],
  ];
  test.each(CASES)("%s", async (_, edits, result) => {
    const now = await edited(edits);
    if (now instanceof Uint8Array) expect(Buffer.from(now).toString("hex")).toBe(Buffer.from(file(result as Item[])).toString("hex"));
    else expect(now).toEqual(result);
  });

  test("bytes that are no number stay, are shown, and can be given to others", async () => {
    const source = file(ITEMS);
    source.set([0x12, 0x34, 0x56], 22);
    const { tables } = await hatch(source, { plan: plan(), name });
    expect(readRows(tables, "items.csv")[1][5]).toBe("x'123456'");
    const now = (await edited([[3, { count: "x'123456'" }]], source)) as Uint8Array;
    expect([...now.subarray(LENGTH + 22, LENGTH + 25)]).toEqual([0x12, 0x34, 0x56]);
  });

  test("any number is read as it was written", () =>
    law(
      fc.tuple(fc.integer({ min: -999_999_999, max: 999_999_999 }), fc.integer({ min: -99_999, max: 99_999 })),
      async ([amount, count]) => {
        const wanted = (amount / 100).toFixed(2);
        const now = (await edited([[2, { amount: wanted, count: String(count), balance: String(amount) }]])) as Uint8Array;
        const { tables } = await hatch(now, { plan: plan(), name });
        expect(readRows(tables, "items.csv")[1].slice(4, 7)).toEqual([wanted === "-0.00" ? "0.00" : wanted, String(count), String(amount)]);
      },
    ));
});

test("in text of another encoding such numbers cannot be told apart from it", async () => {
  await expect(hatch(file(ITEMS), { plan: plan("windows-1252"), name })).rejects.toMatchObject({ code: "layout-stored" });
});

test("without a plan, what the bytes look like is said", async () => {
  await expect(hatch(file(ITEMS), { name })).rejects.toMatchObject({
    code: "format-unknown",
    hint: expect.stringContaining("EBCDIC") as unknown,
  });
});

test("the survey of a plan's source draws its records: each by itself, with a point for what is no letter", async () => {
  const [{ format, encoding, settings }] = (await readPlan(plan())).sources;
  const { source, kinds } = await survey(file(ITEMS), { format, encoding, settings, name });
  expect(kinds.map(({ name: kind, count }) => [kind, count])).toEqual([["store", ITEMS.length]]);
  expect(source.drawing[2]).toBe("|----|-----------|----|--|---|----");
  expect(source.drawing.slice(3).map((line) => line.slice(0, 17).trimEnd())).toEqual(
    ITEMS.slice(0, 2).map((item) => item.code + item.name),
  );
  expect(source.drawing.join("")).not.toMatch(/\p{Cc}/u);
});
