/** A plan with several sources of different formats: tables over all of them, references from one to another. */
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, test } from "vitest";
import {
  check,
  compare,
  fold,
  hatch,
  HatchFoldError,
  MemorySource,
  readPlan,
  survey,
  type Folded,
  type MemoryTables,
  type SourcesInput,
} from "hatch-fold";
import { freshFolder, inProcess } from "./support/cli.js";
import { edit, readRows, setCell, text } from "./support/sheets.js";
import { refusal, says } from "./support/brief.js";

const REGISTER = '{"people": [\n  {"id": "P-1", "name": "Rut"},\n  {"id": "P-2", "name": "Ole"}\n]}\n';
const NOTICES =
  '<notices>\n  <notice no="1" by="P-1" name="Rut"><text>a</text></notice>\n  <notice no="2" by="P-2" name="Ole"/>\n</notices>\n';
const STOCK = "01North   \n02lamp 0001\n02rope 0002\n090002\n";

const PLAN = `
hatchfold: 1
sources:
  register: { file: register.json }
  notices: { file: notices.xml }
  stock:
    file: stock.dat
    format: fixed
    layout:
      records:
        store: { tag: { at: 1-2, is: "01" }, fields: { name: 3-10 } }
        item: { tag: { at: 1-2, is: "02" }, inside: store, fields: { what: 3-7, no: 8-11 } }
        end: { tag: { at: 1-2, is: "09" }, inside: store, closes: true, fields: { items: { at: 3-6, total: count item } } }
tables:
  people: { from: register, rows: people, key: id, label: name, new: { id: "P-{0}" }, columns: { id: id, name: name } }
  notices:
    from: notices
    rows: notices/notice
    key: no
    columns: { no: "@no", by: { at: "@by", refers: people, label: "@name", copied: true }, text: text }
  stores: { from: stock, rows: store, key: name, columns: { name: name, items: end/items } }
  items: { rows: store/item, inside: stores, columns: { what: what, no: no } }
`;

const given = (): Map<string, string> =>
  new Map([
    ["register", REGISTER],
    ["notices", NOTICES],
    ["stock", STOCK],
  ]);
const add = (tables: MemoryTables, file: string, ...cells: string[]): MemoryTables => edit(tables, file, (rows) => [...rows, cells]);
const hatched = async (): Promise<MemoryTables> => (await hatch(given(), { plan: PLAN })).tables;
/** What each file is after the fold. */
const after = ({ files }: Folded): string[] => files.map((file) => text(file.bytes));

