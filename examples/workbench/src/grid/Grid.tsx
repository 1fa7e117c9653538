/**
 * A table as a grid (https://www.w3.org/WAI/ARIA/apg/patterns/grid/): rows and columns that are in view are in the page, one
 * cell has the focus, a block of them can be selected, copied, pasted over, filled and cleared.
 */
import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, useEffect, useLayoutEffect, useRef, useState } from "react";
import { ask } from "../library";
import type { ColumnInfo, Range, RowInfo, TableInfo } from "../protocol";
import { edit, paste, redo, tell, undo, useStore, type CellAt } from "../store";
import { ColumnHead } from "./ColumnHead";
import { Editor } from "./Editor";
import { Shown } from "./Shown";
import { useRows } from "./useRows";

const ROW = 27;
const GUTTER = 62;
const WIDTH = { mark: 116, action: 112, parent: 120, key: 120, cell: 160 } as const;

interface Props {
  readonly table: TableInfo;
  readonly selection: Range;
  select(focus: CellAt, anchor?: CellAt): void;
  readonly focus: CellAt;
  /** Told of the row in focus, when it is there. */
  seen(row: RowInfo | undefined): void;
}

export function Grid({ table, selection, select, focus, seen }: Props) {
  const scroll = useRef<HTMLDivElement>(null);
  const [writing, setWriting] = useState<{ readonly text: string; readonly isOwn: boolean } | null>(null);
  const [widths, setWidths] = useState<Readonly<Record<string, number>>>({});
  const revision = useStore((state) => state.revision);
  const { name, columns, shown } = table;

  const rows = useVirtualizer({
    count: shown,
    getScrollElement: () => scroll.current,
    estimateSize: () => ROW,
    overscan: 4,
    useFlushSync: false,
    paddingStart: ROW + 4,
  });
  const across = useVirtualizer({
    count: columns.length,
    horizontal: true,
    getScrollElement: () => scroll.current,
    estimateSize: (i) => widths[columns[i].title] ?? WIDTH[columns[i].role],
    overscan: 1,
    useFlushSync: false,
    paddingStart: GUTTER,
    scrollPaddingStart: GUTTER,
  });
  const seenRows = rows.getVirtualItems();
  const rowAt = useRows(name, revision, seenRows[0]?.index ?? 0, seenRows.at(-1)?.index ?? 0);

  useEffect(() => across.measure(), [across, widths, name]);
  useLayoutEffect(() => {
    rows.scrollToIndex(focus.row);
    across.scrollToIndex(focus.column);
  }, [rows, across, focus.row, focus.column, name]);
  const current = rowAt(focus.row);
  useEffect(() => seen(current), [seen, current]);

  const move = (row: number, column: number, isWider: boolean) => {
    const to = { row: clamp(row, shown - 1), column: clamp(column, columns.length - 1) };
    select(to, isWider ? anchorOf(selection, focus) : to);
  };
  /** Opens the editor with what is typed over the cell; `null`: with what the cell says. */
  const write = (typed: string | null) => {
    const { closed, title, role } = columns[focus.column];
    const row = rowAt(focus.row);
    // what is typed need not wait for a row that is on its way
    if (row === undefined && (closed || typed === null)) return;
    const text = typed ?? row?.cells[focus.column] ?? "";
    if (closed && row?.state !== "new") {
      tell(
        role === "mark" ? "Fold marks say which record a row is: they are not edited." : `"${title}" follows the source and is not edited.`,
      );
      return;
    }
    setWriting({ text, isOwn: typed === null });
  };
  const written = (text: string | null, then: "down" | "right" | "stay") => {
    setWriting(null);
    scroll.current?.focus();
    if (text !== null && text !== rowAt(focus.row)?.cells[focus.column])
      void edit(name, {
        kind: "put",
        range: { top: focus.row, bottom: focus.row, left: focus.column, right: focus.column },
        block: [[text]],
        how: "typed",
      });
    if (text !== null && then === "down") move(focus.row + 1, focus.column, false);
    if (text !== null && then === "right") move(focus.row, focus.column + 1, false);
  };

  const onKeyDown = (event: React.KeyboardEvent) => {
    const { key, shiftKey } = event;
    const isControl = event.ctrlKey || event.metaKey;
    if (event.altKey && (key === "ArrowUp" || key === "ArrowDown")) {
      event.preventDefault();
      const { top, bottom } = selection;
      void edit(name, { kind: "move rows", from: top, to: bottom, where: key === "ArrowUp" ? "up" : "down" });
      return;
    }
    const page = Math.max(1, Math.floor((scroll.current?.clientHeight ?? 400) / ROW) - 2);
    const moves: Record<string, readonly [number, number]> = {
      ArrowDown: [isControl ? shown - 1 : focus.row + 1, focus.column],
      ArrowUp: [isControl ? 0 : focus.row - 1, focus.column],
      ArrowRight: [focus.row, isControl ? columns.length - 1 : focus.column + 1],
      ArrowLeft: [focus.row, isControl ? 0 : focus.column - 1],
      PageDown: [focus.row + page, focus.column],
      PageUp: [focus.row - page, focus.column],
      Home: [isControl ? 0 : focus.row, 0],
      End: [isControl ? shown - 1 : focus.row, columns.length - 1],
    };
    const does: Record<string, () => unknown> = isControl
      ? {
          a: () => select({ row: shown - 1, column: columns.length - 1 }, { row: 0, column: 0 }),
          d: () => edit(name, { kind: "fill", range: selection, how: "down" }),
          z: () => (shiftKey ? redo() : undo()),
          y: redo,
        }
      : {
          Enter: () => write(null),
          F2: () => write(null),
          Delete: () => edit(name, { kind: "clear", range: selection }),
          Backspace: () => edit(name, { kind: "clear", range: selection }),
        };
    const run = does[isControl ? key.toLowerCase() : key];
    if (key in moves) move(...moves[key], shiftKey);
    else if (run !== undefined) void run();
    else if (key.length === 1 && !isControl && !event.altKey) write(key);
    // letters that are made of several strokes come into the editor when it is there before the first of them is done
    else if (key === "Dead" || key === "Process") return write("");
    else return;
    event.preventDefault();
  };

  /** The clipboard is written at once when all that is selected is there; else when it has come. */
  const copied = (data: DataTransfer) => {
    const there = Array.from({ length: selection.bottom - selection.top + 1 }, (_, i) => rowAt(selection.top + i));
    if (there.length <= 1 && there.every((row) => row !== undefined) && selection.left === selection.right) {
      data.setData("text/plain", quoted(there[0].cells[selection.left]));
      return Promise.resolve();
    }
    return ask("copy", name, selection).then((text) => navigator.clipboard.writeText(text));
  };
  const onCopy = (event: React.ClipboardEvent, isCut: boolean) => {
    if (writing !== null) return;
    event.preventDefault();
    const cells = (selection.bottom - selection.top + 1) * (selection.right - selection.left + 1);
    void copied(event.clipboardData).then(
      () =>
        void (isCut
          ? edit(name, { kind: "clear", range: selection, isCut: true })
          : tell(`${cells === 1 ? "One cell" : `${cells.toLocaleString("en")} cells`} copied.`)),
      () => tell("The browser did not let the cells be copied."),
    );
  };
  const onPaste = (event: React.ClipboardEvent) => {
    if (writing !== null) return;
    event.preventDefault();
    void paste(name, selection, event.clipboardData.getData("text/plain"));
  };

  const seenColumns = across.getVirtualItems();
  const down = useRef(false);
  const at = (event: React.PointerEvent): CellAt | null => {
    const cell = (event.target as Element).closest<HTMLElement>("[data-row]");
    return cell === null ? null : { row: Number(cell.dataset.row), column: Number(cell.dataset.column) };
  };
  return (
    <div
      ref={scroll}
      className="grid"
      role="grid"
      tabIndex={0}
      aria-label={`Rows of ${name}`}
      aria-rowcount={shown + 1}
      aria-colcount={columns.length + 1}
      aria-multiselectable
      aria-activedescendant={`cell-${focus.row}-${focus.column}`}
      onKeyDown={onKeyDown}
      onCopy={(event) => onCopy(event, false)}
      onCut={(event) => onCopy(event, true)}
      onPaste={onPaste}
      onPointerDown={(event) => {
        const cell = at(event);
        if (cell === null || event.button !== 0) return;
        down.current = true;
        const whole = cell.column < 0;
        const to = { row: cell.row, column: whole ? columns.length - 1 : cell.column };
        select(to, event.shiftKey ? anchorOf(selection, focus) : whole ? { row: cell.row, column: 0 } : to);
      }}
      onPointerMove={(event) => {
        const cell = down.current && event.buttons === 1 ? at(event) : null;
        if (cell !== null && cell.column >= 0) select(cell, anchorOf(selection, focus));
      }}
      onPointerUp={() => (down.current = false)}
      onDoubleClick={() => write(null)}
    >
      <div className="all" role="presentation" style={{ height: rows.getTotalSize(), width: across.getTotalSize() }}>
        <div className="head" role="row" aria-rowindex={1} style={{ width: across.getTotalSize() }}>
          <div role="columnheader" aria-colindex={1} className="corner">
            row
          </div>
          {seenColumns.map(({ index, start, size }) => (
            <ColumnHead
              key={columns[index].title}
              table={table}
              column={index}
              style={{ insetInlineStart: start, width: size }}
              resize={(width) => setWidths({ ...widths, [columns[index].title]: Math.max(48, width) })}
            />
          ))}
        </div>
        {seenRows.map(({ index, start }) => (
          <Row
            key={index}
            place={index}
            row={rowAt(index)}
            start={start}
            columns={seenColumns}
            infos={columns}
            left={index >= selection.top && index <= selection.bottom ? selection.left : -1}
            right={index >= selection.top && index <= selection.bottom ? selection.right : -1}
            focus={index === focus.row ? focus.column : -1}
          />
        ))}
        {writing !== null && (
          <Editor
            key={`${focus.row} ${focus.column}`}
            table={name}
            column={focus.column}
            info={columns[focus.column]}
            text={writing.text}
            isOwn={writing.isOwn}
            style={{
              top: focus.row * ROW + ROW + 4,
              insetInlineStart: across.measurementsCache[focus.column]?.start,
              minWidth: across.measurementsCache[focus.column]?.size,
            }}
            done={written}
          />
        )}
      </div>
    </div>
  );
}

