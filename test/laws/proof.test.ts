/**
 * Law 8: with faults planted in what writes, no fold gives a file that says something else. What the files say is judged by
 * readers that share no code with the product; the code under test is that of src/, as faults cannot be planted in what is built.
 */
import fc from "fast-check";
import { parse } from "csv-parse/sync";
import { SaxesParser } from "saxes";
import { afterEach, describe, expect, test } from "vitest";
import type { MemoryTables } from "hatch-fold";
import * as product from "../../src/index.js";
import type { Edit, NewRecord } from "../../src/edits/edit.js";
import type { Splice } from "../../src/edits/splice.js";
import { formatNamed } from "../../src/formats/index.js";
import type { Dialect, Format, Renderer } from "../../src/formats/format.js";
import { law, RUNS } from "../support/laws.js";
import { Random } from "../support/random.js";
import { ACTION, edit, MARK, sheetFiles, text } from "../support/sheets.js";

// ---- documents: in each record a field that no column shows, and that no other record has

const WORDS = ["Skarv", "Ytre Skarv", "Nordlys", "Perle", "Ærø", "A-1"];
const SIZES = ["12.50", "7.00", "31.25"];

interface Station {
  readonly code: string;
  readonly name: string;
  readonly size: string;
  readonly lights: readonly { readonly name: string; readonly size: string }[];
}

function stationsOf(random: Random): Station[] {
  return Array.from({ length: 2 + random.next(4) }, (_, i) => ({
    code: `S-${i}`,
    name: random.pick(WORDS),
    size: random.pick(SIZES),
    lights: Array.from({ length: random.next(4) }, () => ({ name: random.pick(WORDS), size: random.pick(SIZES) })),
  }));
}

/** A number that stands once in the document. */
function counter(): () => string {
  let n = 0;
  return () => `h${++n}h`;
}

const jsonOf = (stations: readonly Station[], next = counter()) =>
  stations.map(({ code, name, size, lights }) => ({
    code,
    secret: next(),
    name,
    size,
    lights: lights.map((light) => ({ ...light, secret: next() })),
    end: { secret: next() },
  }));

const NESTED = (file: string, rows: string): string => `hatchfold: 1
sources: { s: { file: ${file} } }
tables:
  stations: { rows: ${rows}, key: code, columns: { code: code, name: name, size: size } }
  lights: { rows: ${rows === "." ? "" : `${rows}/`}lights, inside: stations, columns: { name: name, size: size } }
`;

const LINE_TABLES = `tables:
  stations: { rows: stations, key: code, columns: { code: code, name: name, size: size } }
  lights: { rows: stations/lights, inside: stations, columns: { name: name, size: size } }
`;

interface World {
  readonly format: string;
  readonly file: string;
  readonly plan: string;
  readonly write: (stations: readonly Station[]) => string;
  /** What a text says, by a reader of another house; it throws where the text says nothing. */
  readonly read: (text: string) => unknown;
}

const lines = (text: string): string[] =>
  text
    .split("\n")
    .map((line) => line.trimEnd())
    .filter((line) => line !== "");

