/** The laws for trees, however the source keeps them and whichever column says what is above a record. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compare, fold, foldNew, hatch, type MemoryTables } from "hatch-fold";
import { law, RUNS } from "../support/laws.js";
import { Random } from "../support/random.js";
import { ACTION, edit, MARK, readRows, text, writeRows } from "../support/sheets.js";
import { mindOf, mindsIn, TREE_FORMS, trees, type TreeForm } from "../support/trees.js";

const slashed = (names: readonly string[]): string => names.map((name) => name.replace(/[\\/]/g, "\\$&")).join("/");

/** Names from the top to a part. */
function namesTo(uppers: ReadonlyMap<string, string>, name: string): string[] {
  const upper = uppers.get(name) ?? "";
  return upper === "" ? [name] : [...namesTo(uppers, upper), name];
}

function loops(uppers: ReadonlyMap<string, string>): boolean {
  return [...uppers.keys()].some((name) => {
    let steps = 0;
    for (let at = uppers.get(name) ?? ""; at !== ""; at = uppers.get(at) ?? "") if (++steps > uppers.size) return true;
    return false;
  });
}

/** Makes edits in the sheet, and says what is above each part then. */
function someEdits(form: TreeForm, tables: MemoryTables, random: Random): Map<string, string> {
  const now = new Map<string, string>();
  const { way = slashed } = form;
  edit(tables, "parts.csv", (rows, titles) => {
    const at = (title: string): number => titles.indexOf(title);
    const name = at("name");
    const upper = titles.includes("parent") ? at("parent") : at("upper");
    const body = rows.slice(1);
    const key = at(/key: (\w+)/.exec(form.plan)?.[1] ?? MARK);
    const nameOf = new Map(body.map((row) => [row[key], row[name]]));
    const old = new Map(body.map((row) => [row[name], row[upper] === "(null)" ? "" : (nameOf.get(row[upper]) ?? row[upper])]));
    for (const [one, above] of old) now.set(one, above);
    const identOf = (one: string): string => body.find((row) => row[name] === one)?.[key] ?? "";
    const deeper: string[][] = [];
    for (const row of random.shuffle(body).slice(0, 1 + random.next(3))) {
      const goal = random.pick(["", ...old.keys()]);
      const handle = random.pick(["parent", "path", "both", ...(form.unordered === true ? [] : ["depth"])]);
      if (handle === "depth") {
        row[at("depth")] = String(Math.max(1, Number(row[at("depth")]) + random.pick([-1, 1])));
        deeper.push(row);
        continue;
      }
      if (handle !== "path") row[upper] = identOf(goal);
      if (handle !== "parent") row[at("path")] = way([...(goal === "" ? [] : namesTo(old, goal)), row[name]]);
      now.set(row[name], goal);
    }
    // below the nearest row above that is one less deep, as the sheet says it now
    const above = (row: string[]): string[] | undefined => {
      const found = body.slice(0, body.indexOf(row)).findLast((one) => Number(one[at("depth")]) < Number(row[at("depth")]));
      return Number(found?.[at("depth")] ?? 0) === Number(row[at("depth")]) - 1 ? found : undefined;
    };
    const astray = (row: string[]): boolean => Number(row[at("depth")]) > 1 && above(row) === undefined;
    for (let bad = deeper.findIndex(astray); bad >= 0; bad = deeper.findIndex(astray)) {
      const [row] = deeper.splice(bad, 1);
      row[at("depth")] = String(namesTo(old, row[name]).length);
    }
    for (const row of deeper) now.set(row[name], above(row)?.[name] ?? "");
    const add = (cells: Record<string, string>): void => void rows.push(titles.map((title) => cells[title] ?? ""));
    if (random.chance(2)) {
      const goal = random.pick([...old.keys()]);
      add({ name: "new one", [titles[upper]]: identOf(goal) });
      now.set("new one", goal);
    }
    if (random.chance(2)) {
      const goal = random.pick([...old.keys()]);
      for (const leaf of ["leaf a", "leaf b"]) {
        add({ path: way([...namesTo(old, goal), "branch", leaf]) });
        now.set(leaf, "branch");
      }
      now.set("branch", goal);
    }
  });
  return now;
}

