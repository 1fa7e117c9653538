/** What the cell in focus is: its column, what it says and said, and what is wrong with it. */
import { Shown } from "../grid/Shown";
import type { Range, RowInfo, TableInfo } from "../protocol";
import type { CellAt } from "../store";

interface Props {
  readonly table: TableInfo;
  readonly selection: Range;
  readonly focus: CellAt;
  readonly row: RowInfo | undefined;
}

export function CellBar({ table, selection, focus, row }: Props) {
  const column = table.columns[focus.column];
  if (column === undefined) return null;
  const { title, type, about, refers, required, closed } = column;
  const faults = row?.faults.filter((fault) => fault.column === focus.column || fault.column < 0) ?? [];
  const cells = (selection.bottom - selection.top + 1) * (selection.right - selection.left + 1);
  const what = [
    type === "any" || type === "text" ? "" : type,
    refers === null ? "" : `names one of ${refers}`,
    required ? "must be filled" : "",
    closed ? "not edited" : "",
    about,
  ].filter((part) => part !== "");
  return (
    <div className="cellbar">
      <div>
        <b>{title}</b>
        {what.length > 0 && <span className="soft"> {what.join(", ")}</span>}
        {cells > 1 && <span className="soft"> · {cells.toLocaleString("en")} cells selected</span>}
      </div>
      <div className="says">
        {row === undefined ? (
          ""
        ) : row.cells[focus.column] === "" ? (
          <i className="soft">blank</i>
        ) : (
          <Shown text={row.cells[focus.column] ?? ""} />
        )}
      </div>
      {faults.map(({ message, isWarning }) => (
        <div key={message} className={isWarning ? "warned" : "faulty"}>
          {isWarning ? "?" : "!"} {message}
        </div>
      ))}
    </div>
  );
}