describe("tables over files of several formats", () => {
  test("each has the records of its source; nobody has to say in which file they are", async () => {
    const tables = await hatched();
    expect(readRows(tables, "people.csv")[0]).toEqual(["fold mark", "fold action", "id", "name"]);
    expect(readRows(tables, "notices.csv").map((row) => row.slice(2))).toEqual([
      ["no", "by", "by name", "text"],
      ["1", "P-1", "Rut", "a"],
      ["2", "P-2", "Ole", ""],
    ]);
    const folded = await fold(tables, { source: given() });
    expect(after(folded)).toEqual([REGISTER, NOTICES, STOCK]);
    expect(folded.files.every((file) => file.unchanged)).toBe(true);
  });

  const EDITS: [what: string, change: (tables: MemoryTables) => unknown, register: string, notices: string, stock: string][] = [
    [
      "the id of a new person goes to the notice that names them",
      (tables) => (add(tables, "people.csv", "+x", "", "", "Ida"), setCell(tables, "notices.csv", 3, "by", "+x")),
      REGISTER.replace('"Ole"}', '"Ole"},\n  {"id": "P-3", "name": "Ida"}'),
      NOTICES.replace('by="P-2" name="Ole"', 'by="P-3" name="Ida"'),
      STOCK,
    ],
    [
      "a name that changes is changed where it was copied",
      (tables) => setCell(tables, "people.csv", 2, "name", "Ruth"),
      REGISTER.replace("Rut", "Ruth"),
      NOTICES.replace("Rut", "Ruth"),
      STOCK,
    ],
    [
      "a code is found by the label beside it",
      (tables) => setCell(tables, "notices.csv", 2, "by name", "Ole"),
      REGISTER,
      NOTICES.replace('by="P-1" name="Rut"', 'by="P-2" name="Ole"'),
      STOCK,
    ],
    [
      "new records go where their kind is, and totals follow",
      (tables) => (add(tables, "items.csv", "", "", "North", "wick", "0002"), add(tables, "notices.csv", "", "", "3", "P-1", "", "new")),
      REGISTER,
      NOTICES.replace('name="Ole"/>', 'name="Ole"/>\n  <notice no="3" by="P-1" name="Rut"><text>new</text></notice>'),
      STOCK.replace("090002", "02wick 0002\n090003"),
    ],
    [
      "a record goes from one only",
      (tables) => setCell(tables, "notices.csv", 3, "fold action", "remove"),
      REGISTER,
      NOTICES.replace(/\n.*no="2".*/, ""),
      STOCK,
    ],
  ];
  test.each(EDITS)("%s", async (_, change, ...want) => {
    const tables = await hatched();
    change(tables);
    expect(after(await fold(tables, { source: given() }))).toEqual(want);
  });

  const PROBLEMS: [what: string, change: (tables: MemoryTables) => unknown, problem: object][] = [
    [
      "a code of nobody",
      (tables) => setCell(tables, "notices.csv", 3, "by", "P-9"),
      { code: "ref-unknown", file: "notices.csv", row: 3, facts: { nearest: "P-1" } },
    ],
    [
      "somebody who is still named in another file",
      (tables) => setCell(tables, "people.csv", 2, "fold action", "remove"),
      { code: "ref-lost", file: "notices.csv", row: 2 },
    ],
    [
      "a text that only another format could hold",
      (tables) => setCell(tables, "items.csv", 2, "what", "lamp\nwick"),
      { file: "items.csv", row: 2 },
    ],
  ];
  test.each(PROBLEMS)("%s is a problem", async (_, change, problem) => {
    const tables = await hatched();
    change(tables);
    const { problems } = await check(tables, { source: given() });
    expect(problems).toHaveLength(1);
    expect(problems[0]).toMatchObject(problem);
  });

  test("one of them may be a set of files: its rows say in which one they are", async () => {
    const more = new Map<string, string | string[]>([...given(), ["notices", [NOTICES, NOTICES.replaceAll("no=", "nr='x' no=")]]]);
    const { tables } = await hatch(more, { plan: PLAN.replace("key: no", "label: text") });
    expect(readRows(tables, "notices.csv")[0][2]).toBe("in file");
    expect(readRows(tables, "people.csv")[0]).not.toContain("in file");
    setCell(tables, "notices.csv", 5, "text", "z");
    const { changes } = await compare(tables, { source: more });
    expect(changes).toMatchObject([{ table: "notices", row: 5, new: "z" }]);
    expect(after(await fold(tables, { source: more }))[2]).toContain('nr=\'x\' no="2" by="P-2" name="Ole"><text>z</text></notice>');
  });

  test("a source that was changed since is named", async () => {
    const tables = await hatched();
    const changed = given().set("notices", NOTICES.replace("Rut", "Tur"));
    await expect(fold(tables, { source: changed })).rejects.toMatchObject({ code: "source-changed" });
  });
});

describe("what does not fit", () => {
  const plans: [what: string, plan: string, expected: string][] = [
    ["no source said", PLAN.replace("from: register, ", ""), 'plan-from-missing {"names":["register","notices","stock"],"table":"people"}'],
    [
      "no such source",
      PLAN.replace("from: register", "from: registr"),
      'plan-no-such-source {"names":["register","notices","stock"],"nearest":"register","source":"registr"}',
    ],
    [
      "inside a table of another",
      PLAN.replace("rows: store/item", "from: register, rows: store/item"),
      'plan-not-inside {"parent":"stores","table":"items"}',
    ],
  ];
  test.each(plans)("a plan with %s", async (_, plan, expected) => {
    expect(await refusal(readPlan(plan))).toBe(expected);
  });
  const inputs: [what: string, input: SourcesInput, code: string][] = [
    ["one source for three", REGISTER, "sources-several"],
    [
      "one too few",
      new Map([
        ["register", REGISTER],
        ["notices", NOTICES],
      ]),
      "source-not-given",
    ],
    ["a name that the plan does not have", given().set("stok", STOCK), "plan-no-such-source"],
  ];
  test.each(inputs)("%s", async (_, input, code) => {
    const error: unknown = await hatch(input, { plan: PLAN }).catch((caught: unknown) => caught);
    expect(error).toBeInstanceOf(HatchFoldError);
    expect((error as HatchFoldError).code).toBe(code);
  });
});

