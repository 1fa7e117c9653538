/** What a plan says of a tree. */
import { PlanError } from "../../errors/error.js";
import { nearest } from "../../errors/nearest.js";
import { shownOfTree, type TablePlan, type TreePlan } from "../../model/plan.js";
import type { LayoutWords, TableEntry } from "../../plan/layout-words.js";

type TreeWords = string | { readonly parent: string } | { readonly depth: string } | { readonly path: string; readonly separator?: string };

export const treeWords: LayoutWords = {
  table: (z) => ({
    tree: z
      .union([
        z.string().describe("names joined by /, as the survey shows them"),
        z.strictObject({ parent: z.string().describe("title of the column with the key of the record above") }),
        z.strictObject({
          path: z.string().describe("title of the column with the names from the top"),
          separator: z.string().min(1).optional().describe("what stands between the names; /, unless said"),
        }),
        z.strictObject({
          depth: z.string().describe("title of the column that says how deep a record is; it is below the last one less deep"),
        }),
      ])
      .optional()
      .describe("the records hold their own kind at this path, or say in a column what they are below"),
  }),
  readTable: (table) => {
    const words = table.entry.tree as TreeWords | undefined;
    return words === undefined ? {} : { tree: readTree(table, words) };
  },
  claims: (table) => table.tree !== undefined,
};

function readTree(table: TableEntry, words: TreeWords): TreePlan {
  const { name, columns, place } = table;
  const { inside, key, label, match } = table.entry as Pick<TablePlan, "inside" | "key" | "label" | "match">;
  const at = place("tree");
  if (label === undefined && key === undefined && !(typeof words === "object" && "path" in words))
    throw new PlanError("plan-tree-label", { table: name }, at);
  const titles = columns.map((column) => column.title);
  const made = treePlan(table, words);
  const own = made.kind === "nested" ? undefined : made.column;
  const taken = shownOfTree(made);
  const title = [...titles, inside ?? ""].find((one) => one !== own && taken.some((shown) => shown === one));
  if (title !== undefined) throw new PlanError("plan-title-taken", { table: name, title }, at);
  if (own === undefined) return made;
  const column = columns.find((one) => one.title === own);
  if (column === undefined)
    throw new PlanError("plan-no-such-column", { table: name, column: own, nearest: nearest(own, titles), titles }, at);
  if (made.kind !== "parent" && match !== undefined) throw new PlanError("plan-tree-match", { table: name }, at);
  if (made.kind !== "parent") return made;
  if (key === undefined) throw new PlanError("plan-tree-key", { table: name }, at);
  if (column.refers !== undefined && column.refers !== name)
    throw new PlanError("plan-tree-refers", { table: name, title: column.title }, at);
  (column as { refers?: string }).refers = name;
  return made;
}

function treePlan({ place, path: pathIn }: TableEntry, words: TreeWords): TreePlan {
  if (typeof words === "object") {
    if ("parent" in words) return { kind: "parent", column: words.parent };
    return "depth" in words
      ? { kind: "depth", column: words.depth }
      : { kind: "path", column: words.path, separator: words.separator ?? "/" };
  }
  const path = pathIn(words, "tree");
  if (path.end !== "value" || path.steps.length === 0) throw new PlanError("plan-path", { path: words }, place("tree"));
  return { kind: "nested", at: path };
}
