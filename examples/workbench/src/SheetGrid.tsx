/** One table, editable. A paste of several cells fills from the cell it is pasted at. */
import { useMemo, useState } from "react";
import { DataGrid, renderTextEditor, type CellPasteArgs, type Column } from "react-data-grid";
import "react-data-grid/lib/styles.css";
import type { Sheet } from "./protocol";

interface Row {
  readonly index: number;
  readonly cells: readonly string[];
}

interface Props {
  readonly sheet: Sheet;
  readonly original: Sheet;
  change(sheet: Sheet): void;
}

export function SheetGrid({ sheet, original, change }: Props) {
  const [selected, setSelected] = useState<number | null>(null);
  const rows = useMemo(() => sheet.rows.map((cells, index): Row => ({ index, cells })), [sheet]);
  const was = useMemo(() => new Map(original.rows.map((cells) => [cells[0], cells])), [original]);
  const put = (index: number, column: number, values: readonly (readonly string[])[]) => {
    const next = sheet.rows.map((cells, r) => {
      const pasted = values[r - index];
      if (r < index || pasted === undefined) return cells;
      return cells.map((cell, c) =>
        c >= column && pasted[c - column] !== undefined && !sheet.fixed.includes(sheet.titles[c]) ? pasted[c - column] : cell,
      );
    });
    change({ ...sheet, rows: next });
  };
  const columns = sheet.titles.map((title, c): Column<Row> => {
    const fixed = sheet.fixed.includes(title);
    return {
      key: String(c),
      name: title,
      resizable: true,
      frozen: c === 0,
      width: title.startsWith("fold") ? 96 : undefined,
      minWidth: 90,
      editable: !fixed,
      renderEditCell: fixed ? undefined : renderTextEditor,
      cellClass: ({ cells }: Row) =>
        [fixed && "fixed", cells[0] === "" ? "new" : was.get(cells[0])?.[c] !== cells[c] && "edited"].filter(Boolean).join(" "),
      renderCell: ({ row }) => row.cells[c],
    };
  });
  // the grid edits by column key: rows are proxies that look their cells up
  const gridRows = useMemo(
    () => rows.map((row) => Object.assign(Object.fromEntries(row.cells.map((cell, c) => [String(c), cell])), row) as Row),
    [rows],
  );
  const paste = ({ row, column }: CellPasteArgs<Row>, event: React.ClipboardEvent) => {
    const lines = event.clipboardData
      .getData("text/plain")
      .replace(/\r?\n$/, "")
      .split(/\r?\n/);
    put(
      row.index,
      Number(column.key),
      lines.map((line) => line.split("\t")),
    );
    return row;
  };
  const addRow = () => change({ ...sheet, rows: [...sheet.rows, sheet.titles.map(() => "")] });
  const removeRow = () => {
    if (selected === null) return;
    const cells = sheet.rows[selected];
    // a row that was never in the source is simply taken away
    if (cells[0] === "") change({ ...sheet, rows: sheet.rows.filter((_, r) => r !== selected) });
    else put(selected, 1, [[cells[1] === "remove" ? "" : "remove"]]);
  };
  return (
    <section className="sheet" aria-label={sheet.name}>
      <div className="tools">
        <h2>{sheet.name}</h2>
        <button onClick={addRow}>Add a row</button>
        <button onClick={removeRow} disabled={selected === null}>
          Remove the row
        </button>
      </div>
      <DataGrid
        columns={columns}
        rows={gridRows}
        rowKeyGetter={(row) => row.index}
        rowClass={(row) => (row.cells[1] === "remove" ? "going" : undefined)}
        onActivePositionChange={({ row }) => setSelected(row?.index ?? null)}
        onRowsChange={(changed, { indexes, column }) => {
          const index = indexes[0];
          put(index, Number(column.key), [[(changed[index] as unknown as Record<string, string>)[column.key]]]);
        }}
        onCellPaste={paste}
        className="grid"
      />
    </section>
  );
}
