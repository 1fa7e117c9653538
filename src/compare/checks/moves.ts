/** A record goes to another file as it is written: that file must be written in the same way. */
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";
import { fileOf } from "../places.js";

export function checkMoves({ moves }: Draft, ctx: Context): void {
  for (const [row, target] of moves) {
    const from = ctx.parts[row.snapshot.file];
    const to = fileOf(target, ctx);
    if (to === from || from.dialect.alike?.(ctx.styles[from.index], to.dialect, ctx.styles[to.index]) !== false) continue;
    ctx.findings.add("move-unlike", { from: from.name, to: to.name }, row.sheet.place(row.row, row.snapshot.table.holder ?? ""));
  }
}
