/** Rules of a plan: what cells and records must be, in each format, and what is said of those that are not. */
import { describe, expect, test } from "vitest";
import { compare, fold, hatch, type Compared } from "hatch-fold";
import { ACTION, copyTables, edit, readRows, setCell, text, type Rows } from "./support/sheets.js";
import { brief, refusal } from "./support/brief.js";

const BOOKS: readonly (readonly [format: string, source: string, paths: Record<string, string>, settings: string])[] = [
  [
    "json",
    `{"entry": [
  {"no": "J-1", "day": "2026-01-05", "total": 100.10, "line": [{"account": "4000", "debit": 100.10}, {"account": "7000", "credit": 60.05}, {"account": "7001", "credit": 40.05}]},
  {"no": "J-2", "day": "2026-01-06", "total": 20, "line": [{"account": "4000", "debit": 20.00}, {"account": "7000", "credit": 20.00}]}
]}`,
    { entry: "entry", line: "entry/line", at: "" },
    "",
  ],
  [
    "xml",
    `<book>
  <entry no="J-1" day="2026-01-05" total="100.10"><line account="4000" debit="100.10"/><line account="7000" credit="60.05"/><line account="7001" credit="40.05"/></entry>
  <entry no="J-2" day="2026-01-06" total="20"><line account="4000" debit="20.00"/><line account="7000" credit="20.00"/></entry>
</book>`,
    { entry: "book/entry", line: "book/entry/line", at: "@" },
    "",
  ],
];

const plan = (format: string, { entry, line, at }: Record<string, string>, rules: { entries?: string; lines?: string } = {}): string =>
  `hatchfold: 1
sources: { book: { file: book.${format} } }
tables:
  entries:
    rows: ${entry}
    key: no
    ${rules.entries ?? ""}
    columns:
      no: { at: "${at}no", pattern: "J-[0-9]+" }
      day: { at: "${at}day", type: date, minimum: "2026-01-01", maximum: "2026-12-31" }
      total: { at: "${at}total", type: decimal, check: "value > 0.0" }
  lines:
    rows: ${line}
    inside: entries
    ${rules.lines ?? ""}
    columns:
      account: { at: "${at}account", min-length: 4, max-length: 4, required: { is: true, say: "No line without an account." } }
      debit: { at: "${at}debit", type: decimal, minimum: 0, maximum: 5000.50, check: "value <= parent.total" }
      credit: { at: "${at}credit", type: decimal, minimum: { is: 0.01, severity: warning, say: "Credit of nothing?" } }
`;
const BALANCED = 'check: "sum(lines.map(l, l.debit)) == sum(lines.map(l, l.credit))"';

type Cells = readonly (readonly [file: string, row: number, title: string, value: string])[];
const told = ({ problems, warnings }: Compared): string[] =>
  [...problems, ...warnings].map((one) => `${one.file} ${one.rows?.join("+") ?? one.row}: ${brief(one)}`);

