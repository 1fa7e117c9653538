/** Schemas of the owner's: what a fold would give and they do not allow is a problem of the rows that cause it. */
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, test } from "vitest";
import { compare, draft, fold, hatch, RowTables, type MemoryTables } from "hatch-fold";
import { freshFolder, inProcess } from "./support/cli.js";
import { copyTables, edit, readRows, setCell, text } from "./support/sheets.js";

const XML = `<?xml version="1.0" encoding="UTF-8"?>
<!-- lights <of> the coast -->
<lights>
  <station code="S-1"><name>Ærø</name><kind>tower</kind><lamp no="1"/><lamp no="2"/></station>
  <station code="S-2"><name>Bø</name><mast>9</mast><lamp no="1"/></station>
  <station code="S-3"><name>Old</name><kind>ruin</kind><lamp no="1"/></station>
</lights>
`;
const XSD = `<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema">
  <xs:simpleType name="kind"><xs:restriction base="xs:string"><xs:enumeration value="tower"/><xs:enumeration value="hut"/></xs:restriction></xs:simpleType>
  <xs:element name="lights"><xs:complexType><xs:sequence><xs:element name="station" maxOccurs="unbounded"><xs:complexType>
    <xs:sequence>
      <xs:element name="name" type="xs:string"/>
      <xs:choice><xs:element name="kind" type="kind"/><xs:element name="mast" type="xs:integer"/></xs:choice>
      <xs:element name="lamp" maxOccurs="3"><xs:complexType><xs:attribute name="no" type="xs:integer" use="required"/></xs:complexType></xs:element>
    </xs:sequence>
    <xs:attribute name="code" use="required"/>
  </xs:complexType></xs:element></xs:sequence></xs:complexType>
  <xs:key name="codes"><xs:selector xpath="station"/><xs:field xpath="@code"/></xs:key></xs:element>
</xs:schema>`;
const XML_PLAN = `hatchfold: 1
sources: { s: { file: lights.xml } }
tables:
  stations: { rows: lights/station, columns: { code: "@code", name: name, kind: kind, mast: mast } }
  lamps: { rows: lights/station/lamp, inside: stations, columns: { no: "@no" } }
`;

const JSON_SOURCE = `{"stations": [
  {"code": "S-1", "name": "Ærø", "kind": "tower", "lamps": [{"no": 1}, {"no": 2}]},
  {"code": "S-2", "name": "Bø", "mast": 9, "lamps": [{"no": 1}]},
  {"code": "S-3", "name": "Old", "kind": "ruin", "lamps": [{"no": 1}]}
]}
`;
const JSON_SCHEMA = JSON.stringify({
  $schema: "https://json-schema.org/draft/2020-12/schema",
  properties: {
    stations: {
      type: "array",
      items: {
        type: "object",
        required: ["code", "name"],
        additionalProperties: false,
        oneOf: [{ required: ["kind"] }, { required: ["mast"] }],
        properties: {
          code: { type: "string", pattern: "^S-[0-9]+$" },
          name: { type: "string" },
          kind: { enum: ["tower", "hut"] },
          mast: { type: "integer", maximum: 40 },
          lamps: {
            type: "array",
            minItems: 1,
            maxItems: 3,
            uniqueItems: true,
            items: { properties: { no: { type: "integer" } }, required: ["no"] },
          },
        },
      },
    },
  },
});
const JSON_PLAN = `hatchfold: 1
sources: { s: { file: lights.json } }
tables:
  stations: { rows: stations, columns: { code: code, name: name, kind: kind, mast: mast } }
  lamps: { rows: stations/lamps, inside: stations, columns: { no: no } }
`;

type Edits = readonly (readonly [file: string, row: number, title: string, value: string])[];
interface World {
  readonly name: string;
  readonly source: string;
  readonly plan: string;
  readonly schema: string;
}
const WORLDS: Record<"xml" | "json" | "jsonl", World> = {
  xml: { name: "lights.xml", source: XML, plan: XML_PLAN, schema: XSD },
  json: { name: "lights.json", source: JSON_SOURCE, plan: JSON_PLAN, schema: JSON_SCHEMA },
  jsonl: {
    name: "lights.jsonl",
    source: JSON_SOURCE.split("\n")
      .slice(1, 4)
      .map((line) => `${line.trim().replace(/,$/, "")}\n`)
      .join(""),
    plan: JSON_PLAN.replaceAll("rows: stations/lamps", "rows: lamps")
      .replace("rows: stations,", "rows: ., ")
      .replace("lights.json", "lights.jsonl"),
    schema: JSON.stringify({
      type: "array",
      items: (JSON.parse(JSON_SCHEMA) as { properties: { stations: { items: object } } }).properties.stations.items,
    }),
  },
};

