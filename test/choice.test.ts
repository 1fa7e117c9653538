/** A list of changes to choose from: what is still taken is folded, and nothing else. */
import { copyFileSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { parse } from "csv-parse/sync";
import { stringify } from "csv-stringify/sync";
import ExcelJS from "exceljs";
import { describe, expect, test } from "vitest";
import { freshFolder, inProcess, type Done } from "./support/cli.js";
import { says } from "./support/brief.js";

const SOURCE = `{"keepers": [{"id": "P-1", "name": "Ane"}, {"id": "P-2", "name": "Bo"}],
 "stations": [
  {"code": "S-1", "height": 12.5, "keeper": "P-1", "lights": [{"name": "main"}, {"name": "rear"}]},
  {"code": "S-2", "height": 7, "keeper": "P-2", "lights": [{"name": "front"}]}
 ]}
`;
const PLAN = `hatchfold: 1
sources: { s: { file: s.json } }
tables:
  keepers: { rows: keepers, key: id, label: name, columns: { id: id, name: name } }
  stations: { rows: stations, key: code, columns: { code: code, height: height, keeper: { at: keeper, refers: keepers } } }
  lights: { rows: stations/lights, inside: stations, columns: { name: name } }
`;
type List = string[][];

describe.each(["changes.csv", "changes.xlsx"])("%s", (list) => {
  async function chosen(choose: (rows: List) => List): Promise<{ done: Done; json: string; again: () => Promise<Done> }> {
    const folder = freshFolder();
    const at = (file: string): string => join(folder, file);
    writeFileSync(at("s.json"), SOURCE);
    writeFileSync(at("plan.yaml"), PLAN);
    const run = (...args: string[]): Promise<Done> => inProcess(folder, args);
    await run("hatch", "-p", "plan.yaml", "-o", "t");
    const change = (file: string, ...pairs: [was: string, now: string][]): void =>
      writeFileSync(
        at(file),
        pairs.reduce((all, [was, now]) => all.replace(was, now), readFileSync(at(file), "utf8")),
      );
    change("t/stations.csv", ["S-1,12.5,P-1", "S-1,13,P-2"], ["S-2,7,", "S-2,7.5,"]);
    change("t/lights.csv", [",S-1,rear", "remove,S-1,rear"], ["S-2,front", "S-1,front"]);
    writeFileSync(at("t/keepers.csv"), `${readFileSync(at("t/keepers.csv"), "utf8")},,P-3,Cy\r\n`);
    const compared = await run("compare", "t", "-o", list);
    expect([compared.status, compared.out]).toEqual([0, expect.stringContaining(`6 changes to choose from in ${list}`) as unknown]);
    if (list.endsWith(".csv")) {
      const rows: List = parse(readFileSync(at(list)), { bom: true });
      writeFileSync(at(list), stringify(choose(rows)));
    } else {
      const book = new ExcelJS.Workbook();
      await book.xlsx.readFile(at(list));
      const sheet = book.getWorksheet("changes")!;
      const rows: List = [];
      sheet.eachRow((row) => rows.push(Array.from({ length: 9 }, (_, i) => row.getCell(i + 1).text)));
      const kept = choose(rows.map((row, i) => (i === 0 ? row.map((title) => title.replace(/ [^a-z]+$/, "")) : row)));
      // a row that goes leaves a blank one
      for (const [i] of rows.entries()) sheet.getRow(i + 1).values = kept[i] ?? Array.from({ length: 9 }, () => null);
      await book.xlsx.writeFile(at(list));
    }
    const done = await run("fold", "t", "-o", "out.json", "--taken", list);
    const json = done.status === 0 ? readFileSync(at("out.json"), "utf8") : "";
    return {
      done,
      json,
      again: () => {
        copyFileSync(at("out.json"), at("s.json"));
        return run("compare", "t", "--taken", list);
      },
    };
  }
  const setAt = (rows: List, column: string, at: (row: Record<string, string>) => string | null): List =>
    rows.map((row, i) => {
      const value = i === 0 ? null : at(Object.fromEntries(rows[0].map((title, c) => [title, row[c]])));
      return value === null ? row : row.map((cell, c) => (rows[0][c] === column ? value : cell));
    });

  test("all, none, some, and another value", async () => {
    const all = await chosen((rows) => [...rows].reverse().sort((a) => (a[0] === "take" ? -1 : 0)));
    expect(JSON.parse(all.json)).toMatchObject({
      keepers: [{}, {}, { id: "P-3" }],
      stations: [
        { height: 13, keeper: "P-2", lights: [{ name: "main" }, { name: "front" }] },
        { height: 7.5, lights: [] },
      ],
    });
    const none = await chosen((rows) => setAt(rows, "take", () => "no"));
    expect(none.json).toBe(SOURCE);
    const some = await chosen((rows) =>
      setAt(
        setAt(rows, "new", ({ record, column }) => (record === "S-2" && column === "height" ? "8.25" : null)).filter(
          ([, table]) => table !== "lights",
        ),
        "take",
        ({ column, table }) => (column === "keeper" || table === "keepers" ? "" : null),
      ),
    );
    expect(some.json).toBe(SOURCE.replace("12.5", "13").replace('"height": 7,', '"height": 8.25,'));
    const again = await some.again();
    expect([again.status, again.err]).toEqual([1, expect.stringContaining("contents have changed") as unknown]);
  });

  test("a list of other changes, and what is none", async () => {
    const other = await chosen((rows) => setAt(rows, "sign", ({ row }) => (row === "3" ? "c0000000000" : null)));
    expect(other.done).toMatchObject({
      status: 2,
      err: expect.stringContaining(says("list-other", { table: "", row: "" })) as unknown,
    });
    const torn = await chosen((rows) => rows.map((row) => row.map((cell) => (cell === "sign" ? "mine" : cell))));
    expect(torn.done).toMatchObject({ status: 2, err: expect.stringContaining(says("list-columns", { missing: ["sign"] })) as unknown });
  });
});
