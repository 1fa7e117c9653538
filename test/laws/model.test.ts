/**
 * Laws 2, 3 and 9, with the order of lists: random edits are made of the data themselves, and of the sheets as a person would
 * make them; the fold must say what the data say then, with all that no column shows, by a reader of another house.
 */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { fold, hatch } from "hatch-fold";
import { law, RUNS } from "../support/laws.js";
import { Random } from "../support/random.js";
import { edit, readRows, text, type Rows } from "../support/sheets.js";
import { SIZES, stationsOf, WORDS, WORLDS, type Light, type Station, type World } from "../support/worlds.js";

/** A light as it is to be, and the one that it was. */
interface NewLight {
  readonly was: Light | null;
  name: string;
  size: string;
}

interface NewStation {
  readonly was: Station | null;
  readonly code: string;
  name: string;
  size: string;
  lights: NewLight[];
}

interface Layout {
  readonly name: string;
  /** Words for the plan's tables. */
  readonly stations?: string;
  readonly lights?: string;
  /** Order is said by the sheet: then records may stand anywhere. */
  readonly ordered?: true;
  /** A column has the place in the list. */
  readonly placed?: true;
  /** The lights stand in the sheet of the stations. */
  readonly stacked?: "beneath" | "repeat";
}

const LAYOUTS: readonly Layout[] = [
  { name: "two sheets" },
  { name: "order: sheet", stations: "order: sheet,", lights: "order: sheet,", ordered: true },
  { name: "a column with the place", ordered: true, placed: true },
  { name: "beneath", lights: "beneath: true,", stacked: "beneath" },
  {
    name: "beneath, order: sheet",
    stations: "order: sheet,",
    lights: "beneath: true, order: sheet,",
    ordered: true,
    stacked: "beneath",
  },
  { name: "repeat", lights: "repeat: true,", stacked: "repeat" },
];

