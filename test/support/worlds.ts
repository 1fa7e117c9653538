/**
 * Documents of six formats that say the same: stations with lights. Each record has fields that no column shows, and that no
 * other record has. What a text says is read by packages that share no code with the product.
 */
import { parse } from "csv-parse/sync";
import { SaxesParser } from "saxes";
import { parseConfigFileTextToJson } from "typescript";
import { Random } from "./random.js";

export const WORDS = ["Skarv", "Ytre Skarv", "Nordlys", "Perle", "Ærø", "A-1"];
export const SIZES = ["12.50", "7.00", "31.25"];

export interface Light {
  readonly name: string;
  readonly size: string;
  /** In no column; a new record has none. */
  readonly secret?: string;
}

export interface Station {
  readonly code: string;
  readonly name: string;
  readonly size: string;
  readonly secrets?: readonly [string, string];
  readonly lights: readonly Light[];
}

/** A few stations, and `more`, with a few lights each, and `lights` more. */
export function stationsOf(random: Random, { stations, lights }: { stations: number; lights: number } = FEW): Station[] {
  let n = 0;
  const next = (): string => `h${++n}h`;
  return Array.from({ length: 2 + random.next(4) + stations }, (_, i) => ({
    code: `S-${i}`,
    name: random.pick(WORDS),
    size: random.pick(SIZES),
    secrets: [next(), next()] as const,
    lights: Array.from({ length: random.next(4) + lights }, () => ({ name: random.pick(WORDS), size: random.pick(SIZES), secret: next() })),
  }));
}

export const FEW = { stations: 0, lights: 0 };

const jsonOf = (stations: readonly Station[]): object[] =>
  stations.map(({ code, name, size, secrets, lights }) => ({
    code,
    secret: secrets?.[0],
    name,
    size,
    lights: lights.map((light) => ({ ...light, size: light.size === "" ? undefined : light.size })),
    end: secrets === undefined ? undefined : { secret: secrets[1] },
  }));

const attribute = (secret: string | undefined): string => (secret === undefined ? "" : ` secret="${secret}"`);
const element = (secret: string | undefined): string => (secret === undefined ? "" : `    <secret>${secret}</secret>\n`);

const nested = (file: string, rows: string): string => `hatchfold: 1
sources: { s: { file: ${file} } }
tables:
  stations: { rows: ${rows}, key: code, columns: { code: code, name: name, size: size } }
  lights: { rows: ${rows === "." ? "" : `${rows}/`}lights, inside: stations, columns: { name: name, size: size } }
`;

const LINE_TABLES = `tables:
  stations: { rows: stations, key: code, columns: { code: code, name: name, size: size } }
  lights: { rows: stations/lights, inside: stations, columns: { name: name, size: size } }
`;

export interface World {
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

export const WORLDS: readonly World[] = [
  {
    format: "json",
    file: "s.json",
    plan: nested("s.json", "stations"),
    write: (stations) => JSON.stringify({ version: "h0h", stations: jsonOf(stations) }, null, stations.length % 2 === 0 ? 2 : 0),
    read: readJson,
  },
  {
    format: "json",
    file: "s.jsonc",
    plan: nested("s.jsonc", "stations"),
    write: (stations) => commented(JSON.stringify({ version: "h0h", stations: jsonOf(stations) }, null, stations.length % 2 === 0 ? 2 : 0)),
    read: (text) => {
      const { config, error } = parseConfigFileTextToJson("s.json", text);
      if (error !== undefined) throw new Error(JSON.stringify(error.messageText));
      return readJson(JSON.stringify(config));
    },
  },
  {
    format: "json-lines",
    file: "s.jsonl",
    plan: nested("s.jsonl", "."),
    write: (stations) =>
      jsonOf(stations)
        .map((one) => `${JSON.stringify(one)}\n`)
        .join(""),
    read: (text) => lines(text).map(readJson),
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
      const light = ({ name, size, secret }: Light): string => `    <light name="${name}"${attribute(secret)}>${size}</light>\n`;
      const station = ({ code, name, size, secrets, lights }: Station): string =>
        `  <station code="${code}"${attribute(secrets?.[0])}>\n    <name>${name}</name>\n    <size>${size}</size>\n${element(secrets?.[1])}${lights.map(light).join("")}  </station>\n`;
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
    write: (stations) =>
      `code,secret,name,size,end\n${stations.map(({ code, name, size, secrets: [one, other] = ["", ""] }) => `${code},${one},"${name}",${size},${other}\n`).join("")}`,
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
    write: (stations) =>
      stations
        .flatMap(({ code, name, size, secrets: [one, other] = ["", ""], lights }) => [
          `STA|${code}|${one}|${name}|${size}|${other}\n`,
          ...lights.map((light) => `LIG|${light.name}|${light.size}|${light.secret ?? ""}\n`),
        ])
        .join(""),
    // fields at a line's end that are blank may be left out
    read: (text) => lines(text).map((line) => line.replace(/\|+$/, "")),
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
    write: (stations) =>
      stations
        .flatMap(({ code, name, size, secrets: [one, other] = ["", ""], lights }) => [
          `01${code.padEnd(6)}${one.padEnd(6)}${name.padEnd(16)}${size.padEnd(8)}${other.padEnd(6)}\n`,
          ...lights.map((light) => `02${light.name.padEnd(16)}${light.size.padEnd(8)}${(light.secret ?? "").padEnd(6)}\n`),
        ])
        .join(""),
    read: lines,
  },
];

/** JSON with comments behind every third piece, and commas before the end of lists and records. */
function commented(json: string): string {
  let n = 0;
  const lines = json.includes("\n");
  return json.replace(/([}\]"])(\s*[}\]])/g, "$1,$2").replace(/,(?=\s|[{"])/g, (comma) => {
    if (++n % 3 !== 0) return comma;
    return lines && n % 2 === 0 ? `${comma} // "note", ${n}` : `${comma} /* [note], ${n} */`;
  });
}

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