const given = ({ source, name }: World): { source: string; name: string } => ({ source, name });

const edited = async ({ source, plan, name, schema }: World, edits: Edits): Promise<MemoryTables> => {
  const { tables } = await hatch(source, { plan, name, schema });
  for (const [file, row, title, value] of edits) setCell(tables, file, row, title, value);
  return tables;
};

describe.each<[keyof typeof WORLDS, string, Edits, string[]]>([
  [
    "xml",
    "a word that is not one of them",
    [["stations.csv", 2, "kind", "house"]],
    ["stations 2 : Element 'kind': [facet 'enumeration'] The value 'house' is not an element of the set {'tower', 'hut'}"],
  ],
  [
    "xml",
    "both of a choice",
    [["stations.csv", 2, "mast", "4"]],
    ["stations 2 : Element 'kind': This element is not expected. Expected is ( lamp )"],
  ],
  [
    "xml",
    "none of a choice",
    [["stations.csv", 2, "kind", ""]],
    ["stations 2 : Element 'lamp': This element is not expected. Expected is one of ( kind, mast )"],
  ],
  [
    "xml",
    "a sequence without its first",
    [["stations.csv", 3, "name", ""]],
    ["stations 3 : Element 'mast': This element is not expected. Expected is ( name )"],
  ],
  [
    "xml",
    "a key that another has",
    [["stations.csv", 3, "code", "S-1"]],
    ["stations 3 : Element 'station': Duplicate key-sequence ['S-1'] in key identity-constraint 'codes'"],
  ],
  [
    "xml",
    "too few inside",
    [["lamps.csv", 4, "fold action", "remove"]],
    ["lamps 4 : Element 'station': Missing child element(s). Expected is ( lamp )"],
  ],
  [
    "xml",
    "no number",
    [["lamps.csv", 3, "no", "two"]],
    ["lamps 3 : Element 'lamp', attribute 'no': 'two' is not a valid value of the atomic type 'xs:integer'"],
  ],
  ["xml", "what was wrong before", [["stations.csv", 4, "name", "Older"]], []],
  [
    "json",
    "a word that is not one of them",
    [["stations.csv", 2, "kind", "house"]],
    ['stations 2 kind: kind ("house") must be equal to one of the allowed values: "tower", "hut"'],
  ],
  ["json", "both of a choice", [["stations.csv", 2, "mast", "4"]], ["stations 2 : must match exactly one schema in oneOf"]],
  ["json", "a pattern", [["stations.csv", 3, "code", "Q-2"]], ['stations 3 code: code ("Q-2") must match pattern "^S-[0-9]+$"']],
  ["json", "what must be there", [["stations.csv", 3, "name", ""]], ["stations 3 : must have required property 'name'"]],
  ["json", "too few inside", [["lamps.csv", 4, "fold action", "remove"]], ["lamps 4 : lamps must NOT have fewer than 1 items"]],
  [
    "json",
    "twice the same inside",
    [["lamps.csv", 3, "no", "1"]],
    ["lamps 3 : lamps must NOT have duplicate items (items ## 0 and 1 are identical)"],
  ],
  ["json", "another type", [["lamps.csv", 3, "no", "1.5"]], ["lamps 3 no: no (1.5) must be integer"]],
  ["json", "what was wrong before", [["stations.csv", 4, "name", "Older"]], []],
  ["jsonl", "a line", [["stations.csv", 3, "mast", "41"]], ["stations 3 mast: mast (41) must be <= 40"]],
])("%s", (format, what, edits, expected) => {
  test(what, async () => {
    const world = WORLDS[format];
    const { problems } = await compare(await edited(world, edits), given(world));
    expect(problems.map(({ table, row, column, facts }) => `${table} ${row} ${column}: ${facts.what as string}`)).toEqual(expected);
  });
});

