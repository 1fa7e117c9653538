/** New documents from tables alone: every format, sheets that somebody else made, one flat sheet taken apart. */
import { describe, expect, test } from "vitest";
import { fold, foldNew, hatch, MemoryTables, type HatchFoldError, type ProblemsError } from "hatch-fold";
import { readRows, text } from "./support/sheets.js";
import { brief } from "./support/brief.js";

const tables = (sheets: Record<string, string>): MemoryTables =>
  new MemoryTables(Object.entries(sheets).map(([file, csv]) => [file, new TextEncoder().encode(csv)]));

const PLAN = (format: string, rows: { s: string; l: string }, at: (name: string) => string): string => `
hatchfold: 1
sources: { new: { file: new, ${format} } }
tables:
  stations:
    rows: ${rows.s}
    key: code
    columns: { code: "${at("code")}", name: "${at("name")}" }
  lights:
    rows: ${rows.l}
    inside: stations
    columns: { no: { at: "${at("no")}", type: text }, colour: "${at("colour")}" }
`;
const SHEETS = {
  "stations.csv": 'name;code\nSkarv;007\n"Ytre, Skarv";008\n',
  "lights.csv": "stations,no,colour\n008,2,R\n007,1,W\n007,3,\n",
};
const same = (name: string): string => name;
const TAGGED =
  'format: tagged, layout: { delimiter: "|", records: { st: { tag: S, fields: [code, name] }, li: { tag: L, inside: st, fields: [no, colour] } } }';
const FIXED =
  "format: fixed, layout: { unit: characters, records: { st: { tag: { at: 1, is: S }, fields: { code: 2-4, name: 5-16 } }, li: { tag: { at: 1, is: L }, inside: st, fields: { no: { at: 2-4, align: right, pad: '0' }, colour: 5 } } } }";

describe("each format", () => {
  test.each<[string, string, { s: string; l: string }, (name: string) => string, string]>([
    [
      "JSON",
      "format: json",
      { s: "authority/stations", l: "authority/stations/lights" },
      same,
      `{
  "authority": {
    "stations": [
      {
        "code": "007",
        "name": "Skarv",
        "lights": [
          {
            "no": "1",
            "colour": "W"
          },
          {
            "no": "3"
          }
        ]
      },
      {
        "code": "008",
        "name": "Ytre, Skarv",
        "lights": [
          {
            "no": "2",
            "colour": "R"
          }
        ]
      }
    ]
  }
}
`,
    ],
    [
      "XML",
      "format: xml",
      { s: "authority/station", l: "authority/station/light" },
      (name) => (name === "name" ? "name" : `@${name}`),
      `<?xml version="1.0" encoding="UTF-8"?>
<authority>
  <station code="007">
    <name>Skarv</name>
    <light no="1" colour="W"/>
    <light no="3"/>
  </station>
  <station code="008">
    <name>Ytre, Skarv</name>
    <light no="2" colour="R"/>
  </station>
</authority>
`,
    ],
    ["tagged lines", TAGGED, { s: "st", l: "st/li" }, same, "S|007|Skarv\nL|1|W\nL|3\nS|008|Ytre, Skarv\nL|2|R\n"],
    ["fixed-width", FIXED, { s: "st", l: "st/li" }, same, "S007Skarv       \nL001W\nL003 \nS008Ytre, Skarv \nL002R\n"],
    [
      "JSON Lines",
      "format: json-lines",
      { s: ".", l: "lights" },
      same,
      '{"code":"007","name":"Skarv","lights":[{"no":"1","colour":"W"},{"no":"3"}]}\n{"code":"008","name":"Ytre, Skarv","lights":[{"no":"2","colour":"R"}]}\n',
    ],
  ])("%s", async (_, format, rows, at, expected) => {
    const plan = PLAN(format, rows, at);
    const { bytes } = await foldNew(tables(SHEETS), { plan });
    expect(text(bytes)).toBe(expected);
    // what was made can be hatched, and gives the rows back
    const again = await hatch(expected, { plan });
    expect(readRows(again.tables, "stations.csv").map((row) => row.slice(2))).toEqual([
      ["code", "name"],
      ["007", "Skarv"],
      ["008", "Ytre, Skarv"],
    ]);
    expect(text((await fold(again.tables, { source: expected })).bytes)).toBe(expected);
  });

  test("delimited, and blocks", async () => {
    const plan = (format: string): string => `
hatchfold: 1
sources: { new: { file: new, ${format} } }
tables: { people: { rows: ., columns: { id: Id, name: Name } } }
`;
    const sheets = { "people.csv": 'id,name\nP-1,Ása\nP-2,"Rut; Holm"\n' };
    expect(text((await foldNew(tables(sheets), { plan: plan('format: delimited, delimiter: ";"') })).bytes)).toBe(
      'Id;Name\nP-1;Ása\nP-2;"Rut; Holm"\n',
    );
    expect(text((await foldNew(tables(sheets), { plan: plan("format: blocks") })).bytes)).toBe(
      "Id: P-1\nName: Ása\n\nId: P-2\nName: Rut; Holm\n",
    );
  });
});

