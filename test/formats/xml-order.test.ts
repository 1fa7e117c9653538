/** New elements are written as their siblings: in the order that these have their children in, which a schema may ask for, and in their manner. */
import fc from "fast-check";
import { SaxesParser } from "saxes";
import { expect, test } from "vitest";
import { fold, hatch } from "hatch-fold";
import { law } from "../support/laws.js";
import { Random } from "../support/random.js";
import { edit, text, type Rows } from "../support/sheets.js";
import { brief } from "../support/brief.js";

const planOf = (tables: string): string => `hatchfold: 1\nsources: { s: { file: s.xml } }\ntables:\n${tables}`;
const AGREED = "<l><a>1</a><b>2</b><hidden/><c>3</c><d>4</d></l>";

type Change = (rows: Rows) => void;
const CASES: [what: string, columns: string, records: string, change: Change, wanted: string][] = [
  [
    "before one that the plan does not name",
    "b: b",
    "<l><a>1</a><hidden/></l>",
    (rows) => void (rows[2][2] = "x"),
    "<l><a>1</a><b>x</b><hidden/></l>",
  ],
  [
    "whatever the order of the columns",
    "d: d, a: a",
    "<l><c>3</c></l>",
    (rows) => void rows[2].splice(2, 2, "x", "y"),
    "<l><a>y</a><c>3</c><d>x</d></l>",
  ],
  [
    "in an empty element",
    "d: d, c: c, a: a",
    "<l/>",
    (rows) => void rows[2].splice(2, 3, "x", "y", "z"),
    "<l><a>z</a><c>y</c><d>x</d></l>",
  ],
  ["in a new record", "d: d, c: c, a: a", "", (rows) => void rows.push(["", "", "x", "y", "z"]), "<l><a>z</a><c>y</c><d>x</d></l>"],
  [
    "as the columns have them where the file does not agree",
    "d: d, a: a, e: e",
    "<l><d>1</d><a>2</a></l>",
    (rows) => void (rows[2][4] = "x"),
    "<l><d>1</d><a>2</a><e>x</e></l>",
  ],
  [
    "in a part that is new itself",
    'x: "k/x", y: "k/y"',
    "<l><k><y>1</y><x>2</x></k><m/></l><l><m/></l>",
    (rows) => void rows[3].splice(2, 2, "x", "y"),
    "<l><k><y>1</y><x>2</x></k><m/></l><l><k><y>y</y><x>x</x></k><m/></l>",
  ],
];
test.each(CASES)("%s", async (_, columns, records, change, wanted) => {
  const source = `<all>${AGREED}${records}</all>`;
  const { tables } = await hatch(source, { name: "s.xml", plan: planOf(`  l: { rows: all/l, columns: { ${columns} } }\n`) });
  edit(tables, "l.csv", change);
  expect(text((await fold(tables, { source, name: "s.xml" })).bytes)).toBe(`<all>${AGREED}${wanted}</all>`);
});

const NAMES = ["a", "b", "c", "d", "e"];
/** Names of the children of each record. */
function childrenIn(source: string): string[][] {
  const records: string[][] = [];
  let depth = 0;
  const parser = new SaxesParser();
  parser.on("opentag", ({ name }) => {
    if (++depth === 2) records.push([]);
    if (depth === 3) records.at(-1)!.push(name);
  });
  parser.on("closetag", () => void depth--);
  parser.write(source).close();
  return records;
}