interface RowProps {
  readonly place: number;
  readonly row: RowInfo | undefined;
  readonly start: number;
  readonly columns: readonly { readonly index: number; readonly start: number; readonly size: number }[];
  readonly infos: readonly ColumnInfo[];
  /** Columns that are selected in it, and that in focus; -1 for none. */
  readonly left: number;
  readonly right: number;
  readonly focus: number;
}

const SIGNS = { "as it was": "", changed: "•", new: "+", going: "−" } as const;

function signTitle({ state, isMoved }: RowInfo): string {
  const words = { "as it was": "", changed: "changed", new: "new", going: "will be removed" }[state];
  return [words, isMoved ? "moved" : ""].filter((word) => word !== "").join(", ");
}

const Row = memo(function Row({ place, row, start, columns, infos, left, right, focus }: RowProps) {
  return (
    <div role="row" aria-rowindex={place + 2} className={`row ${row?.state ?? "coming"}`} style={{ transform: `translateY(${start}px)` }}>
      <div role="rowheader" aria-colindex={1} className="gutter" data-row={place} data-column={-1}>
        {row === undefined ? "…" : row.number.toLocaleString("en")}
        {row !== undefined && (row.state !== "as it was" || row.isMoved) && (
          <span className="sign" title={signTitle(row)}>
            {SIGNS[row.state]}
            {row.isMoved && "↕"}
          </span>
        )}
      </div>
      {row !== undefined &&
        columns.map(({ index, start: at, size }) => {
          const faults = row.faults.filter(({ column }) => column === index || (column < 0 && index === 0));
          const isError = faults.some(({ isWarning }) => !isWarning);
          const isIn = index >= left && index <= right && left >= 0;
          const classes = [
            "cell",
            infos[index].closed && "closed",
            row.edited.includes(index) && "edited",
            isError ? "faulty" : faults.length > 0 && "warned",
            isIn && "in",
            index === focus && "focus",
          ];
          return (
            <div
              key={index}
              id={`cell-${place}-${index}`}
              role="gridcell"
              aria-colindex={index + 2}
              aria-selected={isIn}
              aria-invalid={isError || undefined}
              aria-readonly={infos[index].closed || undefined}
              data-row={place}
              data-column={index}
              className={classes.filter(Boolean).join(" ")}
              style={{ insetInlineStart: at, width: size }}
              title={faults.length > 0 ? faults.map(({ message }) => message).join("\n") : undefined}
            >
              <Shown text={row.cells[index] ?? ""} />
            </div>
          );
        })}
    </div>
  );
});

function clamp(value: number, most: number): number {
  return Math.max(0, Math.min(value, most));
}

/** The corner of the selection that is across from the focus. */
function anchorOf({ top, left, bottom, right }: Range, focus: CellAt): CellAt {
  return { row: focus.row === top ? bottom : top, column: focus.column === left ? right : left };
}

function quoted(cell: string): string {
  return /["\t\n\r]/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell;
}
