/** What a cell says is a value that its column and its file can hold: of the type, one of the choices, not blank where it must not be. */
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";

export function checkCells(_: Draft, { typer, findings }: Context): void {
  for (const fault of typer.faults) findings.addOfColumn(fault);
  for (const { table, ...facts } of typer.changed.cleaned.columns.values()) findings.note("cells-cleaned", facts, table);
  for (const { table, ...facts } of typer.changed.lookedUp.columns.values()) findings.note("cells-in-part", facts, table);
  for (const [{ plan }, titles] of typer.meant)
    for (const title of new Set(titles))
      findings.note("cells-meant", { title, count: titles.filter((one) => one === title).length }, plan.name);
}