describe.each(["xml", "json"] as const)("%s", (format) => {
  const world = WORLDS[format];
  test("a new row is told of, and good rows are folded without it; mended, it comes", async () => {
    const tables = await edited(world, [["stations.csv", 2, "name", "Aero"]]);
    edit(tables, "stations.csv", (rows) => [...rows, ["+a", "", "S-9", "New", "house", ""]]);
    edit(tables, "lamps.csv", (rows) => [...rows, ["", "", "+a", "1"], ["", "", rows[3][2], "2"]]);
    const refused = new RowTables();
    const good = await fold(copyTables(tables), { ...given(world), partial: true, refused });
    expect(text(good.bytes)).toBe(
      world.source.replace("Ærø", "Aero").replace(/(Bø.*)(\]\}|<\/station>)/, format === "json" ? '$1, {"no": 2}$2' : '$1<lamp no="2"/>$2'),
    );
    expect(refused.rows("stations")).toMatchObject([{ code: "S-9", "fold problem": expect.stringContaining("house") as unknown }]);
    const mended = refused.with({
      stations: refused.rows("stations").map((row) => ({ ...row, kind: "hut" })),
      lamps: refused.rows("lamps"),
    });
    const { bytes, counts } = await fold(mended, { ...given(world), source: good.bytes });
    expect([counts.added, text(bytes)]).toEqual([2, expect.stringMatching(/S-9[^]*New[^]*hut/) as unknown]);
  });

  test("a schema that cannot be read, and one for a format without", async () => {
    await expect(compare(await edited({ ...world, schema: "<" }, [["stations.csv", 2, "name", "A"]]), given(world))).rejects.toMatchObject({
      code: "schema-broken",
    });
    await expect(hatch("a,b\n1,2\n", { name: "s.csv", schema: world.schema })).rejects.toMatchObject({ code: "schema-format" });
    const plan = "hatchfold: 1\nsources: { s: { file: s.csv } }\ntables: { s: { rows: ., columns: { a: a, b: b } } }\n";
    const { tables } = await hatch("a,b\n1,2\n", { name: "s.csv", plan, schema: world.schema });
    setCell(tables, "s.csv", 2, "b", "3");
    await expect(compare(tables, { source: "a,b\n1,2\n", name: "s.csv" })).rejects.toMatchObject({ code: "schema-format" });
  });
});

test("of changes that are right together alone, some are not folded", async () => {
  const tables = await edited(WORLDS.json, [
    ["lamps.csv", 2, "no", "2"],
    ["lamps.csv", 3, "no", "3"],
  ]);
  const review = await compare(tables, given(WORLDS.json));
  expect(review.problems).toEqual([]);
  await expect(review.fold({ only: ({ row }) => row === 2 })).rejects.toMatchObject({
    code: "problems-left",
    problems: [{ code: "schema-fault", row: 2 }],
  });
  expect(text((await review.fold({ only: ({ row }) => row === 3 })).bytes)).toBe(JSON_SOURCE.replace('{"no": 2}', '{"no": 3}'));
  expect(text((await review.fold()).bytes)).toBe(JSON_SOURCE.replace('{"no": 1}, {"no": 2}', '{"no": 2}, {"no": 3}'));
});

test("a schema is no way to files that nobody named", async () => {
  const folder = freshFolder();
  mkdirSync(join(folder, "in"));
  writeFileSync(join(folder, "in/lights.xml"), XML);
  writeFileSync(join(folder, "secret.txt"), "not to be read");
  writeFileSync(join(folder, "in/lights.xsd"), XSD.replace("<xs:simpleType", '<xs:include schemaLocation="../secret.txt"/><xs:simpleType'));
  const { status, err } = await inProcess(join(folder, "in"), ["hatch", "lights.xml", "-o", "t", "--schema", "lights.xsd"]);
  expect([status, err]).toEqual([2, expect.stringContaining("the schema names a file that is not near") as unknown]);
});

