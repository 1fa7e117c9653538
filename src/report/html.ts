/** The report as one HTML page that needs nothing else: no script, no fonts, light and dark. */
import type { Change, Problem } from "../model/findings.js";
import type { ReportInput } from "./input.js";
import { countWords, MADE_BY, groupByTable, holds, rowWord, shown } from "./words.js";
import { visible } from "../errors/visible.js";

const STYLE = `
:root { color-scheme: light dark; --line: light-dark(#d8dde3, #3a424c); --soft: light-dark(#5b6672, #9aa6b2); --panel: light-dark(#f6f8fa, #1b2128);
  --out: light-dark(#fde8e6, #4a2320); --in: light-dark(#e2f3e5, #1d3b25); --red: light-dark(#a8261b, #ff9a8f); --green: light-dark(#1d6b32, #7fd695); --blue: light-dark(#1b4f8a, #8cc0ff); }
* { box-sizing: border-box; }
body { margin: 0 auto; max-width: 72rem; padding: 2rem 1.5rem 4rem; font: 15px/1.5 system-ui, sans-serif; background: light-dark(#fff, #12161b); color: light-dark(#17202a, #e3e8ee); }
h1 { font-size: 1.5rem; margin: 0; } h2 { font-size: 1.1rem; margin: 2.2rem 0 .6rem; } h2 small { font-weight: normal; color: var(--soft); }
.lead { color: var(--soft); margin: .2rem 0 1.4rem; }
ul.counts { list-style: none; display: flex; flex-wrap: wrap; gap: .6rem; padding: 0; margin: 0; }
ul.counts li { background: var(--panel); border: 1px solid var(--line); border-radius: 8px; padding: .5rem .9rem; min-width: 6.5rem; }
ul.counts b { display: block; font-size: 1.35rem; font-variant-numeric: tabular-nums; } ul.counts .zero { opacity: .5; } ul.counts .problems b { color: var(--red); }
table { border-collapse: collapse; width: 100%; table-layout: fixed; } th.n { width: 3.5rem; } th:nth-child(2) { width: 7rem; } th:nth-child(3) { width: 14rem; } th:nth-child(6) { width: 21rem; } th:nth-child(1):not(.n) { width: 9rem; } th { text-align: left; font-weight: 600; color: var(--soft); font-size: .85rem; }
th, td { padding: .35rem .7rem .35rem 0; border-bottom: 1px solid var(--line); vertical-align: top; } td.n, th.n { text-align: right; font-variant-numeric: tabular-nums; }
td.v { white-space: pre-wrap; overflow-wrap: anywhere; font-family: ui-monospace, monospace; font-size: .88rem; }
del { background: var(--out); color: var(--red); text-decoration-thickness: 1px; padding: 0 .2em; border-radius: 3px; } ins { background: var(--in); color: var(--green); text-decoration: none; padding: 0 .2em; border-radius: 3px; }
i { color: var(--soft); } .kind { font-weight: 600; } .added { color: var(--green); } .removed { color: var(--red); } .moved { color: var(--blue); }
dl { display: grid; grid-template-columns: max-content 1fr; gap: .1rem .8rem; margin: 0; } dt { color: var(--soft); } dd { margin: 0; }
code { font-size: .85rem; color: var(--soft); overflow-wrap: anywhere; } .hint { color: var(--soft); }
`;