describe("one flat sheet", () => {
  const plan = `
hatchfold: 1
sources: { new: { file: new.json, format: json } }
tables:
  people:
    rows: people
    key: id
    sheet: { file: flat.csv, titles: { id: Person no, name: Person } }
    columns: { id: id, name: name }
  stations:
    rows: stations
    key: code
    sheet: { file: flat.csv, titles: { code: Station } }
    columns: { code: code }
  postings:
    rows: postings
    sheet: { file: flat.csv, titles: { person: Person no, station: Station, role: Role } }
    columns: { person: { at: person, refers: people }, station: { at: station, refers: stations }, role: role }
`;
  const POSTED = {
    people: [
      { id: "P-1", name: "Ása" },
      { id: "P-2", name: "Rut" },
    ],
    stations: [{ code: "S-01" }, { code: "S-02" }],
    postings: [
      { person: "P-1", station: "S-01", role: "keeper" },
      { person: "P-2", station: "S-01", role: "relief" },
      { person: "P-1", station: "S-02", role: "keeper" },
    ],
  };
  const flat = (...rows: string[]): MemoryTables =>
    tables({ "flat.csv": ["Postings of the year;;;;", "", "Person no;Person;Station;Role;Remarks", ...rows].join("\r\n") });

  test("is taken apart: people once, stations once, the postings between them", async () => {
    const { bytes, notes } = await foldNew(flat("P-1;Ása;S-01;keeper;x", "P-2;Rut;S-01;relief;", "P-1;Ása;S-02;keeper;"), { plan });
    expect(JSON.parse(text(bytes))).toEqual(POSTED);
    expect(notes.map(brief)).toContain('column-left {"file":"flat.csv","title":"Remarks"}');
  });

  test.each<[string, string[], object]>([
    [
      "what a row leaves blank another one says, and no link is made of nobody",
      ["P-1;;S-01;keeper;", ";;;;", "P-1;Ása;;;", ";;S-02;;", "P-2;Rut;;;"],
      {
        people: [
          { id: "P-1", name: "Ása" },
          { id: "P-2", name: "Rut" },
        ],
        stations: [{ code: "S-01" }, { code: "S-02" }],
        postings: [{ person: "P-1", station: "S-01", role: "keeper" }],
      },
    ],
    [
      "two codes are a link",
      ["P-1;;S-01;;"],
      { people: [{ id: "P-1" }], stations: [{ code: "S-01" }], postings: [{ person: "P-1", station: "S-01" }] },
    ],
  ])("%s", async (_, rows, made) => {
    expect(JSON.parse(text((await foldNew(flat(...rows), { plan })).bytes))).toEqual(made);
  });

  test("ids are made and links follow in one call, people being known by their names", async () => {
    const named = plan
      .replace(
        "key: id\n    sheet: { file: flat.csv, titles: { id: Person no, name: Person } }",
        'key: id\n    label: name\n    new: { id: "P-{0}" }\n    sheet: { file: flat.csv, titles: { name: Person } }',
      )
      .replace("person: Person no", "person name: Person");
    const { bytes, notes } = await foldNew(flat(";Ása;S-01;keeper;", ";Rut;S-01;relief;", ";Ása;S-02;keeper;"), { plan: named });
    expect(JSON.parse(text(bytes))).toEqual(POSTED);
    // two columns of the sheet are in no table; none of the plan's is missed
    expect(notes.map((note) => note.code)).toEqual(["column-left", "column-left"]);
  });

  test("the only table of a sheet takes each record once, and says so", async () => {
    const one =
      "hatchfold: 1\nsources: { n: { file: n.json, format: json } }\ntables: { people: { rows: people, key: id, columns: { id: id, name: name } } }\n";
    const { bytes, notes } = await foldNew(tables({ "people.csv": "id,name\nP-1,\nP-1,Ása\nP-2,Rut\n" }), { plan: one });
    expect(text(bytes).replace(/\s/g, "")).toBe('{"people":[{"id":"P-1","name":"Ása"},{"id":"P-2","name":"Rut"}]}');
    expect(notes.map(brief)).toEqual(['rows-repeated {"rows":[3]}']);
  });

  test("in windows-1252", async () => {
    const one = flat("P-1;Ása;S-01;keeper;");
    one.contents.set("flat.csv", Uint8Array.from(Buffer.from(one.text("flat.csv"), "latin1")));
    expect((JSON.parse(text((await foldNew(one, { plan })).bytes)) as { people: unknown }).people).toEqual([{ id: "P-1", name: "Ása" }]);
  });

  test.each<[string, string[], [number, string, string][]]>([
    [
      "rows that disagree about one person",
      ["P-1;Ása;S-01;keeper;", "P-1;Åsa;S-02;keeper;"],
      [[5, "name", 'rows-disagree {"first":4,"key":"P-1","now":"Åsa","title":"name","was":"Ása"}']],
    ],
    [
      "a stray space, another case",
      ["P-1;Ása;S-01;keeper;", "P-1 ;Ása;s-01;keeper;"],
      [
        [5, "id", 'key-near {"key":"P-1 ","other":"P-1","row":4}'],
        [5, "code", 'key-near {"key":"s-01","other":"S-01","row":4}'],
      ],
    ],
    ["a name without the number it goes by", ["P-1;Ása;S-01;keeper;", ";Rut;S-01;;"], [[5, "id", 'key-missing {"title":"id"}']]],
  ])("%s", async (_, rows, expected) => {
    const failure = await foldNew(flat(...rows), { plan }).catch((error: unknown) => error);
    const { problems } = failure as ProblemsError;
    expect(problems.map((one) => [one.row, one.column, brief(one)])).toEqual(expected);
    expect(new Set(problems.map(({ file }) => file))).toEqual(new Set(["flat.csv"]));
  });

  test.each<[string, string, string, string]>([
    ["no format", "format: json", "encoding: utf-8", "new-format"],
    [
      "no such sheet",
      "file: flat.csv, titles: { code: Station }",
      "file: flat.cvs, titles: { code: Station }",
      'sheet-missing {"file":"flat.cvs","nearest":"flat.csv"}',
    ],
    [
      "a slip in a title",
      "titles: { code: Station }",
      "titles: { code: Staton }",
      'plan-sheet-title {"file":"flat.csv","name":"Staton","nearest":"Station","table":"stations","title":"code"}',
    ],
    [
      "no such titles",
      "titles: { id: Person no, name: Person }",
      "titles: { id: Nummer, name: Navn }",
      'titles-missing {"file":"flat.csv","titles":["Nummer","Navn"]}',
    ],
  ])("%s", async (_, was, is, expected) => {
    const made = await foldNew(flat("P-1;Ása;S-01;keeper;"), { plan: plan.replace(was, is) }).then(
      ({ notes }) => notes.map(brief).join("\n"),
      (error: unknown) => brief(error as HatchFoldError),
    );
    expect(made).toBe(expected);
  });
});