test("on the command line: the plan names the files, all are folded together and go back together", async () => {
  const cwd = freshFolder();
  mkdirSync(join(cwd, "in"));
  const files = { "register.json": REGISTER, "notices.xml": NOTICES, "stock.dat": STOCK };
  for (const [name, content] of Object.entries(files)) writeFileSync(join(cwd, "in", name), content);
  writeFileSync(join(cwd, "in", "plan.yaml"), PLAN);
  const now = (): string[] => Object.keys(files).map((name) => readFileSync(join(cwd, "in", name), "utf8"));
  const refused = await inProcess(cwd, ["hatch", "in/register.json", "-p", "in/plan.yaml", "-o", "t"]);
  expect(refused).toMatchObject({ status: 2 });
  expect(refused.err).toContain(says("sources-several", { names: ["register", "notices", "stock"] }));
  expect((await inProcess(cwd, ["hatch", "-p", "in/plan.yaml", "-o", "t"])).out).toContain("hatched 4 tables from 3 files into t");
  const people = join(cwd, "t", "people.csv");
  writeFileSync(people, readFileSync(people, "utf8").replace("Rut", "Ruth"));
  const done = await inProcess(cwd, ["fold", "t", "--in-place", "--renew"]);
  expect(done).toMatchObject({ status: 0, err: "" });
  expect(done.out).toContain("folded into in/register.json, in/notices.xml");
  expect(now()).toEqual([REGISTER.replace("Rut", "Ruth"), NOTICES.replace("Rut", "Ruth"), STOCK]);
  expect((await inProcess(cwd, ["compare", "t"])).out).toContain("no changes");
  expect((await inProcess(cwd, ["undo", "in"])).status).toBe(0);
  expect(now()).toEqual(Object.values(files));
});

test("words of another format than that of the file are refused, in every format: in a plan and in a survey", async () => {
  const files = ["register.json", "notices.xml", "orders.txt", "stores.dat", "lights.csv", "stocks.edi", "keepers.vcf", "contacts.txt"];
  const words = {
    namespaces: { n: "urn:x" },
    delimiter: ";",
    header: "two",
    layout: { records: { a: { fields: { x: "1-3" } } } },
    comments: 1,
  };
  const refused = new Set<string>();
  for (const name of files) {
    const bytes = new Uint8Array(readFileSync(new URL(`../demo/${name}`, import.meta.url)));
    const { format } = (await survey(new MemorySource(bytes, name))).source;
    for (const [word, value] of Object.entries(words)) {
      const settings = { [word]: value };
      const plan = `hatchfold: 1\nsources: { a: ${JSON.stringify({ file: name, ...settings })} }\ntables: { p: { rows: a, columns: { x: x } } }\n`;
      for (const run of [
        () => survey(new MemorySource(bytes, name), { settings }),
        () => survey(new MemorySource(bytes, name), { format, settings }),
        () => hatch(new MemorySource(bytes, name), { plan }),
      ])
        await run().catch((error: { code?: string }) => {
          expect(error.code, `${name} ${word}`).toBeTypeOf("string");
          if (error.code!.startsWith("setting-")) refused.add(`${name} ${word} ${error.code!}`);
        });
    }
  }
  expect(refused).toContain("orders.txt namespaces setting-of-other");
  expect(refused).toContain("lights.csv header setting-unfit");
  expect(refused.size).toBeGreaterThan(25);
});