const WORLDS: readonly World[] = [
  {
    format: "json",
    file: "s.json",
    plan: NESTED("s.json", "stations"),
    write: (stations) => JSON.stringify({ version: "h0h", stations: jsonOf(stations) }, null, stations.length % 2 === 0 ? 2 : 0),
    read: readJson,
  },
  {
    format: "json-lines",
    file: "s.jsonl",
    plan: NESTED("s.jsonl", "."),
    write: (stations) =>
      jsonOf(stations)
        .map((one) => `${JSON.stringify(one)}\n`)
        .join(""),
    // values that share a line are read as they are by the scanner (docs/laws.md says that no proof sees this)
    read: (text) => lines(text.replaceAll("}{", "}\n{")).map(readJson),
  },
  {
    format: "xml",
    file: "s.xml",
    plan: `hatchfold: 1
sources: { s: { file: s.xml } }
tables:
  stations: { rows: all/station, key: code, columns: { code: "@code", name: name, size: size } }
  lights: { rows: all/station/light, inside: stations, columns: { name: "@name", size: . } }
`,
    write: (stations) => {
      const next = counter();
      const light = ({ name, size }: Station["lights"][number]): string => `    <light name="${name}" secret="${next()}">${size}</light>\n`;
      const station = ({ code, name, size, lights }: Station): string =>
        `  <station code="${code}" secret="${next()}">\n    <name>${name}</name>\n    <size>${size}</size>\n    <secret>${next()}</secret>\n${lights.map(light).join("")}  </station>\n`;
      return `<?xml version="1.0"?>\n<all version="h0h">\n${stations.map(station).join("")}</all>\n`;
    },
    read: readXml,
  },
  {
    format: "delimited",
    file: "s.csv",
    plan: `hatchfold: 1
sources: { s: { file: s.csv } }
tables:
  stations: { rows: ., key: code, columns: { code: code, name: name, size: size } }
`,
    write: (stations) => {
      const next = counter();
      return `code,secret,name,size,end\n${stations.map(({ code, name, size }) => `${code},${next()},"${name}",${size},${next()}\n`).join("")}`;
    },
    read: (text) => parse(text, { relax_column_count: true, skip_empty_lines: true }),
  },
  {
    format: "tagged",
    file: "s.txt",
    plan: `hatchfold: 1
sources:
  s:
    file: s.txt
    format: tagged
    layout:
      delimiter: "|"
      records:
        stations: { tag: STA, fields: [code, secret, name, size, end] }
        lights: { tag: LIG, inside: stations, fields: [name, size, secret] }
${LINE_TABLES}`,
    write: (stations) => {
      const next = counter();
      return stations
        .flatMap(({ code, name, size, lights }) => [
          `STA|${code}|${next()}|${name}|${size}|${next()}\n`,
          ...lights.map((light) => `LIG|${light.name}|${light.size}|${next()}\n`),
        ])
        .join("");
    },
    read: lines,
  },
  {
    format: "fixed",
    file: "s.fix",
    plan: `hatchfold: 1
sources:
  s:
    file: s.fix
    format: fixed
    layout:
      records:
        stations: { tag: { at: 1-2, is: "01" }, fields: { code: 3-8, secret: 9-14, name: 15-30, size: 31-38, end: 39-44 } }
        lights: { tag: { at: 1-2, is: "02" }, inside: stations, fields: { name: 3-18, size: 19-26, secret: 27-32 } }
${LINE_TABLES}`,
    write: (stations) => {
      const next = counter();
      return stations
        .flatMap(({ code, name, size, lights }) => [
          `01${code.padEnd(6)}${next().padEnd(6)}${name.padEnd(16)}${size.padEnd(8)}${next().padEnd(6)}\n`,
          ...lights.map((light) => `02${light.name.padEnd(16)}${light.size.padEnd(8)}${next().padEnd(6)}\n`),
        ])
        .join("");
    },
    read: lines,
  },
];

/** An empty list is there or not: that follows from the rows in it. */
function readJson(text: string): unknown {
  return JSON.parse(text, (_, value: unknown) => (Array.isArray(value) && value.length === 0 ? undefined : value));
}

function readXml(text: string): unknown {
  const top: unknown[] = [];
  const open: unknown[][] = [top];
  const parser = new SaxesParser();
  parser.on("error", (error) => {
    throw error;
  });
  parser.on("opentag", ({ name, attributes }) => {
    const inside: unknown[] = [];
    open.at(-1)!.push({ name, attributes, inside });
    open.push(inside);
  });
  parser.on("text", (words) => words.trim() !== "" && open.at(-1)!.push(words.trim()));
  parser.on("closetag", () => void open.pop());
  parser.write(text).close();
  return top;
}

// ---- edits

function editAtRandom(tables: MemoryTables, random: Random): void {
  for (const file of sheetFiles(tables)) {
    edit(tables, file, (rows, titles) => {
      const added: string[][] = [];
      for (const row of rows.slice(1)) {
        const kind = random.next(8);
        if (kind === 0) row[titles.indexOf(ACTION)] = "remove";
        else if (kind <= 2) row[titles.indexOf("name")] = `${random.pick(WORDS)} ${random.next(90)}`;
        else if (kind === 3) row[titles.indexOf("size")] = random.pick(["1.25", "40.00"]);
        else if (kind === 4 && titles.includes("stations"))
          row[titles.indexOf("stations")] = random.pick(rows.slice(1))[titles.indexOf("stations")];
        if (!random.chance(3)) continue;
        const copy = [...row];
        copy[titles.indexOf(MARK)] = titles.includes("code") ? `+n${added.length}` : "";
        copy[titles.indexOf(ACTION)] = "";
        copy[titles.indexOf("name")] = `New ${random.next(90)}`;
        if (titles.includes("stations") && random.chance(2)) copy[titles.indexOf("stations")] = "+n0";
        if (titles.includes("code")) copy[titles.indexOf("code")] = `N-${added.length}`;
        added.push(copy);
      }
      return [...rows, ...added];
    });
  }
}