test("law: a file whose records are in a sequence is in it after any fold, with lists in it", () =>
  law(fc.nat(), async (seed) => {
    const random = new Random(seed);
    const sequence = random.shuffle([...NAMES]);
    const [list, ...single] = NAMES;
    // one record shows the whole sequence; of two names that never meet nobody knows the order
    const records = [sequence, ...Array.from({ length: 4 }, () => sequence.filter(() => random.chance(2)))];
    const source = `<all>${records.map((names) => `<l>${names.map((name) => `<${name}>1</${name}>`.repeat(name === list ? 1 + random.next(2) : 1)).join("")}</l>`).join("\n")}</all>`;
    const tables = `  l: { rows: all/l, columns: { ${random
      .shuffle(single)
      .map((name) => `${name}: ${name}`)
      .join(", ")} } }\n  list: { rows: all/l/${list}, inside: l, columns: { value: . } }\n`;
    const hatched = await hatch(source, { name: "s.xml", plan: planOf(tables) });
    const marks: string[] = [];
    edit(hatched.tables, "l.csv", (rows) => {
      for (const row of rows.slice(1)) for (let c = 2; c < row.length; c++) if (random.chance(3)) row[c] = row[c] === "" ? "2" : "";
      rows.push(["+new", "", ...single.map(() => (random.chance(2) ? "3" : ""))]);
      marks.push(...rows.slice(1).map(([mark]) => mark));
    });
    edit(hatched.tables, "list.csv", (rows) => {
      for (const row of rows.slice(1)) if (random.chance(4)) row[1] = "remove";
      for (const mark of marks) if (random.chance(2)) rows.push(["", "", mark, "4"]);
    });
    const folded = text((await fold(hatched.tables, { source, name: "s.xml" })).bytes);
    for (const names of childrenIn(folded)) expect([...names].sort((a, b) => sequence.indexOf(a) - sequence.indexOf(b))).toEqual(names);
  }));

test("quotes, line breaks, empty elements and CDATA are as the siblings have them", async () => {
  const record = (n: number, m: string): string => `<l\n    n='${n}'\n    m='${m}'><a><![CDATA[x<${n}]]></a><e /></l>`;
  const source = `<all>\n  ${record(1, "x")}\n  <l\n    n='2'/>\n</all>`;
  const columns = 'n: "@n", m: "@m", a: a, e: e';
  const { tables } = await hatch(source, { name: "s.xml", plan: planOf(`  l: { rows: all/l, columns: { ${columns} } }\n`) });
  edit(tables, "l.csv", (rows) => {
    rows[2].splice(3, 1, "y");
    rows.push(["", "", "3", "z", "x<3", "(empty)"]);
  });
  expect(text((await fold(tables, { source, name: "s.xml" })).bytes)).toBe(
    source.replace("n='2'/>", `n='2'\n    m='y'/>\n  ${record(3, "z")}`),
  );
});

test("an element with parts is taken out as a whole", async () => {
  const source = "<all><l><k><x>1</x></k><z/></l><l><k/></l></all>";
  const { tables } = await hatch(source, { name: "s.xml", plan: planOf('  l: { rows: all/l, columns: { k: k, x: "k/x" } }\n') });
  edit(tables, "l.csv", (rows) => {
    rows[1].splice(2, 2, "(absent)", "");
    rows[2].splice(2, 2, "(absent)", "");
  });
  expect(text((await fold(tables, { source, name: "s.xml" })).bytes)).toBe("<all><l><z/></l><l></l></all>");
});

test("comments in an edited text go with it, and that is said", async () => {
  const source = "<all><l>one<!-- two -->three</l><l>a<?b c?>d</l><l><![CDATA[<!-- letters -->]]></l><l>e<!-- stays --></l></all>";
  const { tables } = await hatch(source, { name: "s.xml", plan: planOf("  l: { rows: all/l, columns: { text: . } }\n") });
  edit(tables, "l.csv", (rows) => {
    for (const row of rows.slice(1, 4)) row[2] = "new";
  });
  const { bytes, notes } = await fold(tables, { source, name: "s.xml" });
  expect(text(bytes)).toBe("<all><l>new</l><l>new</l><l><![CDATA[new]]></l><l>e<!-- stays --></l></all>");
  expect(notes.map(brief)).toEqual(['comments-go {"rows":[2,3],"title":"text"}']);
});