describe("from one shape to another: tables of one plan, folded by another", () => {
  const NESTED =
    '{"lanterns": [{"no": "L-1", "parts": [{"name": "Optics", "parts": [{"name": "Lens"}, {"name": "Lamp", "parts": [{"name": "Bulb", "qty": 2}]}]}]}, {"no": "L-2", "parts": [{"name": "Optics"}]}]}';
  const head = (format: string, file: string): string => `hatchfold: 1\nsources: { r: { file: ${file}, format: ${format} } }\ntables:\n`;
  const lanterns = "  lanterns: { rows: lanterns, key: no, columns: { no: no } }\n";
  const nested = `${head("json", "n.json")}${lanterns}  parts: { rows: lanterns/parts, inside: lanterns, tree: parts, label: name, columns: { name: name, qty: qty } }\n`;
  const coded = (sheet: string): string =>
    `${head("json", "c.json")}${lanterns}  parts: { rows: parts, tree: { parent: upper }, key: id, label: name, new: { id: "P-{00}" }, ${sheet} columns: { id: id, lantern: { at: lantern, refers: lanterns }, name: name, upper: upper, qty: qty } }\n`;

  async function reshaped(source: string, from: string, to: string): Promise<string> {
    const { tables: made } = await hatch(source, { plan: from, name: /file: (\S+),/.exec(from)![1] });
    return text((await foldNew(made, { plan: to })).bytes);
  }

  test("parts in parts of JSON become elements in elements of XML", async () => {
    const to = `${head("xml", "x.xml")}  lanterns: { rows: r/lantern, key: no, columns: { no: "@no" } }\n  parts: { rows: r/lantern/part, inside: lanterns, tree: part, label: name, columns: { name: "@name", qty: "@qty" } }\n`;
    expect(await reshaped(NESTED, nested, to)).toBe(`<?xml version="1.0" encoding="UTF-8"?>
<r>
  <lantern no="L-1">
    <part name="Optics">
      <part name="Lens"/>
      <part name="Lamp">
        <part name="Bulb" qty="2"/>
      </part>
    </part>
  </lantern>
  <lantern no="L-2">
    <part name="Optics"/>
  </lantern>
</r>
`);
  });

  test("parts in parts become a flat list with the code of the part above, and go back", async () => {
    const flat = await reshaped(NESTED, nested, coded("sheet: { titles: { upper: parent, lantern: lanterns, path: '' } },"));
    expect((JSON.parse(flat) as { parts: object[] }).parts).toEqual([
      { id: "P-01", lantern: "L-1", name: "Optics" },
      { id: "P-02", name: "Lens", upper: "P-01" },
      { id: "P-03", name: "Lamp", upper: "P-01" },
      { id: "P-04", name: "Bulb", upper: "P-03", qty: 2 },
      { id: "P-05", lantern: "L-2", name: "Optics" },
    ]);
    const back = `${head("json", "n.json")}${lanterns}  parts: { rows: lanterns/parts, inside: lanterns, tree: parts, key: id, label: name, sheet: { titles: { parent: upper, lanterns: lantern, path: "" } }, columns: { name: name, qty: qty, id: id } }\n`;
    const made = JSON.parse(await reshaped(flat, coded(""), back)) as { lanterns: object[] };
    const bare = JSON.stringify(made).replace(/,?"id":"P-\d\d",?/g, (match) => (match.startsWith(",") && match.endsWith(",") ? "," : ""));
    expect(JSON.parse(bare)).toEqual(JSON.parse(NESTED));
  });

  test("lists of codes become records between the two, and a cross table elements of XML", async () => {
    const source =
      '{"people": [{"id": "P-1"}, {"id": "P-2"}], "stations": [{"code": "S-1", "crew": ["P-1", "P-2"]}, {"code": "S-2", "crew": ["P-2"]}]}';
    const people =
      "  people: { rows: people, key: id, columns: { id: id } }\n  stations: { rows: stations, key: code, columns: { code: code } }\n";
    const from = (layout: string): string =>
      `${head("json", "a.json")}${people}  links: { rows: stations/crew, inside: stations, ${layout} columns: { person: { at: ., refers: people } } }\n`;
    const to = (sheet: string): string =>
      `${head("xml", "x.xml")}  people: { rows: r/person, key: id, columns: { id: "@id" } }\n  stations: { rows: r/station, key: code, columns: { code: "@code" } }\n  links: { rows: r/link, ${sheet} columns: { station: { at: "@station", refers: stations }, person: { at: "@person", refers: people } } }\n`;
    const links = ["S-1 P-1", "S-1 P-2", "S-2 P-2"].map((link) => `  <link station="${link.replace(" ", '" person="')}"/>\n`).join("");
    expect(await reshaped(source, from(""), to("sheet: { titles: { station: stations } },"))).toContain(links);
    const cross = "cross: { down: station, across: person },";
    const crossed = await reshaped(
      source,
      from("cross: { down: stations, across: person },"),
      to(`${cross} sheet: { titles: { station: stations } },`),
    );
    expect(crossed).toContain(links);
  });
});