export function htmlReport(input: ReportInput): string {
  const { source, tables, counts, changes, healed, problems, warnings, notes, follows } = input;
  const cards = countWords(counts).map(
    ([n, words, kind]) => `<li class="${kind}${n === 0 ? " zero" : ""}"><b>${n.toLocaleString("en")}</b>${words}</li>`,
  );
  const parts = [
    `<h1>What a fold would change</h1>`,
    `<p class="lead">Tables <b>${text(tables)}</b> against <b>${text(source)}</b></p>`,
    `<ul class="counts">${cards.join("")}</ul>`,
  ];
  const found = (list: readonly Problem[], what: string): string => table(["file", "#row", "column", "value", what], list.map(problemRow));
  if (warnings.length > 0) parts.push(section("Warnings", "of the plan's rules; they stop nothing", found(warnings, "what the plan says")));
  if (problems.length > 0)
    parts.push(section("Problems", "nothing is written while there are any", found(problems, "what is wrong, and what would be right")));
  for (const [name, list] of groupByTable(changes))
    parts.push(section(name, summary(list), table(["#row", "record", "what", "old", "new", "place"], list.map(changeRow))));
  if (follows.length > 0) {
    const rows = follows.map(
      (f) =>
        `<tr><td>${text(f.table)}</td><td>${text(f.record)}</td><td>${text(f.column)}</td><td class="v">${text(f.old)}</td><td class="v">${text(f.new)}</td></tr>`,
    );
    parts.push(section("Seen from the other side", "columns that show links", table(["table", "record", "column", "old", "new"], rows)));
  }
  if (healed.length > 0) {
    const rows = healed.map(
      (h) =>
        `<tr><td>${text(h.table)}</td><td class="n">${h.row}</td><td>${text(h.column)}</td><td class="v">${text(h.found)}</td><td class="v">${text(h.restored)}</td><td>${text(h.why)}</td></tr>`,
    );
    parts.push(
      section("Healed", "damage by a spreadsheet, taken back", table(["table", "#row", "column", "found", "restored", "why"], rows)),
    );
  }
  if (notes.length > 0)
    parts.push(
      section(
        "Notes",
        "",
        `<ul>${notes.map((note) => `<li>${note.table === "" ? "" : `<b>${text(note.table)}</b>: `}${text(note.message)}</li>`).join("")}</ul>`,
      ),
    );
  return `<!doctype html>\n<html lang="en">\n<head>\n<meta charset="utf-8">\n<meta name="viewport" content="width=device-width">\n<meta name="generator" content="${MADE_BY}">\n<title>Fold of ${text(tables)}</title>\n<style>${STYLE}</style>\n</head>\n<body>\n${parts.join("\n")}\n</body>\n</html>\n`;
}

function problemRow({ file, row, rows, column, value, message, hint }: Problem): string {
  const words = `${text(message)}${hint === "" ? "" : `<br><span class="hint">${text(hint)}</span>`}`;
  return `<tr><td>${text(file)}</td><td class="n">${(rows ?? (row === 0 ? [] : [row])).join(", ")}</td><td>${text(column)}</td><td class="v">${text(value)}</td><td>${words}</td></tr>`;
}

function changeRow(change: Change): string {
  const start = `<tr><td class="n">${rowWord(change)}</td><td>${text(change.record)}</td>`;
  const place = `<td><code>${text(change.path)}</code></td></tr>`;
  const kind = `<span class="kind ${change.kind}">${change.kind}</span>`;
  switch (change.kind) {
    case "changed":
      return `${start}<td>${text(change.column)}</td><td class="v">${old(change.old)}</td><td class="v">${now(change.new)}</td>${place}`;
    case "moved":
      return `${start}<td>${kind} ${text(holds(change))}</td><td class="v">${old(change.old)}</td><td class="v">${now(change.new)}</td>${place}`;
    case "removed":
      return `${start}<td colspan="3">${kind} ${text(holds(change))}</td>${place}`;
    case "added": {
      const cells = Object.entries(change.cells ?? {}).map(([title, value]) => `<dt>${text(title)}</dt><dd><ins>${text(value)}</ins></dd>`);
      return `${start}<td>${kind}</td><td colspan="2"><dl>${cells.join("")}</dl></td>${place}`;
    }
  }
}

function section(title: string, small: string, content: string): string {
  return `<section><h2>${text(title)} <small>${text(small)}</small></h2>${content}</section>`;
}

/** A title that begins with # is a column of numbers. */
function table(titles: readonly string[], rows: readonly string[]): string {
  const head = titles.map((title) => (title.startsWith("#") ? `<th class="n">${title.slice(1)}</th>` : `<th>${title}</th>`));
  return `<table><thead><tr>${head.join("")}</tr></thead><tbody>${rows.join("\n")}</tbody></table>`;
}

function summary(changes: readonly Change[]): string {
  const kinds = [
    ["changed", "cells changed"],
    ["added", "rows added"],
    ["removed", "rows removed"],
    ["moved", "rows moved"],
  ] as const;
  return kinds
    .map(([kind, words]) => [changes.filter((change) => change.kind === kind).length, words] as const)
    .filter(([n]) => n > 0)
    .map(([n, words]) => `${n} ${n === 1 ? words.replace("s ", " ") : words}`)
    .join(", ");
}

function old(cell: string | null): string {
  return cell === null || cell === "" ? `<i>${shown(cell)}</i>` : `<del>${text(cell)}</del>`;
}

function now(cell: string | null): string {
  return cell === null || cell === "" ? `<i>${shown(cell)}</i>` : `<ins>${text(cell)}</ins>`;
}

/** Lines stay lines: cells are shown with them. */
function text(value: string): string {
  return value
    .split(/\r\n|\n/)
    .map(visible)
    .join("\n")
    .replace(/[&<>"]/g, (c) => ({ "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" })[c]!);
}
