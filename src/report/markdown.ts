/** The report as Markdown: for a commit, a ticket or a mail. */
import { pushAll } from "../bytes/lists.js";
import type { Change } from "../model/findings.js";
import type { ReportInput } from "./input.js";
import { countWords, groupByTable, holds, MADE_BY, rowWord, shown } from "./words.js";
import { visible } from "../errors/visible.js";

export function markdownReport(input: ReportInput): string {
  const { source, tables, counts, changes, healed, problems, warnings, notes, follows } = input;
  const lines = [
    "# What a fold would change",
    "",
    `<!-- ${MADE_BY} -->`,
    "",
    `Tables ${code(tables)} against ${code(source)}: ${countWords(counts)
      .filter(([n]) => n > 0)
      .map(([n, words]) => `${n} ${words}`)
      .join(", ")}.`,
  ];
  for (const [title, list] of [["Warnings", warnings] as const, ["Problems", problems] as const]) {
    if (list.length === 0) continue;
    lines.push(
      "",
      `## ${title}`,
      "",
      "| file | row | column | value | what is wrong | what would be right |",
      "|---|---:|---|---|---|---|",
    );
    for (const p of list)
      lines.push(row(p.file, (p.rows ?? (p.row === 0 ? [] : [p.row])).join(", "), p.column, p.value, p.message, p.hint));
  }
  for (const [table, list] of groupByTable(changes)) {
    lines.push("", `## ${escaped(table)}`, "", "| row | record | column | old | new |", "|---:|---|---|---|---|");
    for (const change of list) lines.push(row(rowWord(change), change.record, ...what(change)));
  }
  if (follows.length > 0) {
    lines.push("", "## Seen from the other side", "", "| table | record | column | old | new |", "|---|---|---|---|---|");
    for (const f of follows) lines.push(row(f.table, f.record, f.column, shown(f.old), shown(f.new)));
  }
  if (healed.length > 0) {
    lines.push("", "## Healed", "", "| table | row | column | found | restored | why |", "|---|---:|---|---|---|---|");
    for (const h of healed) lines.push(row(h.table, String(h.row), h.column, h.found, h.restored, h.why));
  }
  if (notes.length > 0)
    pushAll(lines, [
      "",
      "## Notes",
      "",
      ...notes.map((note) => `- ${note.table === "" ? "" : `${escaped(note.table)}: `}${escaped(note.message)}`),
    ]);
  return `${lines.join("\n")}\n`;
}

function what(change: Change): [string, string, string] {
  switch (change.kind) {
    case "changed":
      return [change.column, shown(change.old), shown(change.new)];
    case "moved":
      return [`moved ${holds(change)}`.trim(), shown(change.old), shown(change.new)];
    case "removed":
      return [`removed ${holds(change)}`.trim(), "", ""];
    case "added":
      return [
        "added",
        "",
        Object.entries(change.cells ?? {})
          .map(([title, value]) => `${title}: ${value}`)
          .join(", "),
      ];
  }
}

function row(...cells: readonly string[]): string {
  return `| ${cells
    .map((cell) =>
      cell
        .split(/\r\n?|\n/)
        .map(escaped)
        .join("<br>"),
    )
    .join(" | ")} |`;
}

/** Text that is only text: no mark-up, no HTML, no picture that is fetched when the report is opened. */
function escaped(text: string): string {
  return visible(text)
    .replace(/[\\`*[\]|!#~]|_(?=\W|$)|(?<=^|\W)_/g, "\\$&")
    .replaceAll("&", "&amp;")
    .replaceAll("<", "&lt;")
    .replaceAll(">", "&gt;");
}

function code(name: string): string {
  return name.includes("`") ? escaped(name) : `\`${visible(name)}\``;
}
