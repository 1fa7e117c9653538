/** What the proof of a fold leaves out: files of many lines, of which few are edited. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { fold, hatch } from "hatch-fold";
import { law } from "../support/laws.js";
import { Random } from "../support/random.js";
import { ACTION, bytes, edit, readRows, text } from "../support/sheets.js";

const PLAN = `hatchfold: 1
sources:
  s:
    file: s.txt
    format: tagged
    layout:
      delimiter: "|"
      records:
        order: { tag: ORD, fields: [no, name] }
        task: { tag: TSK, inside: order, fields: [what, hours, hidden] }
        end: { tag: END, inside: order, closes: true, fields: [{ name: tasks, total: count task }, { name: hours, total: sum task/hours }] }
tables:
  orders: { rows: order, key: no, columns: { no: no, name: name } }
  tasks: { rows: order/task, inside: orders, columns: { what: what, hours: { at: hours, type: integer } } }
`;

/** Orders by number, with their tasks: what, hours, and what no column shows. */
type Orders = Map<string, { name: string; tasks: [what: string, hours: number, hidden: string][]; wrong: number }>;

function written(orders: Orders): string {
  return [...orders]
    .map(([no, { name, tasks, wrong }]) => {
      const hours = tasks.reduce((sum, task) => sum + task[1], 0) + wrong;
      return [`ORD|${no}|${name}`, ...tasks.map((task) => `TSK|${task.join("|")}`), `END|${tasks.length}|${hours}`, ""].join("\n");
    })
    .join("");
}

function anyOrders(random: Random): Orders {
  return new Map(
    Array.from({ length: 60 + random.next(60) }, (_, i) => [
      `N${i}`,
      {
        name: `order ${i}`.padEnd(random.next(200), "."),
        tasks: Array.from({ length: 1 + random.next(3) }, (_task, t): [string, number, string] => [
          `t${t}`,
          1 + random.next(9),
          `h${i}-${t}`,
        ]),
        // some totals were wrong before: they stay, unless their records are edited
        wrong: random.chance(9) ? 100 : 0,
      },
    ]),
  );
}

/** One edit of the tables and of the orders. */
function editOne(random: Random, orders: Orders, sheets: ReturnType<typeof sheetsOf>): void {
  const no = random.pick([...orders.keys()]);
  const order = orders.get(no)!;
  const rows = sheets.tasks.slice(1).filter((row) => row[2] === no && row[1] === "" && row[0] !== "");
  const row = random.pick(rows.length === 0 ? sheets.tasks.slice(1) : rows);
  if (rows.length === 0 || !order.tasks.some(([what]) => what === row[3])) return;
  const at = order.tasks.findIndex(([what]) => what === row[3]);
  const kind = random.next(4);
  if (kind === 1 && order.tasks.length === 1) return;
  if (kind < 3) order.wrong = 0;
  switch (kind) {
    case 0:
      row[4] = String(100 + random.next(9));
      order.tasks[at][1] = Number(row[4]);
      break;
    case 1:
      row[1] = "remove";
      order.tasks.splice(at, 1);
      break;
    case 2:
      sheets.tasks.push(["", "", no, `new${sheets.tasks.length}`, "5"]);
      order.tasks.push([`new${sheets.tasks.length - 1}`, 5, ""]);
      break;
    default: {
      const added = `A${sheets.orders.length}`;
      sheets.orders.push(["", "", added, "added"]);
      sheets.tasks.push(["", "", added, "first", "3"]);
      orders.set(added, { name: "added", tasks: [["first", 3, ""]], wrong: 0 });
    }
  }
}

function sheetsOf(tables: Parameters<typeof readRows>[0]): { orders: string[][]; tasks: string[][] } {
  return { orders: readRows(tables, "orders.csv"), tasks: readRows(tables, "tasks.csv") };
}

describe("few edits in many lines", () => {
  test("each is where it belongs, totals follow, and all else is as it was", () =>
    law(fc.nat(), async (seed) => {
      const random = new Random(seed);
      const orders = anyOrders(random);
      const source = written(orders);
      const { tables } = await hatch(source, { plan: PLAN, name: "s.txt" });
      const sheets = sheetsOf(tables);
      for (let i = 0; i <= random.next(4); i++) editOne(random, orders, sheets);
      edit(tables, "orders.csv", () => sheets.orders);
      edit(tables, "tasks.csv", () => sheets.tasks);
      expect(sheets.tasks[0].slice(0, 2)).toEqual(["fold mark", ACTION]);
      const folded = await fold(tables, { source: bytes(source), name: "s.txt" });
      expect(folded.proved).toBe(true);
      expect(text(folded.bytes).replace(/\|$/gm, "")).toBe(written(orders).replace(/\|$/gm, ""));
    }));
});
