// Writes the figures of docs/layouts.md: each layout hatched, edited and folded by the library itself.
// `node scripts/write-layouts.mjs --check` says whether the page shows what the library does.
import { readFileSync, writeFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { parse } from "csv-parse/sync";
import { stringify } from "csv-stringify/sync";
import { fold, hatch } from "hatch-fold";

const PAGE = fileURLToPath(new URL("../docs/layouts.md", import.meta.url));

/** The six records: who is in the crew of which station, as what. */
const CREWS = [
  ["S-01", ["P-1", "keeper"], ["P-2", "cook"]],
  ["S-02", ["P-1", "relief"]],
  ["S-03", ["P-3", "keeper"], ["P-4", null], ["P-5", "cook"]],
];
const PEOPLE = ["P-1", "P-2", "P-3", "P-4", "P-5", "P-9"];
const links = CREWS.flatMap(([code, ...crew]) => crew.map(([id, role]) => ({ code, id, role })));
const lines = (name, items) => `  "${name}": [\n${items.map((item) => `    ${spaced(item)}`).join(",\n")}\n  ]`;
const file = (...lists) => `{\n${lists.map(([name, items]) => lines(name, items)).join(",\n")}\n}\n`;

/** JSON in one line, with spaces where a person has them. */
function spaced(value) {
  if (Array.isArray(value)) return value.length === 0 ? "[]" : `[ ${value.map(spaced).join(", ")} ]`;
  if (value === null || typeof value !== "object") return JSON.stringify(value);
  return `{ ${Object.entries(value)
    .map(([name, one]) => `${JSON.stringify(name)}: ${spaced(one)}`)
    .join(", ")} }`;
}

const withRole = ({ id, role }) => (role === null ? { id } : { id, role });
const stations = CREWS.map(([code, ...crew]) => ({ code, crew: crew.map(([id, role]) => withRole({ id, role })) }));
const NESTED = file(["stations", stations]);
const KEYED = file([
  "stations",
  CREWS.map(([code, ...crew]) => ({ code, crew: Object.fromEntries(crew.map(([id, role]) => [id, role ?? ""])) })),
]);
const MIRRORED = file(
  ["stations", CREWS.map(([code, ...crew]) => ({ code, crew: crew.map(([id]) => id) }))],
  ["people", PEOPLE.map((id) => ({ id, stations: links.filter((link) => link.id === id).map(({ code }) => code) }))],
);
const LINKED = file(
  ["stations", CREWS.map(([code]) => ({ code }))],
  ["people", PEOPLE.map((id) => ({ id }))],
  ["postings", links.map(({ code, id, role }) => ({ station: code, person: id, ...(role === null ? {} : { role }) }))],
);
const TREE = file([
  "places",
  CREWS.map(([code, ...crew]) => ({ name: code, below: crew.map(([id, role]) => ({ name: id, ...(role === null ? {} : { role }) })) })),
]);
const flatTree = (says) =>
  file([
    "places",
    CREWS.flatMap(([code, ...crew]) => [
      { ...says([code]), name: code },
      ...crew.map(([id, role]) => ({ ...says([code, id]), name: id, ...(role === null ? {} : { role }) })),
    ]),
  ]);

const STATIONS = "stations: { rows: stations, key: code, columns: { code: code } }";
const inStations = (cells) => `stations: { rows: stations, key: code, columns: { code: code, ${cells} } }`;
const crew = (word) => `crew: { rows: stations/crew, inside: stations,${word} columns: { id: id, role: role } }`;
const tree = (words, columns) => `places: { rows: places, ${words}, columns: { ${columns}name: name, role: role } }`;

/** Sheet by title: what is written into a row that is found by its cells, or into a new one behind it. */
const cell = (found, title, value) => ({ found, cells: { [title]: value } });
const behind = (found, cells) => ({ found, cells, fresh: true });
const JOINS = { id: "P-9", role: "boatman" };

/** Name of the figure: the source, the tables of the plan, the sheet that is shown, and the edit of it. */
const FIGURES = {
  own: [NESTED, [STATIONS, crew("")], "crew", behind({ id: "P-2" }, { stations: "S-01", ...JOINS })],
  beneath: [NESTED, [STATIONS, crew(" beneath: true,")], "stations", behind({ id: "P-2" }, JOINS)],
  repeat: [NESTED, [STATIONS, crew(" repeat: true,")], "stations", behind({ id: "P-2" }, { code: "S-01", ...JOINS })],
  pack: [
    NESTED,
    [inStations('ids: { at: crew/id, pack: "; " }, roles: { at: crew/role, pack: "; " }')],
    "stations",
    { found: { code: "S-01" }, cells: { ids: "P-1; P-9; P-2", roles: "keeper; boatman; cook" } },
  ],
  spread: [
    NESTED,
    [inStations("id: { at: crew/id, spread: 3 }, role: { at: crew/role, spread: 3 }")],
    "stations",
    { found: { code: "S-01" }, cells: { "id 3": "P-9", "role 3": "boatman" } },
  ],
  pair: [
    KEYED,
    [inStations('crew: { at: crew, pack: ", ", pair: "=" }')],
    "stations",
    cell({ code: "S-01" }, "crew", "P-1=keeper, P-2=cook, P-9=boatman"),
  ],
  verbatim: [
    NESTED,
    [inStations("crew: crew")],
    "stations",
    cell({ code: "S-02" }, "crew", '[ { "id": "P-1", "role": "relief" }, { "id": "P-9", "role": "boatman" } ]'),
  ],
  mirror: [
    MIRRORED,
    [
      inStations('crew: { at: crew, pack: ", ", refers: people, mirror: stations }'),
      'people: { rows: people, key: id, columns: { id: id, stations: { at: stations, pack: ", ", refers: stations } } }',
    ],
    "stations",
    cell({ code: "S-01" }, "crew", "P-1, P-2, P-9"),
  ],
  cross: [
    LINKED,
    [
      STATIONS,
      "people: { rows: people, key: id, columns: { id: id } }",
      "postings: { rows: postings, cross: { down: station, across: person, cell: role }, columns: { station: { at: station, refers: stations }, person: { at: person, refers: people }, role: role } }",
    ],
    "postings",
    cell({ station: "S-01" }, "P-9", "boatman"),
  ],
  tree: [TREE, [tree("tree: below, label: name", "")], "places", behind({ name: "P-2" }, { path: "S-01/P-9", role: "boatman" })],
  "tree-parent": [
    flatTree(([code, id]) => (id === undefined ? {} : { at: code })),
    [tree("tree: { parent: at }, key: name", "at: at, ")],
    "places",
    behind({ name: "P-2" }, { path: "S-01/P-9", role: "boatman", name: "P-9" }),
  ],
  "tree-path": [
    flatTree((names) => ({ way: names.join("/") })),
    [tree("tree: { path: way }, label: name", "way: way, ")],
    "places",
    behind({ name: "P-2" }, { way: "S-01/P-9", role: "boatman" }),
  ],
  "tree-depth": [
    flatTree((names) => ({ level: names.length })),
    [tree("tree: { depth: level }, label: name", "level: level, ")],
    "places",
    behind({ name: "P-2" }, { path: "S-01/P-9", role: "boatman" }),
  ],
};

const decode = (bytes) => new TextDecoder().decode(bytes);
const escaped = (text) => text.replaceAll("&", "&amp;").replaceAll("<", "&lt;");

/** Rows as columns of equal width; what changed is bold. */
function drawn(rows, before) {
  const widths = rows[0].map((_, c) => Math.max(...rows.map((row) => [...row[c]].length)));
  const known = new Set(before.map((row) => row.join("\n")));
  return rows
    .map((row) => {
      const line = escaped(
        row
          .map((one, c) => one.padEnd(widths[c]))
          .join("  ")
          .trimEnd(),
      );
      return known.has(row.join("\n")) ? line : `<b>${line}</b>`;
    })
    .join("\n");
}

/** Lines of the file that change: as they were, and as they are. */
function changed(before, after) {
  const [old, now] = [before, after].map((text) => text.split("\n"));
  return [
    ...old.filter((line) => !now.includes(line)).map((line) => `- ${line.trim()}`),
    ...now.filter((line) => !old.includes(line)).map((line) => `+ ${line.trim()}`),
  ];
}

async function figure([source, tablesOfPlan, name, edit]) {
  const plan = `hatchfold: 1\nsources: { s: { file: crews.json, format: json } }\ntables:\n${tablesOfPlan.map((one) => `  ${one}\n`).join("")}`;
  const { tables } = await hatch(source, { plan });
  const sheet = `${name}.csv`;
  const before = parse(tables.contents.get(sheet), { bom: true });
  const [titles] = before;
  const after = before.map((row) => [...row]);
  const at = after.findIndex(
    (row, i) => i > 0 && Object.entries(edit.found).every(([title, value]) => row[titles.indexOf(title)] === value),
  );
  const target = edit.fresh ? titles.map(() => "") : after[at];
  for (const [title, value] of Object.entries(edit.cells)) target[titles.indexOf(title)] = value;
  if (edit.fresh) after.splice(at + 1, 0, target);
  tables.contents.set(sheet, new TextEncoder().encode(stringify(after)));
  const folded = decode((await fold(tables, { source })).bytes);
  const again = parse((await hatch(folded, { plan })).tables.contents.get(sheet), { bom: true });
  return [
    "```yaml",
    ...tablesOfPlan,
    "```",
    "",
    `<table><tr><th>${sheet}, hatched</th><th>edited</th></tr><tr><td><pre>`,
    drawn(before, before),
    "</pre></td><td><pre>",
    drawn(after, before),
    "</pre></td></tr></table>",
    "",
    "```diff",
    ...changed(source, folded),
    "```",
    ...(again.length === after.length ? [] : [`(${again.length - 1} rows, when it is hatched again)`]),
  ].join("\n");
}

const page = readFileSync(PAGE, "utf8");
const figures = new Map();
for (const [name, one] of Object.entries(FIGURES)) figures.set(name, await figure(one));
figures.set("source", ["```json", NESTED.trimEnd(), "```"].join("\n"));
const missing = [...figures.keys()].filter((name) => !page.includes(`<!-- figure ${name} -->`));
if (missing.length > 0) throw new Error(`docs/layouts.md has no place for: ${missing.join(", ")}`);
const written = page.replace(
  /<!-- figure ([\w-]+) -->\n[\s\S]*?<!-- end -->/g,
  (_, name) => `<!-- figure ${name} -->\n\n${figures.get(name)}\n\n<!-- end -->`,
);
if (process.argv.includes("--check")) {
  if (written !== page)
    throw new Error("docs/layouts.md does not show what the library does: node scripts/write-layouts.mjs writes it anew");
} else writeFileSync(PAGE, written);
