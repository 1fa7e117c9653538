/** The tables: chosen at the side, edited in the grid. */
import { useCallback, useEffect, useState } from "react";
import {
  CopyPlus,
  Download,
  FileInput,
  ListPlus,
  ListX,
  Redo2,
  Search as SearchIcon,
  Trash2,
  Undo2,
  ArrowDownToLine,
  TrendingUp,
} from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { FindPanel } from "../grid/FindPanel";
import { Grid } from "../grid/Grid";
import { MoveMenu } from "../grid/MoveMenu";
import { ask } from "../library";
import { PLAIN_VIEW, type Range, type RowInfo, type TableInfo, type View } from "../protocol";
import { bringBack, edit, look, redo, takeAlong, undo, useStore, type CellAt } from "../store";
import { BroughtDialog } from "./BroughtDialog";
import { CellBar } from "./CellBar";
import { LinksView } from "./LinksView";
import { TableList } from "./TableList";
import { inMain } from "../ui/inMain";

/** Rows that link two tables can be seen as such. */
type Form = "rows" | "links" | "cross table";

const TOP: CellAt = { row: 0, column: 0 };

export function TablesStep() {
  const tables = useStore((state) => state.tables);
  const current = useStore((state) => state.current);
  const opened = useStore((state) => state.opened);
  const table = tables.find(({ name }) => name === current);
  if (opened === null || table === undefined) return <p className="empty">Open a file first: its tables are edited here.</p>;
  return (
    <div className="tables">
      <TableList />
      <Sheet key={table.name} table={table} isFirstLook={opened.isFirstLook} />
    </div>
  );
}

function Sheet({ table, isFirstLook }: { readonly table: TableInfo; readonly isFirstLook: boolean }) {
  const goal = useStore((state) => state.goal);
  const brought = useStore((state) => state.brought);
  const [focus, setFocus] = useState<CellAt>({ row: 0, column: Math.min(2, table.columns.length - 1) });
  const [anchor, setAnchor] = useState<CellAt>(focus);
  const [isFinding, setFinding] = useState(false);
  const [form, setForm] = useState<Form>("rows");
  const [row, setRow] = useState<RowInfo | undefined>();
  const select = useCallback((to: CellAt, from: CellAt = to) => {
    setFocus(to);
    setAnchor(from);
  }, []);
  useEffect(() => {
    if (goal?.table !== table.name) return;
    const { row: first, column, rows = 1 } = goal.at;
    setFocus((focus) => ({ row: first + rows - 1, column: column ?? focus.column }));
    setAnchor((anchor) => ({ row: first, column: column ?? anchor.column }));
  }, [goal, table.name]);
  const mayFind = !isFirstLook && form === "rows";
  useEffect(() => {
    // wherever the focus is: the browser's own search would find what is in view alone
    const onKeyDown = (event: KeyboardEvent) => {
      if (!mayFind || event.key.toLowerCase() !== "f" || !(event.ctrlKey || event.metaKey)) return;
      event.preventDefault();
      setFinding(true);
    };
    addEventListener("keydown", onKeyDown, true);
    return () => removeEventListener("keydown", onKeyDown, true);
  }, [mayFind]);
  const last = table.shown - 1;
  useEffect(() => {
    if (focus.row > last) select({ row: Math.max(0, last), column: focus.column });
  }, [focus, last, select]);
  const selection: Range = {
    top: Math.min(focus.row, anchor.row),
    bottom: Math.max(focus.row, anchor.row),
    left: Math.min(focus.column, anchor.column),
    right: Math.max(focus.column, anchor.column),
  };
  return (
    <section className="sheet" aria-label={table.name}>
      {isFirstLook && (
        <p className="strip" role="note">
          These are the first rows. The rest of the file is being read: then they can be edited.
        </p>
      )}
      <Tools table={table} selection={selection} isClosed={isFirstLook} isRows={form === "rows"} find={() => setFinding(!isFinding)} />
      <ViewStrip table={table} form={form} setForm={setForm} />
      {isFinding && <FindPanel table={table} close={() => setFinding(false)} show={select} />}
      {form !== "rows" ? (
        <LinksView table={table} isCross={form === "cross table"} />
      ) : table.shown === 0 ? (
        <p className="empty">{table.rows === 0 ? "This table has no rows yet." : "No row is shown by this view."}</p>
      ) : (
        <Grid table={table} selection={selection} select={select} focus={focus ?? TOP} seen={setRow} />
      )}
      {form === "rows" && <CellBar table={table} selection={selection} focus={focus} row={row} />}
      {brought !== null && <BroughtDialog brought={brought} />}
    </section>
  );
}

interface ToolsProps {
  readonly table: TableInfo;
  readonly selection: Range;
  readonly isClosed: boolean;
  /** Rows are seen, and not what they link. */
  readonly isRows: boolean;
  find(): void;
}

