/** A sample by key: the rows of one record in all tables, to try a plan on. */
import { expect, test } from "vitest";
import { compare, fold, hatch } from "hatch-fold";
import { DEMO, freshFolder, inProcess } from "./support/cli.js";
import { readRows, setCell, text } from "./support/sheets.js";
import { refusal } from "./support/brief.js";

const SOURCE = `{"keepers": [{"id": "P-1", "name": "Ane"}, {"id": "S-2", "name": "Bo"}],
 "districts": [{"code": "D-1", "stations": [{"code": "S-1", "height": 3, "lights": [{"name": "a"}]}, {"code": "S-2", "lights": [{"name": "b"}, {"name": "c"}]}]},
  {"code": "D-2", "stations": []}],
 "postings": [{"station": "S-2", "keeper": "P-1"}, {"station": "S-1", "keeper": "P-1"}]}
`;
const PLAN = `hatchfold: 1
sources: { s: { file: s.json } }
tables:
  keepers: { rows: keepers, key: id, columns: { id: id, name: name } }
  districts: { rows: districts, key: code, columns: { code: code } }
  stations: { rows: districts/stations, inside: districts, key: code, columns: { code: code, height: height } }
  lights: { rows: districts/stations/lights, inside: stations, columns: { name: name } }
  postings: { rows: postings, columns: { station: { at: station, refers: stations }, keeper: { at: keeper, refers: keepers } } }
`;

test("the record, what it is in, what is in it, and what refers to it", async () => {
  const { tables, examples } = await hatch(SOURCE, { plan: PLAN, name: "s.json", sample: "stations=S-2" });
  const cells = ["keepers", "districts", "stations", "lights", "postings"].map((table) =>
    readRows(tables, `${table}.csv`)
      .slice(1)
      .map((row) => row.slice(2).join(" ")),
  );
  expect(cells).toEqual([[], ["D-1"], ["D-1 S-2 "], ["S-2 b", "S-2 c"], ["S-2 P-1"]]);
  expect(examples?.get("stations")?.get("height")).toBe("3");
  setCell(tables, "lights.csv", 3, "name", "d");
  setCell(tables, "stations.csv", 2, "height", "4");
  const { bytes, notes } = await fold(tables, { source: SOURCE, name: "s.json" });
  expect([text(bytes), notes]).toEqual([SOURCE.replace('"c"', '"d"').replace('"code": "S-2"', '"code": "S-2", "height": 4'), []]);
  await expect(compare(tables, { source: SOURCE, name: "s.json", absent: "remove" })).rejects.toMatchObject({ code: "absent-refused" });
});

test.each([
  ["S-2", 'sample-several {"key":"S-2","tables":["keepers","stations"]}'],
  ["S-22", 'sample-unknown {"key":"S-22","nearest":"S-2","tables":["keepers","districts","stations"]}'],
])("a key that does not say which: %s", async (sample, expected) => {
  expect(await refusal(hatch(SOURCE, { plan: PLAN, name: "s.json", sample }))).toBe(expected);
});

test("the command line shows it, and what blank cells look like elsewhere", async () => {
  const folder = freshFolder();
  const { status, out } = await inProcess(folder, ["hatch", DEMO, "-o", "t", "--sample", "S-004"]);
  expect([status, out]).toEqual([0, expect.stringMatching(/stations {3}1 row\n(?: {4}.*\n)* {4}code +S-004\n/) as unknown]);
});