describe.each(BOOKS)("%s", (format, source, paths) => {
  const name = `book.${format}`;
  async function after(cells: Cells, rules = {}, options = {}): Promise<Compared> {
    let { tables } = await hatch(source, { plan: plan(format, paths, rules), name });
    for (const [file, row, title, value] of cells) tables = setCell(tables, file, row + 1, title, value);
    return compare(tables, { source, name, ...options });
  }

  test.each<[string, Cells, string[], { entries?: string; lines?: string }?]>([
    [
      "a pattern is of the whole text",
      [["entries.csv", 1, "no", "J-1a"]],
      ['entries.csv 2: rule-pattern {"pattern":"J-[0-9]+","title":"no"}'],
    ],
    ["a first day", [["entries.csv", 1, "day", "2025-12-31"]], ['entries.csv 2: rule-first-day {"limit":"2026-01-01","title":"day"}']],
    ["a last day", [["entries.csv", 1, "day", "2027-01-01"]], ['entries.csv 2: rule-last-day {"limit":"2026-12-31","title":"day"}']],
    [
      "an expression on a typed column",
      [["entries.csv", 2, "total", "-20"]],
      [
        'entries.csv 3: check-failed {"check":"value > 0.0","title":"total"}',
        'entries.csv 3: check-no-longer {"check":"value <= parent.total","reason":"parent.total is -20.","row":5,"table":"lines","title":"debit"}',
      ],
    ],
    ["short", [["lines.csv", 1, "account", "400"]], ['lines.csv 2: rule-short {"least":4,"length":3,"title":"account"}']],
    [
      "long: letters are counted, not units",
      [["lines.csv", 1, "account", "😀😀😀😀😀"]],
      ['lines.csv 2: rule-long {"length":5,"most":4,"title":"account"}'],
    ],
    ["blank, in words of its own", [["lines.csv", 1, "account", ""]], ["lines.csv 2: No line without an account."]],
    [
      "too little, and too much for what it is in",
      [
        ["lines.csv", 1, "debit", "-0.01"],
        ["lines.csv", 4, "debit", "20.01"],
      ],
      [
        'lines.csv 2: rule-minimum {"limit":"0","title":"debit"}',
        'lines.csv 5: check-failed {"check":"value <= parent.total","reason":"parent.total is 20.","title":"debit"}',
      ],
    ],
    [
      "too much",
      [["lines.csv", 1, "debit", "5000.51"]],
      [
        'lines.csv 2: rule-maximum {"limit":"5000.5","title":"debit"}',
        'lines.csv 2: check-failed {"check":"value <= parent.total","reason":"parent.total is 100.1.","title":"debit"}',
      ],
    ],
    [
      "the record around changes",
      [["entries.csv", 1, "total", "99"]],
      [
        'entries.csv 2: check-no-longer {"check":"value <= parent.total","reason":"parent.total is 99.","row":2,"table":"lines","title":"debit"}',
      ],
    ],
    ["a warning", [["lines.csv", 2, "credit", "0"]], ["lines.csv 3: Credit of nothing?"]],
    ["blank cells have no limits", [["lines.csv", 2, "credit", ""]], []],
    [
      "sums over the records inside, exact",
      [["lines.csv", 2, "credit", "60.06"]],
      [
        'lines.csv 3: record-check {"check":"sum(lines.map(l, l.debit)) == sum(lines.map(l, l.credit))","reason":"sum(lines.map(l, l.debit)) is 100.1, sum(lines.map(l, l.credit)) is 100.11.","record":"J-1","table":"entries"}',
      ],
      { entries: BALANCED },
    ],
    [
      "sums that stay equal",
      [
        ["lines.csv", 2, "credit", "60.15"],
        ["lines.csv", 3, "credit", "39.95"],
      ],
      [],
      { entries: BALANCED },
    ],
    [
      "rows that are wrong together",
      [
        ["lines.csv", 2, "credit", "60.15"],
        ["lines.csv", 3, "credit", "39.90"],
      ],
      [
        'lines.csv 3+4: record-check {"check":"sum(lines.map(l, l.debit)) == sum(lines.map(l, l.credit))","reason":"sum(lines.map(l, l.debit)) is 100.1, sum(lines.map(l, l.credit)) is 100.05.","record":"J-1","table":"entries"}',
      ],
      { entries: BALANCED },
    ],
    [
      "a row goes away",
      [["lines.csv", 5, "fold action", "remove"]],
      ['lines.csv 6: record-check {"check":"size(lines) > 1","reason":"size(lines) is 1.","record":"J-2","table":"entries"}'],
      { entries: 'check: "size(lines) > 1"' },
    ],
    [
      "a row goes elsewhere",
      [["lines.csv", 5, "entries", "J-1"]],
      [
        'lines.csv 6: record-check {"check":"size(tables[\\"lines\\"]) > 1","reason":"size(tables[\\"lines\\"]) is 1.","record":"J-2","table":"entries"}',
      ],
      { entries: `check: 'size(tables["lines"]) > 1'` },
    ],
    [
      "all records of a table",
      [["entries.csv", 1, "total", "500"]],
      ["entries.csv 2: Too much in all."],
      { entries: 'check: { is: "sum(all.map(e, e.total)) < 500", say: Too much in all. }' },
    ],
    ["cells that the condition does not name", [["lines.csv", 2, "account", "7002"]], [], { entries: 'check: "size(lines) > 5"' }],
  ])("%s", async (_, cells, expected, rules) => expect(told(await after(cells, rules))).toEqual(expected));

  test("warnings stop nothing, unless they are to", async () => {
    const cells: Cells = [["lines.csv", 2, "credit", "0"]];
    const { counts, problems, warnings } = await after(cells);
    expect([counts, problems, warnings]).toMatchObject([
      { warnings: 1, problems: 0, changed: 1 },
      [],
      [{ code: "rule-minimum", row: 3, column: "credit", value: "0" }],
    ]);
    expect(await after(cells, {}, { strict: true })).toMatchObject({
      problems: [{ code: "rule-minimum" }],
      warnings: [],
      counts: { warnings: 0, problems: 1 },
    });
  });

  test("new rows are asked, too, with what is new inside them", async () => {
    const { tables } = await hatch(source, { plan: plan(format, paths, { entries: BALANCED }), name });
    const add = (rows: Rows, ...more: string[][]): Rows => [...rows, ...more];
    const entry = edit(tables, "entries.csv", (rows) => add(rows, ["+a", "", "J-3", "2026-02-01", "10"]));
    const wrong = edit(entry, "lines.csv", (rows) => add(rows, ["", "", "+a", "4000", "10", ""], ["", "", "+a", "7000", "", "9"]));
    expect(told(await compare(wrong, { source, name }))).toEqual([
      'entries.csv 4: record-check {"check":"sum(lines.map(l, l.debit)) == sum(lines.map(l, l.credit))","reason":"sum(lines.map(l, l.debit)) is 10, sum(lines.map(l, l.credit)) is 9.","record":"J-3","table":"entries"}',
    ]);
    // the entry and its lines make sense together alone
    const folded = await fold(setCell(copyTables(wrong), "entries.csv", 2, "total", "101"), { source, name, partial: true });
    expect(text(folded.bytes)).toBe(source.replace("100.10", "101"));
    expect(folded.aside).toEqual([
      { table: "entries", row: 4 },
      { table: "lines", row: 7 },
      { table: "lines", row: 8 },
    ]);
    const right = setCell(wrong, "lines.csv", 8, "credit", "10");
    expect(told(await compare(right, { source, name }))).toEqual([]);
  });

  test("rows that are right together alone are left out together", async () => {
    const rules = { entries: BALANCED };
    let { tables } = await hatch(source, { plan: plan(format, paths, rules), name });
    for (const [row, title, value] of [
      [3, "credit", "60.15"],
      [4, "credit", "39.95"],
      [4, "account", "1"],
      [5, "account", "4001"],
    ] as const)
      tables = setCell(tables, "lines.csv", row, title, value);
    const folded = await fold(tables, { source, name, partial: true });
    expect(text(folded.bytes)).toBe(source.replace(/4000(?=[^\d]+20\.00)/, "4001"));
  });
});