test("the command line takes the schema that the plan names, and the files that it includes", async () => {
  const folder = freshFolder();
  mkdirSync(join(folder, "xsd"));
  const put = (file: string, content: string): void => writeFileSync(join(folder, file), content);
  const [head, types, ...rest] = XSD.split("\n");
  put("lights.xml", XML);
  put("xsd/lights.xsd", [head, '  <xs:include schemaLocation="types/kinds.xsd"/>', ...rest].join("\n"));
  mkdirSync(join(folder, "xsd/types"));
  put("xsd/types/kinds.xsd", `${head}\n${types}\n</xs:schema>`);
  put("plan.yaml", XML_PLAN.replace("lights.xml }", "lights.xml, schema: xsd/lights.xsd }"));
  const run = (...args: string[]): ReturnType<typeof inProcess> => inProcess(folder, args);
  expect((await run("hatch", "-p", "plan.yaml", "-o", "t")).status).toBe(0);
  put("t/stations.csv", readFileSync(join(folder, "t/stations.csv"), "utf8").replace("tower", "house"));
  expect((await run("check", "t")).out).toContain("'house' is not an element of the set {'tower', 'hut'}");
  expect(await run("fold", "t", "--in-place")).toMatchObject({ status: 1 });
  put("t/stations.csv", readFileSync(join(folder, "t/stations.csv"), "utf8").replace("house", "hut"));
  expect(await run("fold", "t", "--in-place", "--renew")).toMatchObject({ status: 0 });
  expect((await run("check", "t")).status).toBe(0);
  put("t/stations.csv", readFileSync(join(folder, "t/stations.csv"), "utf8").replace("hut", "house"));
  expect((await run("check", "t")).status).toBe(1);
});