// ---- faults

type Fault = (
  random: Random,
  given: { edits: readonly Edit[]; leaving: Parameters<Renderer["render"]>[1]; render: Renderer["render"]; size: number },
) => Promise<Splice[]>;

/** A fault in the bytes that are written, or in where they go. */
const inSplices =
  (change: (splices: Splice[], random: Random, size: number) => Splice[]): Fault =>
  async (random, { edits, leaving, render, size }) =>
    change(await render(edits, leaving), random, size);

/** One of the splices is another. */
const inOne = (change: (splice: Splice, random: Random, size: number) => Splice[]): Fault =>
  inSplices((splices, random, size) => {
    const at = random.next(splices.length);
    return splices.flatMap((splice, i) => (i === at ? change(splice, random, size) : [splice]));
  });

const inBytes = (change: (bytes: Uint8Array, random: Random) => Uint8Array): Fault =>
  inOne((splice, random) => [
    { ...splice, pieces: splice.pieces.map((piece) => (piece instanceof Uint8Array ? change(piece, random) : piece)) },
  ]);

/** A fault in what the renderer makes of the edits. */
const inEdits =
  (change: (edits: readonly Edit[], random: Random) => readonly Edit[]): Fault =>
  (random, { edits, leaving, render }) =>
    render(change(edits, random), leaving);

const inRecords = (change: (records: readonly (NewRecord | { moved: true })[]) => readonly unknown[]): Fault =>
  inEdits((edits) => edits.map((one) => (one.kind === "add" ? { ...one, records: change(one.records) as typeof one.records } : one)));

function swapped<T>(list: readonly T[], i: number, j: number): T[] {
  const copy = [...list];
  [copy[i], copy[j]] = [copy[j], copy[i]];
  return copy;
}

const FAULTS: Record<string, Fault> = {
  "the last byte is dropped": inBytes((bytes) => bytes.subarray(0, -1)),
  "the first byte is dropped": inBytes((bytes) => bytes.subarray(1)),
  "a byte is another": inBytes((bytes, random) => {
    const copy = bytes.slice();
    const digits = [...copy.keys()].filter((i) => copy[i] >= 0x30 && copy[i] <= 0x39);
    if (digits.length > 0) copy[random.pick(digits)] = 0x38;
    return copy;
  }),
  "it is written twice": inBytes((bytes) => Buffer.concat([bytes, bytes])),
  "nothing is written": inBytes(() => new Uint8Array(0)),
  "a splice is lost": inOne(() => []),
  "one byte more is cut": inOne((splice, _, size) => [{ ...splice, end: Math.min(size, splice.end + 1) }]),
  "a few bytes more are cut": inOne((splice, random, size) => [{ ...splice, end: Math.min(size, splice.end + random.next(30)) }]),
  "one byte more is left": inOne((splice) => [{ ...splice, end: Math.max(splice.start, splice.end - 1) }]),
  "it goes one byte further": inOne((splice, _, size) => [
    { ...splice, start: Math.min(size, splice.start + 1), end: Math.min(size, splice.end + 1) },
  ]),
  "it goes elsewhere": inOne((splice, random, size) => {
    const at = random.next(size);
    return [{ ...splice, start: at, end: at }];
  }),
  "two change places": inSplices((splices, random) => {
    const [i, j] = [random.next(splices.length), random.next(splices.length)];
    const pieces = splices.map((splice) => splice.pieces);
    return splices.map((splice, k) => ({ ...splice, pieces: k === i ? pieces[j] : k === j ? pieces[i] : pieces[k] }));
  }),
  "a value goes to another cell": inEdits((edits, random) => {
    const sets = [...edits.keys()].filter((i) => edits[i].kind === "set");
    if (sets.length < 2) return edits;
    const [one, other] = [edits[random.pick(sets)], edits[random.pick(sets)]];
    if (one.kind !== "set" || other.kind !== "set") return edits;
    return edits.map((edit) => (edit === one ? { ...one, value: other.value } : edit === other ? { ...other, value: one.value } : edit));
  }),
  "records come in another order": inRecords((records) => [...records].reverse()),
  "a new record lacks a field": inRecords((records) =>
    records.map((record) => ("moved" in record ? record : { ...record, fields: record.fields.slice(0, -1) })),
  ),
  "the fields of a new record change places": inRecords((records) =>
    records.map((record) => {
      if ("moved" in record || record.fields.length < 2) return record;
      const values = swapped(record.fields, 0, record.fields.length - 1).map(({ value }) => value);
      return { ...record, fields: record.fields.map((field, i) => ({ ...field, value: values[i] })) };
    }),
  ),
  "what is in a new record is lost": inRecords((records) =>
    records.map((record) => ("moved" in record ? record : { ...record, inner: [] })),
  ),
  "a record comes twice": inRecords((records) => [...records, ...records.filter((record) => !("moved" in record)).slice(0, 1)]),
  "records go into another list": inEdits((edits) => {
    const adds = edits.filter((one) => one.kind === "add");
    return edits.map((one) => (one.kind === "add" ? { ...one, records: adds[(adds.indexOf(one) + 1) % adds.length].records } : one));
  }),
  "what was removed stays": inEdits((edits) =>
    edits.filter((one, i) => one.kind !== "remove" || edits.findIndex((x) => x.kind === "remove") !== i),
  ),
};