describe("what a plan cannot ask", () => {
  const [, source, paths] = BOOKS[0];
  test.each<[string, string, string, string]>([
    [
      "a column that is not there",
      "value > 0.0",
      "value > totel",
      'expression-title {"isList":false,"nearest":"total","table":"entries","text":"value > totel","title":"totel","titles":["no","day","total","lines"]}',
    ],
    [
      "a column of another table",
      "value > 0.0",
      "sum(lines.map(l, l.debt)) > 1",
      'expression-title {"isList":false,"nearest":"debit","table":"lines","text":"sum(lines.map(l, l.debt)) > 1","title":"debt","titles":["account","debit","credit"]}',
    ],
    [
      "a table that is not inside",
      "value > 0.0",
      "size(rows) > 1",
      'expression-title {"isList":false,"table":"entries","text":"size(rows) > 1","title":"rows","titles":["no","day","total","lines"]}',
    ],
    [
      "what is not in the record around",
      "value <= parent.total",
      "value <= parent.sum",
      'expression-title {"isList":false,"table":"entries","text":"value <= parent.sum","title":"sum","titles":["no","day","total"]}',
    ],
    [
      "a title in quotes",
      "value > 0.0",
      "row['to tal'] > 1",
      'expression-title {"isList":false,"nearest":"total","table":"entries","text":"row[\'to tal\'] > 1","title":"to tal","titles":["no","day","total"]}',
    ],
    ["a limit that is no day", '"2026-01-01"', "soon", 'plan-limit {"limit":"soon","title":"day","type":"date","word":"minimum"}'],
    ["a limit of a text", "min-length: 4", "minimum: 4", 'plan-limit {"limit":"4","title":"account","type":"any","word":"minimum"}'],
    [
      "a pattern that cannot be read",
      "J-[0-9]+",
      "J-(?=[0-9]",
      'plan-pattern {"reason":"error parsing regexp: invalid or unsupported Perl syntax: `(?=`","text":"J-(?=[0-9]"}',
    ],
  ])("%s", async (_, part, other, expected) => {
    const wrong = plan("json", paths).replace(part, other);
    expect(await refusal(hatch(source, { plan: wrong, name: "book.json" }))).toBe(expected);
  });
});

