/** Lists of changes on disk, to choose from: delimited text, or a workbook. */
import { basename } from "node:path";
import { ByteWriter } from "../bytes/writer.js";
import type { Comparison } from "../compare/comparison.js";
import { TablesError } from "../errors/error.js";
import type { Listed } from "../fold/choice.js";
import { openCsv } from "../sheets/csv/sheet.js";
import { writeCells } from "../sheets/csv/write.js";
import { closing, openFile } from "./files.js";
import { OutFile } from "./out-file.js";
import { isWorkbookName } from "./tables-at.js";

const BYTE_ORDER_MARK = 0xfeff;

/** Writes the changes of a comparison as a list. */
export async function writeChangeList(comparison: Comparison, path: string, replace = false): Promise<void> {
  const { changeList, LIST_SHEET } = await import("../fold/choice.js");
  const rows = await changeList(comparison.changes);
  const out = await OutFile.begin(path, { replace });
  try {
    if (isWorkbookName(path)) {
      const { writeListBook } = await import("../sheets/xlsx/list.js");
      await writeListBook(rows, { sheet: LIST_SHEET, receipt: comparison.receipt }, (bytes) => out.write(bytes));
    } else {
      const text = new ByteWriter(1 << 16);
      text.text(String.fromCharCode(BYTE_ORDER_MARK));
      for (const row of rows) writeCells(text, row);
      await out.write(text.take());
    }
    await out.finish();
    await out.commit();
  } catch (error) {
    await out.abandon();
    throw error;
  }
}

/** The rows of a list that came back. */
export async function listAt(path: string): Promise<Listed[]> {
  const { LIST_SHEET, readList } = await import("../fold/choice.js");
  return closing(await openFile(path), async (source) => {
    if (!isWorkbookName(path)) return readList(await openCsv(basename(path), source, { isForeign: true }));
    const { XlsxContainer } = await import("../sheets/xlsx/container.js");
    const sheet = await new XlsxContainer(source).sheet(LIST_SHEET);
    if (sheet === null) throw new TablesError("sheet-missing", { file: LIST_SHEET, nearest: null }, { file: path });
    return readList(sheet);
  });
}