function Tools({ table, selection, isClosed, isRows, find }: ToolsProps) {
  const undoes = useStore((state) => state.undo);
  const redoes = useStore((state) => state.redo);
  const { name } = table;
  const { top, bottom } = selection;
  const has = table.shown > 0 && !isClosed && isRows;
  const pick = (files: FileList | null) => {
    if (files !== null && files.length > 0) void bringBack([...files].map((file) => ({ name: file.name, bytes: file })));
  };
  return (
    <div className="tools" role="toolbar" aria-label="Edit">
      <button
        onClick={() => void undo()}
        disabled={undoes === null}
        title={undoes === null ? "Nothing to undo" : `Undo: ${undoes} (Ctrl Z)`}
      >
        <Undo2 aria-hidden /> Undo
      </button>
      <button
        onClick={() => void redo()}
        disabled={redoes === null}
        title={redoes === null ? "Nothing to do again" : `Again: ${redoes} (Ctrl Y)`}
      >
        <Redo2 aria-hidden /> Redo
      </button>
      <span className="gap" />
      <button
        onClick={() => void edit(name, { kind: "insert", at: table.shown === 0 ? 0 : bottom + 1, count: bottom - top + 1 })}
        disabled={isClosed || !isRows}
        title="New rows below those selected"
      >
        <ListPlus aria-hidden /> Add
      </button>
      <button
        onClick={() => void edit(name, { kind: "copy rows", from: top, to: bottom })}
        disabled={!has}
        title="Copies below, with keys left to write"
      >
        <CopyPlus aria-hidden /> Copy rows
      </button>
      <button
        onClick={() => void edit(name, { kind: "remove rows", from: top, to: bottom })}
        disabled={!has}
        title="Remove the rows, or keep them again"
      >
        <Trash2 aria-hidden /> Remove
      </button>
      {table.isOrdered && <MoveMenu table={table} from={top} to={bottom} disabled={!has} />}
      <span className="gap" />
      <button
        onClick={() => void edit(name, { kind: "fill", range: selection, how: "down" })}
        disabled={!has}
        title="The first row of the selection into all others (Ctrl D)"
      >
        <ArrowDownToLine aria-hidden /> Fill down
      </button>
      <button
        onClick={() => void edit(name, { kind: "fill", range: selection, how: "series" })}
        disabled={!has}
        title="Go on counting from the first two rows"
      >
        <TrendingUp aria-hidden /> Series
      </button>
      <button onClick={find} disabled={isClosed || !isRows} title="Find and replace (Ctrl F)">
        <SearchIcon aria-hidden /> Find
      </button>
      <span className="gap wide" />
      <DropdownMenu.Root modal={false}>
        <DropdownMenu.Trigger disabled={isClosed}>
          <Download aria-hidden /> To a spreadsheet
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal container={inMain()}>
          <DropdownMenu.Content className="menu" align="end">
            <DropdownMenu.Item onSelect={() => void takeAlong("Writing the workbook", () => ask("exportTables", "workbook"))}>
              A workbook, a sheet a table
            </DropdownMenu.Item>
            <DropdownMenu.Item onSelect={() => void takeAlong("Writing the tables", () => ask("exportTables", "csv"))}>
              CSV files, in a zip
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <label className="button" aria-disabled={isClosed}>
        <FileInput aria-hidden /> Bring back
        <input
          type="file"
          multiple
          accept=".xlsx,.csv,.zip,.json"
          disabled={isClosed}
          data-testid="bring-back"
          onChange={(event) => (pick(event.target.files), (event.target.value = ""))}
        />
      </label>
    </div>
  );
}

/** What of the table is shown, when that is not all. */
function ViewStrip({ table, form, setForm }: { readonly table: TableInfo; readonly form: Form; setForm(form: Form): void }) {
  const { name, view, shown, rows, columns } = table;
  const set = (changed: Partial<View>) => void look(name, { ...view, ...changed });
  const isPlain = view.sort === null && view.filters.length === 0 && view.only === "all";
  return (
    <div className="view">
      <h2>{name}</h2>
      <span>
        {shown === rows
          ? `${rows.toLocaleString("en")} ${rows === 1 ? "row" : "rows"}`
          : `${shown.toLocaleString("en")} of ${rows.toLocaleString("en")} rows`}
      </span>
      {view.sort !== null && <em>sorted by {columns[view.sort.column].title}</em>}
      {view.filters.map(({ column }) => (
        <em key={column}>some values of {columns[column].title}</em>
      ))}
      <label>
        Rows{" "}
        <select value={view.only} onChange={(event) => set({ only: event.target.value as View["only"] })}>
          <option value="all">all</option>
          <option value="touched">that were edited</option>
          <option value="faulty">with problems</option>
        </select>
      </label>
      {columns.filter(({ refers }) => refers !== null).length > 1 && (
        <label>
          As{" "}
          <select aria-label="Seen as" value={form} onChange={(event) => setForm(event.target.value as Form)}>
            <option>rows</option>
            <option>links</option>
            <option>cross table</option>
          </select>
        </label>
      )}
      {!isPlain && (
        <button className="plain" onClick={() => void look(name, PLAIN_VIEW)}>
          <ListX aria-hidden /> Show all, as in the source
        </button>
      )}
    </div>
  );
}
