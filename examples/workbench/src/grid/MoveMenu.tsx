/** Moves the rows that are selected, where it says something at which place a row stands. */
import { useState } from "react";
import { ArrowDown, ArrowUp, ArrowUpDown, CornerDownRight } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import type { TableInfo, Where } from "../protocol";
import { edit } from "../store";
import { Dialog } from "../ui/Dialog";
import { inMain } from "../ui/inMain";

interface Props {
  readonly table: TableInfo;
  /** The first and the last row, by place in the view. */
  readonly from: number;
  readonly to: number;
  readonly disabled: boolean;
}

export function MoveMenu({ table, from, to, disabled }: Props) {
  const [isAsking, setAsking] = useState(false);
  const move = (where: Where) => void edit(table.name, { kind: "move rows", from, to, where });
  return (
    <>
      <DropdownMenu.Root modal={false}>
        <DropdownMenu.Trigger disabled={disabled} title="Where a row stands says something in this table">
          <ArrowUpDown aria-hidden /> Move
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal container={inMain()}>
          <DropdownMenu.Content className="menu">
            <DropdownMenu.Item onSelect={() => move("up")}>
              <ArrowUp aria-hidden /> Up <kbd>Alt ↑</kbd>
            </DropdownMenu.Item>
            <DropdownMenu.Item onSelect={() => move("down")}>
              <ArrowDown aria-hidden /> Down <kbd>Alt ↓</kbd>
            </DropdownMenu.Item>
            <DropdownMenu.Item onSelect={() => setAsking(true)}>
              <CornerDownRight aria-hidden /> To another place…
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {isAsking && <PlaceDialog rows={table.rows} count={to - from + 1} move={move} close={() => setAsking(false)} />}
    </>
  );
}

interface PlaceProps {
  readonly rows: number;
  readonly count: number;
  move(where: Where): void;
  close(): void;
}

function PlaceDialog({ rows, count, move, close }: PlaceProps) {
  const [typed, setTyped] = useState("");
  const number = Number(typed);
  const isFit = /^\d+$/.test(typed.trim()) && number >= 2 && number <= rows + 2;
  return (
    <Dialog
      title={count === 1 ? "Move the row" : `Move ${count.toLocaleString("en")} rows`}
      about={`Rows are numbered from 2 to ${(rows + 1).toLocaleString("en")}; in front of ${(rows + 2).toLocaleString("en")} is behind all.`}
      close={close}
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          close();
          move(number);
        }}
      >
        <label className="field">
          In front of row
          <input inputMode="numeric" value={typed} onChange={(event) => setTyped(event.target.value)} />
        </label>
        <footer>
          <button className="main" disabled={!isFit}>
            Move
          </button>
        </footer>
      </form>
    </Dialog>
  );
}