function planOf({ plan }: World, { stations = "", lights = "", placed }: Layout): string {
  const place = placed === true ? '{ place: ":index", ' : "{ ";
  return plan
    .replace(/(stations: \{ rows: [^,]+, key: code,) columns: \{/, `$1 ${stations} columns: ${place}`)
    .replace(/(inside: stations,) columns: \{/, `$1 ${lights} columns: ${place}`)
    .replaceAll("size: size", "size: { at: size, type: text }");
}

/** The data as somebody wants them. */
function wanted(stations: readonly Station[], random: Random, { ordered, placed, stacked }: Layout, hasLights: boolean): NewStation[] {
  const put = <T>(list: T[], one: T): void => void list.splice(ordered === true ? random.next(list.length + 1) : list.length, 0, one);
  const fresh = (): NewLight => ({ was: null, name: `New ${random.next(90)}`, size: random.pick(SIZES) });
  const change = (one: { name: string; size: string }): void => {
    if (random.chance(4)) one.name = `${random.pick(WORDS)} ${random.next(9)}`;
    if (random.chance(5)) one.size = random.pick(["1.25", "40.00"]);
  };
  const all: NewStation[] = stations.map((was) => ({ ...was, was, lights: was.lights.map((light) => ({ ...light, was: light })) }));
  const homeless = new Map<NewLight, NewStation>();
  for (const station of all) {
    for (const light of station.lights) change(light);
    const [leave, stay] = [station.lights.filter(() => random.chance(6)), [] as NewLight[]];
    for (const light of station.lights) if (!leave.includes(light)) stay.push(light);
    station.lights = stay;
    for (const light of leave) if (random.chance(2)) homeless.set(light, station);
  }
  if (random.chance(4) && all.length > 1 && stacked !== "repeat") all.splice(random.next(all.length), 1);
  if (random.chance(3)) put(all, { was: null, code: "N-1", name: "New", size: "1.00", lights: hasLights ? [fresh()] : [] });
  if (hasLights) {
    // one that goes elsewhere, and says the place that it had, goes behind the others there
    for (const [light, from] of placed === true ? [] : homeless) {
      const others = all.filter((one) => one !== from);
      if (others.length > 0) put(random.pick(others).lights, light);
    }
    while (random.chance(2)) put(random.pick(all).lights, fresh());
  }
  // a station that has no row of its own shows its cells where its lights are
  for (const station of all) if (stacked !== "repeat" || station.lights.length > 0) change(station);
  if (ordered === true)
    for (const list of [all, ...all.map(({ lights }) => lights)])
      if (random.chance(2) && list.length > 1) put(list as unknown[], list.splice(random.next(list.length), 1)[0]);
  return all;
}

/** Cells of a row by title. */
type Row = Readonly<Record<string, string>>;
type Marks = ReadonlyMap<Light | Station | null, string>;

/** The sheet's rows as a person leaves them: those of records that go say so. */
function writeSheet(rows: Rows, said: readonly Row[]): Rows {
  const [titles, ...before] = rows;
  const marks = new Set(said.map((row) => row["fold mark"]));
  const gone = before.filter(([mark]) => mark !== "" && !marks.has(mark)).map(([mark, , ...cells]) => [mark, "remove", ...cells]);
  return [titles, ...said.map((row) => titles.map((title) => row[title] ?? "")), ...gone];
}

const stationRow = ({ was, code, name, size }: NewStation, marks: Marks, place: number): Row => ({
  "fold mark": was === null ? "" : marks.get(was)!,
  place: String(place + 1),
  code,
  name,
  size,
});
const lightRow = ({ was, name, size }: NewLight, { code }: NewStation, marks: Marks, place: number): Row => ({
  "fold mark": was === null ? "" : marks.get(was)!,
  place: String(place + 1),
  stations: code,
  name,
  size,
});
/** In a sheet of stations the titles of their lights are others. */
const inStack = ({ stations, name, size, ...row }: Row): Row => ({ ...row, stations, "lights name": name, "lights size": size });

const toData = (stations: readonly NewStation[]): Station[] =>
  stations.map(({ was, code, name, size, lights }) => ({
    code,
    name,
    size,
    secrets: was?.secrets,
    lights: lights.map((light) => ({ name: light.name, size: light.size, secret: light.was?.secret })),
  }));

const CASES = WORLDS.flatMap((world) => {
  const hasLights = world.format !== "delimited";
  return LAYOUTS.filter(({ stacked }) => hasLights || stacked === undefined).map((layout) => ({ world, layout, hasLights }));
});

describe.each(CASES)("$world.format, $layout.name", ({ world, layout, hasLights }) => {
  test("a fold says what the edited data say, and keeps what no column shows", () =>
    law(
      fc.nat(),
      async (seed) => {
        const random = new Random(seed);
        const stations = stationsOf(random);
        const source = world.write(stations);
        const { tables } = await hatch(source, { plan: planOf(world, layout), name: world.file });
        const lights = stations.flatMap((station) => station.lights);
        const mark = (file: string, of: readonly (Light | Station)[]): [Light | Station, string][] =>
          readRows(tables, file)
            .slice(1)
            .map(([one], i) => [of[i], one]);
        const now = wanted(stations, random, layout, hasLights);
        const known = layout.stacked === undefined ? stations : inOrder(stations, layout.stacked);
        const marks: Marks = new Map([
          ...mark("stations.csv", known),
          ...(hasLights && layout.stacked === undefined ? mark("lights.csv", lights) : []),
        ]);
        if (layout.stacked === undefined) {
          edit(tables, "stations.csv", (rows) =>
            writeSheet(
              rows,
              now.map((one, i) => stationRow(one, marks, i)),
            ),
          );
          const inside = now.flatMap((station) => station.lights.map((light, i) => lightRow(light, station, marks, i)));
          if (hasLights) edit(tables, "lights.csv", (rows) => writeSheet(rows, inside));
        } else {
          const rows = now.flatMap((station, at) => {
            const own = stationRow(station, marks, at);
            const inner = station.lights.map((light, i) => inStack(lightRow(light, station, marks, i)));
            if (layout.stacked === "beneath") return [own, ...inner];
            // a station that had no lights has a row of its own
            return [...(marks.has(station.was) ? [own] : []), ...inner.map((row) => ({ ...own, ...row }))];
          });
          edit(tables, "stations.csv", (all) => writeSheet(all, rows));
        }
        const { bytes, proved } = await fold(tables, { source, name: world.file });
        expect(world.read(text(bytes))).toEqual(world.read(world.write(toData(now))));
        expect(proved).toBe(true);
      },
      RUNS / 2,
    ));
});

// ---- lists in cells: items have no marks, and are known by what they say

type Shown = "pack" | "spread" | "replace";

/** Lights of other names than all others, some of them taken out, put in, or put elsewhere in their list. */
function reorderedIn(stations: readonly Station[], random: Random): Station[] {
  return stations.map((station) => {
    const lights = station.lights.filter(() => !random.chance(5));
    if (random.chance(2) && lights.length > 1)
      lights.splice(random.next(lights.length), 0, lights.splice(random.next(lights.length), 1)[0]);
    if (random.chance(3)) lights.splice(random.next(lights.length + 1), 0, { name: `New ${random.next(9)}`, size: "" });
    return { ...station, lights };
  });
}

function planFor({ plan, format }: World, shown: Shown): string {
  if (shown === "replace") return plan;
  const at = format === "xml" ? "light/@name" : "lights/name";
  const column = `lights: { at: ${JSON.stringify(at)}, ${shown === "pack" ? 'pack: "|"' : "spread: 6"} }`;
  return plan.replace(/\n {2}lights: \{ rows.*\n/, "\n").replace("size: size }", `size: size, ${column} }`);
}

describe.each(
  WORLDS.filter(({ format }) => format !== "delimited").flatMap((world) =>
    (["pack", "spread", "replace"] as const).map((shown) => ({ world, shown })),
  ),
)("$world.format, $shown", ({ world, shown }) => {
  test("an item that says what it said keeps what no column shows, wherever it goes", () =>
    law(
      fc.nat(),
      async (seed) => {
        const random = new Random(seed);
        const named = stationsOf(random).map((one) => ({
          ...one,
          lights: one.lights.map((light, i) => ({ ...light, name: `${light.name} ${i}` })),
        }));
        const stations = named.some(({ lights }) => lights.length > 0)
          ? named
          : [...named.slice(1), { ...named[0], lights: [{ name: "One", size: "7.00", secret: "h99h" }] }];
        const source = world.write(stations);
        const { tables } = await hatch(source, { plan: planFor(world, shown), name: world.file });
        const now = reorderedIn(stations, random);
        if (shown === "replace")
          edit(tables, "lights.csv", () => [
            ["stations", "name", "size"],
            ...now.flatMap(({ code, lights }) => lights.map(({ name, size }) => [code, name, size])),
          ]);
        else
          edit(tables, "stations.csv", (rows, titles) => {
            const first = titles.findIndex((title) => title.startsWith("lights"));
            return [
              titles,
              ...rows.slice(1).map((row, i) => {
                const names = now[i].lights.map(({ name }) => name);
                return [
                  ...row.slice(0, first),
                  ...(shown === "pack" ? [names.join("|")] : Array.from({ length: 6 }, (_, k) => names[k] ?? "")),
                ];
              }),
            ];
          });
        const gone = now
          .filter(({ lights }, i) => lights.length === 0 && stations[i].lights.length > 0)
          .map(({ code }) => `lights=${code}`);
        const replace = shown === "replace" ? ["lights"] : undefined;
        fc.pre(shown !== "replace" || gone.length === 0);
        const { bytes } = await fold(tables, { source, name: world.file, replace });
        expect(world.read(text(bytes))).toEqual(world.read(world.write(now)));
      },
      RUNS / 2,
    ));
});

/** The records that the rows of a sheet with lights stand for. */
function inOrder(stations: readonly Station[], stacked: "beneath" | "repeat"): (Light | Station)[] {
  return stations.flatMap((station) => (stacked === "repeat" && station.lights.length > 0 ? station.lights : [station, ...station.lights]));
}