/** Plants a fault in all that a format writes, until it is taken out again. */
let takeOut = (): void => undefined;
function plant(format: Format, fault: Fault, seed: number): void {
  const load = format.load.bind(format);
  const planted = (dialect: Dialect): Dialect => {
    const renderer: Dialect["renderer"] = (source, style) => {
      const own = dialect.renderer(source, style);
      const render = own.render.bind(own);
      return { render: (edits, leaving) => fault(new Random(seed), { edits, leaving, render, size: source.size }) };
    };
    return Object.create(dialect, { renderer: { value: renderer } }) as Dialect;
  };
  format.load = async () => {
    const code = await load();
    return {
      ...code,
      dialect: (...how) => planted(code.dialect(...how)),
      guess: code.guess.bind(code),
      skeleton: code.skeleton.bind(code),
    };
  };
  takeOut = () => (format.load = load);
}
afterEach(() => takeOut());

const CAUGHT = /^unproved/;

describe.each(WORLDS)("$format", ({ format, file: name, plan, write, read }) => {
  const cases = Object.entries(FAULTS);
  test("without a fault every fold is proved", () =>
    law(fc.nat(), async (seed) => {
      const random = new Random(seed);
      const source = write(stationsOf(random));
      const { tables } = await product.hatch(source, { plan, name });
      editAtRandom(tables, random);
      fc.pre((await product.check(tables, { source, name })).problems.length === 0);
      expect((await product.fold(tables, { source, name })).proved).toBe(true);
    }));

  test.each(cases)("%s: refused, wherever it says something else", async (what, fault) => {
    /** Was the fold refused by its proof? `null` when there was nothing to be folded. */
    const isProvedWrong = async (seed: number): Promise<boolean | null> => {
      const random = new Random(seed);
      const source = write(stationsOf(random));
      const { tables } = await product.hatch(source, { plan, name });
      editAtRandom(tables, random);
      const review = await product.compare(tables, { source, name });
      if (review.problems.length > 0 || review.changes.length === 0) return null;
      const right = read(text((await review.fold()).bytes));
      plant(formatNamed(format)!, fault, seed);
      const given = await product.fold(tables, { source, name }).then(
        ({ bytes }) => bytes,
        (error: { code?: string }) => error,
      );
      takeOut();
      if (given instanceof Uint8Array) expect(read(text(given))).toEqual(right);
      return !(given instanceof Uint8Array) && CAUGHT.test(given.code ?? "");
    };
    let caught = 0;
    const isNever = NEVER.has(`${format} ${what}`);
    const tried = async (seed: number): Promise<void> => {
      const isCaught = await isProvedWrong(seed);
      fc.pre(isCaught !== null);
      if (isCaught === true) caught++;
    };
    await law(fc.nat(), tried, RUNS / 4);
    // a fault that never shows proves nothing: on a day without luck it is looked for further
    for (let seed = 1; caught === 0 && !isNever && seed < 500; seed++) if ((await isProvedWrong(seed)) === true) caught++;
    if (!isNever) expect(caught).toBeGreaterThan(0);
  });
});

/** There are no such edits, or the renderer refuses them itself. */
const NEVER: ReadonlySet<string> = new Set([
  "delimited what is in a new record is lost",
  ...["delimited", "tagged", "fixed"].map((format) => `${format} records go into another list`),
]);