describe("what is written for people", () => {
  const source = `{"keepers": [{"id": "P-001", "name": "Ane Berg"}, {"id": "P-002", "name": "Anders"}, {"id": "P-013", "name": "Bo"}],
 "lights": [{"name": "main", "keeper": "P-001", "status": "L"}, {"name": "rear", "keeper": "P-002", "status": "D"}]}
`;
  const plan = `hatchfold: 1
sources: { s: { file: s.json } }
tables:
  keepers: { rows: keepers, key: id, label: name, columns: { id: id, name: name } }
  lights:
    rows: lights
    columns:
      name: { at: name, clean: [tags, blanks] }
      keeper: { at: keeper, refers: keepers, lookup: partial }
      status: { at: status, choices: { L: lit, D: dark, U: lit up }, lookup: partial }
`;
  test.each<[string, Cells, (source: string) => string, string | null]>([
    [
      "tags and blanks",
      [["lights.csv", 2, "name", "<p>The  <b>main</b> &amp; only</p>\n"]],
      (s) => s.replace("main", "The main & only"),
      'cells-cleaned {"count":1,"found":"<p>The  <b>main</b> &amp; only</p>\\n","taken":"The main & only","title":"name"}',
    ],
    ["no tags", [["lights.csv", 2, "name", "a < b"]], (s) => s.replace("main", "a < b"), null],
    [
      "nothing but blanks",
      [["lights.csv", 2, "name", "  main "]],
      (s) => s,
      'cells-cleaned {"count":1,"found":"  main ","taken":"main","title":"name"}',
    ],
    [
      "a part of a code",
      [["lights.csv", 2, "keeper", "013"]],
      (s) => s.replace('"keeper": "P-001"', '"keeper": "P-013"'),
      'cells-in-part {"count":1,"found":"013","taken":"P-013","title":"keeper"}',
    ],
    [
      "the beginning of a label",
      [["lights.csv", 3, "keeper", "ane"]],
      (s) => s.replace('"keeper": "P-002"', '"keeper": "P-001"'),
      'cells-in-part {"count":1,"found":"ane","taken":"P-001","title":"keeper"}',
    ],
    [
      "the beginning of a word",
      [["lights.csv", 2, "status", "d"]],
      (s) => s.replace('"L"', '"D"'),
      'cells-in-part {"count":1,"found":"d","taken":"dark","title":"status"}',
    ],
    [
      "a whole word that others begin with",
      [["lights.csv", 3, "status", "LIT"]],
      (s) => s.replace('"D"', '"L"'),
      'cells-in-part {"count":1,"found":"LIT","taken":"lit","title":"status"}',
    ],
  ])("%s", async (_, cells, expected, note) => {
    const { tables } = await hatch(source, { plan, name: "s.json" });
    for (const [file, row, title, value] of cells) setCell(tables, file, row, title, value);
    const { bytes, notes } = await fold(tables, { source, name: "s.json" });
    expect(text(bytes)).toBe(expected(source));
    if (note !== null) expect(notes.map(brief)).toEqual([note]);
  });
  test("several that fit are listed", async () => {
    const { tables } = await hatch(source, { plan, name: "s.json" });
    for (const [title, value] of [
      ["keeper", "an"],
      ["status", "li"],
    ])
      setCell(tables, "lights.csv", 3, title, value);
    expect(told(await compare(tables, { source, name: "s.json" }))).toEqual([
      'lights.csv 3: choice-several {"found":["Ane Berg","Anders"],"title":"keeper"}',
      'lights.csv 3: choice-several {"found":["lit","lit up"],"title":"status"}',
    ]);
  });
});

