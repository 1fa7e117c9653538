/** The title of a column, with what can be done by it: sorting, filtering by its values. */
import { ArrowDownAZ, ArrowUpAZ, ChevronDown, Filter, KeyRound, Link2, Lock, X } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import type { TableInfo } from "../protocol";
import { look } from "../store";
import { ValuesDialog } from "./ValuesDialog";
import { inMain } from "../ui/inMain";

interface Props {
  readonly table: TableInfo;
  readonly column: number;
  readonly style: React.CSSProperties;
  resize(width: number): void;
}

export function ColumnHead({ table, column, style, resize }: Props) {
  const { name, view, columns } = table;
  const { title, role, closed, refers, about, type, required } = columns[column];
  const [isChoosing, setChoosing] = useState(false);
  const sorted = view.sort?.column === column ? view.sort : null;
  const isFiltered = view.filters.some((filter) => filter.column === column);
  const sort = (down: boolean | null) => void look(name, { ...view, sort: down === null ? null : { column, down } });
  const icon = role === "key" ? <KeyRound aria-hidden /> : closed ? <Lock aria-hidden /> : refers !== null ? <Link2 aria-hidden /> : null;
  const also = role === "key" ? ", key" : closed ? ", not edited" : refers !== null ? `, names one of ${refers}` : "";
  return (
    <div
      role="columnheader"
      aria-colindex={column + 2}
      aria-sort={sorted === null ? undefined : sorted.down ? "descending" : "ascending"}
      className="title"
      style={style}
      title={[title, type === "any" ? "" : type, required ? "must be filled" : "", about].filter((part) => part !== "").join(", ")}
    >
      <DropdownMenu.Root modal={false}>
        <DropdownMenu.Trigger className="plain" tabIndex={-1} aria-label={`${title}${also}${isFiltered ? ", filtered" : ""}`}>
          {icon}
          <span className="name">{title}</span>
          {sorted !== null && (sorted.down ? <ArrowUpAZ aria-hidden /> : <ArrowDownAZ aria-hidden />)}
          {isFiltered && <Filter aria-hidden />}
          <ChevronDown className="more" aria-hidden />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal container={inMain()}>
          <DropdownMenu.Content className="menu" align="start">
            <DropdownMenu.Item onSelect={() => sort(false)}>
              <ArrowDownAZ aria-hidden /> Sort, first to last
            </DropdownMenu.Item>
            <DropdownMenu.Item onSelect={() => sort(true)}>
              <ArrowUpAZ aria-hidden /> Sort, last to first
            </DropdownMenu.Item>
            {view.sort !== null && (
              <DropdownMenu.Item onSelect={() => sort(null)}>
                <X aria-hidden /> As in the source
              </DropdownMenu.Item>
            )}
            <DropdownMenu.Separator />
            <DropdownMenu.Item onSelect={() => setChoosing(true)}>
              <Filter aria-hidden /> Values…
            </DropdownMenu.Item>
            {isFiltered && (
              <DropdownMenu.Item
                onSelect={() => void look(name, { ...view, filters: view.filters.filter((filter) => filter.column !== column) })}
              >
                <X aria-hidden /> Show all values
              </DropdownMenu.Item>
            )}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <span
        className="edge"
        aria-hidden
        onPointerDown={(event) => {
          event.preventDefault();
          const from = event.clientX;
          const width = event.currentTarget.parentElement!.offsetWidth;
          event.currentTarget.setPointerCapture(event.pointerId);
          event.currentTarget.onpointermove = (to) => resize(width + to.clientX - from);
          event.currentTarget.onpointerup = ({ currentTarget }) => ((currentTarget as HTMLElement).onpointermove = null);
        }}
      />
      {isChoosing && <ValuesDialog table={table} column={column} close={() => setChoosing(false)} />}
    </div>
  );
}
