/** A workbook with one list to choose from. */
import type { SheetHints } from "../container.js";
import type { Receipt } from "../receipt.js";
import { XlsxSink } from "./sink.js";

/** `rows`: the titles, and behind them the list. */
export async function writeListBook(
  [titles, ...rows]: readonly (readonly string[])[],
  { sheet, receipt }: { readonly sheet: string; readonly receipt: Receipt },
  give: (bytes: Uint8Array) => void | Promise<void>,
): Promise<void> {
  const sink = new XlsxSink(give, [
    [{ text: `What a fold would change in ${receipt.source.file.split(/[/\\]/).at(-1)!}`, look: "heading" }],
    [{ text: `Each row of the sheet "${sheet}" is a change. Those that say yes under "take" are folded.` }],
    [],
    [
      { text: "to do this", look: "title" },
      { text: "do that", look: "title" },
    ],
    [{ text: "leave a change out" }, { text: 'Write no under "take", or delete the row.' }],
    [{ text: "change it to something else" }, { text: 'Write the value under "new", where a cell or a place changes.' }],
    [{ text: "fold what is left" }, { text: "hatchfold fold TABLES --in-place --taken THIS.xlsx" }],
  ]);
  const column = (title: string, isClosed: boolean, choices: readonly string[] = []): SheetHints["columns"] =>
    new Map([[title, { title, type: "text", required: false, isKey: false, isClosed, choices, refers: null, about: "" }]]);
  const columns = new Map(
    titles.flatMap((title) => [...column(title, title !== "take" && title !== "new", title === "take" ? ["yes", "no"] : [])]),
  );
  const out = await sink.create(sheet, { table: sheet, about: "", columns });
  out.titles(titles);
  for (const row of rows) {
    out.row(row);
    if (out.isFull) await out.flush();
  }
  await out.close();
  await sink.finish(receipt);
}