describe.each(BOOKS)("%s: computed columns", (format, source, paths) => {
  const name = `book.${format}`;
  const computed = plan(format, paths)
    .replace('check: "value > 0.0"', 'compute: "sum(lines.map(l, l.debit))"')
    .replace(', check: "value <= parent.total"', "");
  test("follow what they are made of, also in records that nobody edited, and are not edited themselves", async () => {
    const { tables } = await hatch(source, { plan: computed, name });
    setCell(tables, "lines.csv", 2, "debit", "110");
    edit(tables, "lines.csv", (rows) => [...rows, ["", "", "+a", "4000", "7.5", ""]]);
    edit(tables, "entries.csv", (rows) => [...rows, ["+a", "", "J-3", "2026-02-01", ""]]);
    const { bytes, counts } = await fold(tables, { source, name });
    expect(counts).toMatchObject({ changed: 2, added: 2 });
    const again = await hatch(bytes, { plan: computed, name });
    expect(readRows(again.tables, "entries.csv").map((row) => row.slice(2))).toEqual([
      ["no", "day", "total"],
      ["J-1", "2026-01-05", "110.00"],
      ["J-2", "2026-01-06", "20"],
      ["J-3", "2026-02-01", "7.5"],
    ]);
    setCell(tables, "entries.csv", 3, "total", "21");
    setCell(tables, "entries.csv", 4, "total", "8");
    expect(told(await compare(tables, { source, name }))).toEqual([
      'entries.csv 3: read-only {"title":"total","was":"20"}',
      'entries.csv 4: computed-other {"computed":"7.5","title":"total"}',
    ]);
  });
});

test.each([
  ["unique: name", ['s.csv 3: unique-taken {"record":1,"row":2,"titles":["name"],"values":["a"]}']],
  ["unique: [name, no]", []],
  ["unique: { is: name, say: Names come once. }", ["s.csv 3: Names come once."]],
  ["unique: [{ is: [name], severity: warning, say: Twice? }, { is: no }]", ["s.csv 3: Twice?"]],
])("%s", async (rule, expected) => {
  const source = '{"s": [{"name": "a", "no": 1}, {"name": "b", "no": 2}]}';
  const plan = `hatchfold: 1\nsources: { x: { file: x.json } }\ntables: { s: { rows: s, ${rule}, columns: { name: name, no: no } } }\n`;
  const { tables } = await hatch(source, { plan, name: "x.json" });
  setCell(tables, "s.csv", 3, "name", "a");
  expect(told(await compare(tables, { source, name: "x.json" }))).toEqual(expected);
});

test("totals in trailers are asked when it is known what they come to", async () => {
  const source = "H1\nI 030.50\nI 020.00\nE 050.50\n";
  const plan = `hatchfold: 1
sources:
  s:
    file: s.dat
    format: fixed
    layout:
      records:
        head: { tag: { at: 1-1, is: H }, fields: { no: 2-2 } }
        item: { tag: { at: 1-1, is: I }, inside: head, fields: { price: { at: 3-8, pad: "0" } } }
        end: { tag: { at: 1-1, is: E }, inside: head, closes: true, fields: { sum: { at: 3-8, pad: "0", total: sum item/price } } }
tables:
  heads: { rows: head, key: no, columns: { no: no, sum: { at: end/sum, type: decimal, maximum: 100, check: "value > 40.0" } } }
  items: { rows: head/item, inside: heads, columns: { price: { at: price, type: decimal, say: Prices have two decimals. } } }
`;
  const after = async (price: string): Promise<Compared> => {
    const { tables } = await hatch(source, { plan, name: "s.dat" });
    setCell(tables, "items.csv", 2, "price", price);
    return compare(tables, { source, name: "s.dat" });
  };
  expect(told(await after("35.00"))).toEqual([]);
  expect(told(await after("80.01"))).toEqual(['heads.csv 0: rule-maximum {"limit":"100","title":"sum"}']);
  expect(told(await after("10.00"))).toEqual(['heads.csv 0: check-failed {"check":"value > 40.0","title":"sum"}']);
  expect(told(await after("x"))).toEqual(["items.csv 2: Prices have two decimals."]);
  const { tables } = await hatch(source, { plan, name: "s.dat" });
  setCell(tables, "items.csv", 2, "price", "80.01");
  expect(text((await fold(tables, { source, name: "s.dat", partial: true })).bytes)).toBe(source);
});

