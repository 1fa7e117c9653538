/** One small world in every format that can hold it: stations with their crews. */
import fc from "fast-check";

export interface Member {
  readonly id: string;
  readonly role: string;
}
export interface Station {
  readonly code: string;
  readonly name: string;
  readonly crew: readonly Member[];
}

/** How a format writes the world, and what a plan says of it. */
export interface CrewFormat {
  readonly name: string;
  readonly file: string;
  readonly source: string;
  readonly rows: { readonly stations: string; readonly crew: string };
  /** Paths of fields: `@` before a name in XML. */
  readonly field: (name: string) => string;
  readonly write: (stations: readonly Station[]) => string;
}

const xml = (text: string): string => text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);
const padded = (text: string, width: number): string => text.padEnd(width);

export const CREW_FORMATS: readonly CrewFormat[] = [
  {
    name: "JSON",
    file: "crews.json",
    source: "{ file: crews.json, format: json }",
    rows: { stations: "stations", crew: "stations/crew" },
    field: (name) => name,
    write: (stations) => JSON.stringify({ stations }, null, 1),
  },
  {
    name: "XML",
    file: "crews.xml",
    source: "{ file: crews.xml, format: xml }",
    rows: { stations: "r/station", crew: "r/station/member" },
    field: (name) => `@${name}`,
    write: (stations) =>
      `<?xml version="1.0"?>\n<r>\n${stations
        .map(
          ({ code, name, crew }) =>
            `  <station code="${xml(code)}" name='${xml(name).replaceAll("'", "&apos;")}'>\n${crew
              .map(({ id, role }) => `    <member role="${xml(role)}" id="${xml(id)}"/>\n`)
              .join("")}  </station>\n`,
        )
        .join("")}</r>\n`,
  },
  {
    name: "tagged lines",
    file: "crews.txt",
    source:
      '{ file: crews.txt, format: tagged, layout: { delimiter: "|", records: { station: { tag: S, fields: [code, name] }, member: { tag: M, inside: station, fields: [id, role] } } } }',
    rows: { stations: "station", crew: "station/member" },
    field: (name) => name,
    write: (stations) =>
      stations.map(({ code, name, crew }) => `S|${code}|${name}\n${crew.map(({ id, role }) => `M|${id}|${role}\n`).join("")}`).join(""),
  },
  {
    name: "fixed-width",
    file: "crews.dat",
    source:
      '{ file: crews.dat, format: fixed, layout: { records: { station: { tag: { at: 1-2, is: "ST" }, fields: { code: 3-10, name: 11-30 } }, member: { tag: { at: 1-2, is: "ME" }, inside: station, fields: { id: 3-10, role: 11-30 } } } } }',
    rows: { stations: "station", crew: "station/member" },
    field: (name) => name,
    write: (stations) =>
      stations
        .map(
          ({ code, name, crew }) =>
            `ST${padded(code, 8)}${padded(name, 20)}\r\n${crew.map(({ id, role }) => `ME${padded(id, 8)}${padded(role, 20)}\r\n`).join("")}`,
        )
        .join(""),
  },
];

/** Words that every format can hold as they are, and that hurt in a sheet. */
const word = fc.constantFrom("keeper", "007", "1E5", "12.50", "Ása", "a, b", "two words", "漢", "=x", "TRUE", "3-4", "l'Anse", "x;y");

export const crews: fc.Arbitrary<Station[]> = fc
  .array(fc.record({ name: word, crew: fc.array(fc.record({ role: word, name: word }), { maxLength: 4 }) }), { minLength: 1, maxLength: 5 })
  .map((stations) => {
    let person = 0;
    return stations.map(({ name, crew }, i) => ({
      code: `S-${String(i + 1).padStart(2, "0")}`,
      name,
      crew: crew.map(({ role }) => ({ id: `P-${++person}`, role })),
    }));
  });

/** A plan for the world; `layout` is what the table of the crews says of its place, or the columns that show them in the stations' table. */
export function crewPlan(format: CrewFormat, layout: { readonly crew?: string; readonly columns?: string } = {}): string {
  const { source, rows, field } = format;
  const at = (name: string): string => JSON.stringify(field(name));
  const list = rows.crew.slice(rows.stations.length + 1);
  const columns = layout.columns?.replace(/LIST\/(\w+)/g, (_, name: string) => JSON.stringify(`${list}/${field(name)}`));
  return `hatchfold: 1
sources: { s: ${source} }
tables:
  stations:
    rows: ${rows.stations}
    key: code
    columns: { code: ${at("code")}, name: ${at("name")}${columns === undefined ? "" : `, ${columns}`} }
${columns !== undefined ? "" : `  crew: { rows: ${rows.crew}, inside: stations, ${layout.crew ?? ""} columns: { id: ${at("id")}, role: ${at("role")} } }\n`}`;
}