describe.each(TREE_FORMS.map((form) => [form.name, form] as const))("%s", (_, form) => {
  const { plan, file: name, way = slashed } = form;
  const world = fc.tuple(trees, fc.nat());

  test("the sheet says parent, depth and path, in the order of the tree", () =>
    law(
      trees,
      async (tops) => {
        const source = form.write(tops);
        const uppers = form.read(source);
        const [titles, ...rows] = readRows((await hatch(source, { plan, name })).tables, "parts.csv");
        const shown = rows.map((row) => [row[titles.indexOf("depth")], row[titles.indexOf("path")]]);
        expect(shown).toEqual([...uppers.keys()].map((one) => [String(namesTo(uppers, one).length), way(namesTo(uppers, one))]));
      },
      RUNS / 5,
    ));

  test("nothing edited, nothing changed; order does not matter", () =>
    law(
      world,
      async ([tops, seed]) => {
        const source = form.write(tops);
        const random = new Random(seed);
        const { tables } = await hatch(source, { plan, name });
        expect(text((await fold(tables, { source, name })).bytes)).toBe(source);
        const [head, ...body] = readRows(tables, "parts.csv");
        const order = random.shuffle([...head.keys()]).filter((c) => head[c] === MARK || !random.chance(4));
        const kept = random.shuffle(body.filter(() => !random.chance(4)));
        writeRows(
          tables,
          "parts.csv",
          [head, ...kept].map((row) => order.map((c) => row[c])),
        );
        expect(text((await fold(tables, { source, name })).bytes)).toBe(source);
      },
      RUNS / 3,
    ));

  test("moved by parent, path or depth, added below or along a path: each part is where the sheet says, with all that is its own", async () => {
    const seen = { folded: 0, loops: 0 };
    await law(
      world,
      async ([tops, seed]) => {
        const source = form.write(tops);
        const { tables } = await hatch(source, { plan, name });
        const now = someEdits(form, tables, new Random(seed));
        const { problems } = await compare(tables, { source, name });
        if (loops(now)) {
          seen.loops++;
          expect(problems.map(({ code }) => code)).toContain("ref-loop");
          return;
        }
        expect(problems).toEqual([]);
        seen.folded++;
        const folded = text((await fold(tables, { source, name })).bytes);
        expect(form.read(folded)).toEqual(now);
        // what no column shows goes along; a part that is new has nothing of another's
        const old = form.read(source);
        expect(mindsIn(name, folded)).toEqual(new Map([...now.keys()].map((one) => [one, old.has(one) ? mindOf(one) : ""])));
      },
      RUNS / 3,
      () => seen.folded > 0 && seen.loops > 0,
    );
    expect(seen.folded).toBeGreaterThan(0);
    expect(seen.loops).toBeGreaterThan(0);
  });

  if (form.way === undefined) {
    // null at the top, which delimited text has no word for
    const others = TREE_FORMS.filter((one) => one.way === undefined && !(form.file === "coded.json" && one.file === "coded.csv"));
    test("kept in another way: its table folded by the plan of that, as a new document", () =>
      law(
        fc.tuple(trees, fc.constantFrom(...others)),
        async ([tops, other]) => {
          const source = form.write(tops);
          const { tables } = await hatch(source, { plan, name });
          const { bytes } = await foldNew(tables, { plan: other.plan });
          const [titles, ...rows] = readRows((await hatch(bytes, { plan: other.plan, name: other.file })).tables, "parts.csv");
          const uppers = form.read(source);
          expect(rows.map((row) => row[titles.indexOf("path")]).sort()).toEqual(
            [...uppers.keys()].map((one) => way(namesTo(uppers, one))).sort(),
          );
        },
        RUNS / 5,
      ));
  }

  test("a part that is removed goes with all below it", () =>
    law(
      world,
      async ([tops, seed]) => {
        const source = form.write(tops);
        const { tables } = await hatch(source, { plan, name });
        const uppers = form.read(source);
        const gone = new Random(seed).pick([...uppers.keys()]);
        edit(tables, "parts.csv", (rows, titles) => {
          rows.find((row) => row[titles.indexOf("name")] === gone)![titles.indexOf(ACTION)] = "remove";
        });
        const held = [...uppers.keys()].filter((one) => namesTo(uppers, one).includes(gone));
        const { problems } = await compare(tables, { source, name });
        // where the parts below are records of their own, they would be left without one above
        if (form.leaves !== undefined && held.length > 1) {
          expect(new Set(problems.map(({ code }) => code))).toEqual(new Set([form.leaves]));
          return;
        }
        const folded = text((await fold(tables, { source, name })).bytes);
        const left = [...uppers.keys()].filter((one) => !held.includes(one));
        expect([...form.read(folded).keys()]).toEqual(left);
        expect(mindsIn(name, folded)).toEqual(new Map(left.map((one) => [one, mindOf(one)])));
      },
      RUNS / 5,
    ));
});