describe("types, choices and references of which a plan only warns", () => {
  const SOURCES = {
    json: '{"keepers": [{"no": "K-1", "name": "Ane"}, {"no": "K-2", "name": "Bo"}], "lights": [{"no": 1, "state": "L", "height": 4.5, "keeper": "K-1", "called": "Ane", "aids": ["K-1", "K-2"]}, {"no": 2, "state": "D", "height": 3, "keeper": "K-1", "called": "Ane", "aids": ["K-2"]}]}',
    xml: '<r><keeper no="K-1" name="Ane"/><keeper no="K-2" name="Bo"/><light no="1" state="L" height="4.5" keeper="K-1" called="Ane"><aid>K-1</aid><aid>K-2</aid></light><light no="2" state="D" height="3" keeper="K-1" called="Ane"><aid>K-2</aid></light></r>',
  };
  const planFor = (format: keyof typeof SOURCES, label: string): string => {
    const [at, rows, aids] = format === "json" ? ["", ["keepers", "lights"], "aids"] : ["@", ["r/keeper", "r/light"], "aid"];
    return `hatchfold: 1
sources: { s: { file: s.${format} } }
tables:
  keepers: { rows: ${rows[0]}, key: no, label: name, columns: { no: "${at}no", name: "${at}name" } }
  lights:
    rows: ${rows[1]}
    key: no
    columns:
      no: "${at}no"
      state: { at: "${at}state", choices: { L: lit, D: dark }, severity: warning, say: lit or dark }
      height: { at: "${at}height", type: decimal, severity: warning }
      keeper: { at: "${at}keeper", refers: keepers, only: "no != 'K-2'", severity: warning${label} }
      aids: { at: ${aids}, pack: "|", refers: keepers, severity: warning, say: Whose aid? }
`;
  };
  const LABELS = { none: "", copied: ', label: "AT", copied: true' };

  describe.each(["json", "xml"] as const)("%s", (format) => {
    test.each(["none", "copied"] as const)("label: %s", async (kind) => {
      const [source, name] = [SOURCES[format], `s.${format}`];
      const plan = planFor(format, LABELS[kind].replace("AT", format === "json" ? "called" : "@called"));
      const { tables } = await hatch(source, { plan, name });
      setCell(tables, "lights.csv", 2, "state", "broken");
      setCell(tables, "lights.csv", 2, "height", "unknown");
      setCell(tables, "lights.csv", 2, "keeper", "K-9");
      setCell(tables, "lights.csv", 2, "aids", "K-7|K-2");
      setCell(tables, "lights.csv", 3, "keeper", "K-2");
      const { warnings, problems } = await compare(tables, { source, name });
      expect(problems).toEqual([]);
      expect(warnings.map((one) => `${one.row} ${one.column}: ${brief(one)}`).toSorted()).toEqual([
        "2 aids: Whose aid?",
        '2 height: type {"title":"height","type":"decimal"}',
        '2 keeper: ref-unknown {"code":"K-9","key":"no","nearest":"K-1","table":"keepers"}',
        "2 state: lit or dark",
        '3 keeper: ref-not-allowed {"key":"K-2","only":"no != \'K-2\'","table":"keepers"}',
      ]);
      expect((await compare(tables, { source, name, strict: true })).problems.length).toBe(5);
      const { bytes } = await fold(tables, { source, name });
      const again = await hatch(bytes, { plan, name });
      const titles = ["state", "height", "keeper", "aids"];
      const [header, ...rows] = readRows(again.tables, "lights.csv");
      expect(rows.map((cells) => titles.map((title) => cells[header.indexOf(title)]))).toEqual([
        ["broken", "unknown", "K-9", "K-7|K-2"],
        ["dark", "3", "K-2", "K-2"],
      ]);
    });

    test("a code of another choice is none that is written as it is; a record that others name may go", async () => {
      const [source, name, plan] = [SOURCES[format], `s.${format}`, planFor(format, "")];
      const { tables } = await hatch(source, { plan, name });
      setCell(tables, "lights.csv", 2, "state", "D");
      setCell(tables, "keepers.csv", 2, ACTION, "remove");
      const { warnings, problems } = await compare(tables, { source, name });
      expect(problems.map((one) => `${one.row} ${one.column}: ${brief(one)}`)).toEqual(["2 state: lit or dark"]);
      expect(warnings.map(({ row, column }) => `${row} ${column}`).toSorted()).toEqual(["2 aids", "2 keeper", "3 keeper"]);
      setCell(tables, "lights.csv", 2, "state", "lit");
      const left = (await hatch((await fold(tables, { source, name })).bytes, { plan, name })).tables;
      expect(readRows(left, "keepers.csv").length).toBe(2);
    });
  });
});