describe("a draft by a schema", () => {
  const xsd = XSD.replace(
    '<xs:choice><xs:element name="kind" type="kind"/><xs:element name="mast" type="xs:integer"/></xs:choice>',
    `
      <xs:element name="built" minOccurs="0"><xs:complexType><xs:sequence><xs:element name="day" type="xs:date"/></xs:sequence></xs:complexType></xs:element>
      <xs:element name="mast" minOccurs="0"><xs:simpleType><xs:restriction base="xs:decimal"><xs:minInclusive value="0.5"/><xs:maxInclusive value="40"/></xs:restriction></xs:simpleType></xs:element>
      <xs:element name="kind" type="kind" minOccurs="0"/>`,
  );
  const source = `<lights>\n  <station code="S-1"><name>Bø</name><lamp no="1"/></station>\n  <station code="S-2"><name>Ærø</name><lamp no="1"/><lamp no="2"/></station>\n</lights>\n`;
  const schema = JSON.stringify({
    properties: {
      stations: {
        items: {
          allOf: [{ $ref: "#/$defs/named" }],
          properties: {
            built: { properties: { day: { type: "string", format: "date" } }, required: ["day"] },
            mast: { type: "number", minimum: 0.5, maximum: 40 },
            kind: { enum: ["tower", "hut"] },
            lamps: { items: { properties: { no: { type: "integer" } } } },
          },
        },
      },
    },
    $defs: {
      named: {
        properties: { code: { type: "string", pattern: "^S-", maxLength: 9 }, name: { type: "string" } },
        required: ["code", "name"],
      },
    },
  });
  const json = '{"stations": [\n  {"code": "S-1", "name": "Bø", "lamps": [{"no": 1}]}\n]}\n';

  test("XML: fields that no record has are columns, in the order of the schema, and come where it wants them", async () => {
    const { plan } = await draft(source, { name: "lights.xml", schema: xsd, schemaFile: "lights.xsd" });
    expect(plan).toContain("    schema: lights.xsd\n");
    expect(plan).toContain(`      code: { at: "@code", type: text, required: true }
      name: { at: name, type: text, required: true }
      built/day: { at: built/day, type: date }
      mast: { at: mast, type: decimal, minimum: 0.5, maximum: 40 }
      kind: { at: kind, choices: { tower: tower, hut: hut } }
`);
    const { tables } = await hatch(source, { plan, name: "lights.xml", schema: xsd });
    setCell(tables, "station.csv", 2, "kind", "hut");
    setCell(tables, "station.csv", 2, "built/day", "1911-04-13");
    setCell(tables, "station.csv", 2, "mast", "9.5");
    expect(text((await fold(tables, { source, name: "lights.xml" })).bytes)).toBe(
      source.replace("Bø</name>", "Bø</name><built><day>1911-04-13</day></built><mast>9.5</mast><kind>hut</kind>"),
    );
    setCell(tables, "station.csv", 2, "mast", "40.1");
    expect((await compare(tables, { source, name: "lights.xml" })).problems.map(({ code }) => code)).toEqual(["rule-maximum"]);
  });

  test("JSON: the same", async () => {
    const { plan } = await draft(json, { name: "lights.json", schema });
    expect(plan).toContain(`      code: { at: code, type: text, required: true, max-length: 9, pattern: S-.* }
      name: { at: name, type: text, required: true }
`);
    expect(plan).toContain(`      built/day: { at: built/day, type: date }
      mast: { at: mast, type: number, minimum: 0.5, maximum: 40 }
      kind: { at: kind, choices: { tower: tower, hut: hut } }
`);
    const { tables } = await hatch(json, { plan, name: "lights.json", schema });
    setCell(tables, "stations.csv", 2, "built/day", "1911-04-13");
    const { bytes } = await fold(tables, { source: json, name: "lights.json" });
    expect(JSON.parse(text(bytes))).toEqual({ stations: [{ code: "S-1", name: "Bø", built: { day: "1911-04-13" }, lamps: [{ no: 1 }] }] });
  });

  test("XML: what may come again is a list, also where it stands once, or nowhere", async () => {
    const one = '<lights>\n  <station code="S-1"><name>Bø</name></station>\n</lights>\n';
    const { plan } = await draft(one, { name: "lights.xml", schema: xsd });
    expect(plan).toMatch(/# 1 record\n {2}station:\n {4}rows: lights\/station\n {4}columns:\n {6}code: /);
    expect(plan).toMatch(/ {2}lamp:\n {4}rows: lights\/station\/lamp\n {4}inside: station\n {4}columns:\n {6}no: /);
    const { tables } = await hatch(one, { name: "lights.xml", schema: xsd });
    edit(tables, "station.csv", (rows, titles) => [
      ...rows,
      titles.map((title) => ({ "fold mark": "+s", code: "S-2", name: "Ærø" })[title] ?? ""),
    ]);
    edit(tables, "lamp.csv", (rows, titles) => [...rows, titles.map((title) => ({ station: "+s", no: "1" })[title] ?? "")]);
    expect(text((await fold(tables, { source: one, name: "lights.xml" })).bytes)).toBe(
      one.replace("</station>", '</station>\n  <station code="S-2"><name>Ærø</name><lamp no="1"/></station>'),
    );
  });

  test("JSON: lists that no record has yet are tables, also in one another", async () => {
    const lamps = {
      items: {
        properties: { no: { type: "integer" }, tags: { items: { type: "string" } }, lamps: { $ref: "#/properties/keepers" } },
      },
    };
    const nested = JSON.stringify({ properties: { stations: { items: { properties: { code: {}, lamps } } }, keepers: lamps } });
    const source = '{"stations": [{"code": "S-1"}]}';
    const { plan, tables } = await hatch(source, { name: "lights.json", schema: nested });
    expect(plan.tables.map(({ name, inside, columns }) => [name, inside, columns.map(({ title }) => title)])).toEqual([
      ["stations", undefined, ["code"]],
      ["lamps", "stations", ["no"]],
      ["tags", "lamps", ["value"]],
      ["keepers", undefined, ["no"]],
      ["keepers tags", "keepers", ["value"]],
      ["keepers lamps", "keepers", ["no"]],
      ["keepers lamps tags", "keepers lamps", ["value"]],
    ]);
    const add = (file: string, cells: Record<string, string>): void =>
      void edit(tables, file, (rows, titles) => [...rows, titles.map((title) => cells[title] ?? "")]);
    add("lamps.csv", { "fold mark": "+l", stations: readRows(tables, "stations.csv")[1][0], no: "5" });
    add("tags.csv", { lamps: "+l", value: "red" });
    add("keepers.csv", { no: "7" });
    const { bytes } = await fold(tables, { source, name: "lights.json" });
    expect(JSON.parse(text(bytes))).toEqual({
      stations: [{ code: "S-1", lamps: [{ no: 5, tags: ["red"] }] }],
      keepers: [{ no: 7 }],
    });
  });

  test("what is no schema", async () => {
    await expect(draft(json, { name: "lights.json", schema: "{" })).rejects.toMatchObject({ code: "schema-broken" });
    await expect(draft("a,b\n1,2\n", { name: "s.csv", schema })).rejects.toMatchObject({ code: "schema-format" });
  });
});
