/** The laws for formats made of lines, read with the settings that are guessed. */
import { parse } from "csv-parse/sync";
import { describe, expect } from "vitest";
import { describeLaws, type World } from "../support/laws.js";
import { anyLines, blockDocs, contentDocs, delimitedDocs, fixedDocs, groupDocs, segmentDocs, taggedDocs } from "../support/line-docs.js";

const VALUES = {
  any: ["word", "12", ""],
  text: ["new", "Ærø", "x7", "(null)", "'=x", "", "a long text that may not fit anywhere at all"],
  date: ["2001-02-03", ""],
};

const GROUPS: readonly (readonly [name: string, delimiter: string | null, settings: string])[] = [
  [
    "groups.dat",
    null,
    `{ format: fixed, layout: { records: { station: { fields: { code: 1-4, name: 5-12, lamps: { at: 13-22, times: 3, fields: { kind: 1-5, hours: { at: 6-9, align: right }, flag: 10 } }, end: 43-45 } } } } }`,
  ],
  [
    "groups.csv",
    ";",
    `{ format: delimited, delimiter: ";", header: 0, groups: { lamps: { from: 3, times: 3, fields: [kind, hours, flag] } } }`,
  ],
  [
    "groups.txt",
    "|",
    `{ format: tagged, layout: { delimiter: "|", records: { "station": { fields: [code, name, { name: lamps, times: 3, fields: [kind, hours, flag] }, end] } } } }`,
  ],
];

/** Lines with groups of fields, one of which no column shows. */
const groupWorld = ([name, delimiter, settings]: (typeof GROUPS)[number]): World => {
  const rows = name.endsWith(".txt") ? "station" : ".";
  const lamps = name.endsWith(".txt") ? "station/lamps" : "lamps";
  const columns = name.endsWith(".csv") ? `code: "column 1", name: "column 2"` : "code: code, name: name";
  return {
    name,
    anything: groupDocs(delimiter),
    records: groupDocs(delimiter),
    values: { ...VALUES, any: ["word", "12", "7", ""], text: ["new", "Ærø", "x7", "(null)", "", "12"] },
    slack: 40,
    plan: `hatchfold: 1
sources: { s: { file: ${name}, ${settings.slice(2, -2)} } }
tables:
  stations: { rows: ${rows}, key: code, columns: { ${columns} } }
  lamps: { rows: ${lamps}, inside: stations, columns: { kind: kind, hours: hours } }
`,
    wellFormed: (text) => expect(text).toBeDefined(),
  };
};

const WORLDS: readonly World[] = [
  ...GROUPS.map(groupWorld),
  {
    name: "lights.csv",
    anything: delimitedDocs,
    records: delimitedDocs,
    values: { ...VALUES, text: [...VALUES.text, "#x", "// y", 'Ærø, "x"; y', " lead", "two\nlines", "((null))"] },

    slack: 16,
    wellFormed: (text) => {
      const delimiter = [",", ";", "\t", "|"].find((one) => text.includes(one)) ?? ",";
      expect(
        parse(text, {
          delimiter: [delimiter],
          bom: true,
          relax_column_count: true,
          relax_quotes: true,
          record_delimiter: ["\r\n", "\n", "\r"],
        }).length,
      ).toBeGreaterThan(0);
    },
  },
  {
    name: "orders.txt",
    anything: taggedDocs,
    records: taggedDocs,
    values: VALUES,

    slack: 16,
    wellFormed: (text) => expect(text).toMatch(/^(?:(?:ORD|TSK|END).*|#.*|)(?:\r?\n(?:(?:ORD|TSK|END).*|#.*|))*$/),
  },
  {
    name: "stores.dat",
    anything: fixedDocs,
    records: fixedDocs,
    values: VALUES,

    slack: 90,
    wellFormed: (text) => expect(text).toMatch(/^(?:0[12389].*|)(?:\r?\n(?:0[12389].*|))*$/),
  },
  {
    name: "stocks.edi",
    anything: segmentDocs,
    records: segmentDocs,
    values: { ...VALUES, text: ["new", "Ærø", "(null)", "it's a+b: c?", "", "a*b~c|d;e>f!g", "x7"] },
    slack: 90,
    wellFormed: (text) => {
      const [, parts, delimiter, , release, , end] = /^UNA(.)(.)(.)(.)(.)(.)/.exec(text)!;
      expect(new Set([parts, delimiter, release, end]).size).toBe(4);
      expect(text.trimEnd().endsWith(end)).toBe(true);
    },
  },
  {
    name: "cards.vcf",
    anything: contentDocs,
    records: contentDocs,
    values: {
      ...VALUES,
      text: [
        "new",
        "Ærø",
        "(null)",
        "a, b; c\\d",
        "",
        "x7",
        "a text that is so long that it has to be folded into two lines, or three of them, wherever it stands",
      ],
    },
    slack: 120,
    wellFormed: (text) => expect(text).toMatch(/^(?:(?:[\w.-]+(?:;[^:\r\n]*)?:.*|[ \t].*|)(?:\r?\n|$))*$/),
  },
  {
    name: "cards.ini",
    anything: blockDocs,
    records: blockDocs,
    values: { ...VALUES, text: ["new", "Ærø", "(null)", "two\nlines", "", " lead"] },
    slack: 24,
    wellFormed: (text) => expect(text).toMatch(/^(?:(?:[\w ]+[:=].*|\[.*\]|[ \t].*|#.*|)(?:\r?\n|$))*$/),
  },
  {
    name: "anything.txt",
    anything: anyLines,
    records: anyLines,
    values: VALUES,

    slack: 90,
    wellFormed: (text) => expect(text).toBeDefined(),
  },
];

// all of them are read and written by the same code, but for where their fields stand
describe.each(WORLDS)("$name", (world) => describeLaws({ ...world, share: 0.5 }));
