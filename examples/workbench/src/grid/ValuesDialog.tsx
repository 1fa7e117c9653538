/** The values of a column with their counts: those that are ticked are shown. */
import { useEffect, useState } from "react";
import { ask } from "../library";
import type { TableInfo, ValueCount } from "../protocol";
import { look } from "../store";
import { Dialog } from "../ui/Dialog";
import { Shown } from "./Shown";

interface Props {
  readonly table: TableInfo;
  readonly column: number;
  close(): void;
}

export function ValuesDialog({ table: { name, view, columns }, column, close }: Props) {
  const [values, setValues] = useState<readonly ValueCount[] | null>(null);
  const [ticked, setTicked] = useState<ReadonlySet<string> | null>(null);
  const [typed, setTyped] = useState("");
  useEffect(() => {
    void ask("values", name, column).then((found) => {
      setValues(found);
      const filter = view.filters.find((one) => one.column === column);
      setTicked(new Set(filter?.values ?? found.map(({ value }) => value)));
    });
  }, [name, column, view.filters]);
  const shown = values?.filter(({ value }) => value.toLowerCase().includes(typed.toLowerCase())) ?? [];
  const tick = (all: readonly string[], isOn: boolean) => {
    const next = new Set(ticked);
    for (const value of all)
      if (isOn) next.add(value);
      else next.delete(value);
    setTicked(next);
  };
  const apply = () => {
    const others = view.filters.filter((filter) => filter.column !== column);
    const isAll = values?.every(({ value }) => ticked?.has(value) === true) === true;
    void look(name, { ...view, filters: isAll ? others : [...others, { column, values: [...ticked!] }] });
    close();
  };
  return (
    <Dialog
      title={`Values of ${columns[column].title}`}
      about={
        values === null ? "Counting…" : `${values.length.toLocaleString("en")} different values. Rows with those that are ticked are shown.`
      }
      close={close}
    >
      <label className="field">
        Find a value
        <input type="search" value={typed} onChange={(event) => setTyped(event.target.value)} />
      </label>
      <div className="tools">
        <button
          onClick={() =>
            tick(
              shown.map(({ value }) => value),
              true,
            )
          }
        >
          Tick all
        </button>
        <button
          onClick={() =>
            tick(
              shown.map(({ value }) => value),
              false,
            )
          }
        >
          Tick none
        </button>
      </div>
      <ul className="values">
        {shown.map(({ value, count }) => (
          <li key={value}>
            <label>
              <input type="checkbox" checked={ticked?.has(value) === true} onChange={(event) => tick([value], event.target.checked)} />
              <span>{value === "" ? <em>blank</em> : <Shown text={value} />}</span>
              <b>{count.toLocaleString("en")}</b>
            </label>
          </li>
        ))}
      </ul>
      <footer>
        <button className="main" disabled={ticked === null || ticked.size === 0} onClick={apply}>
          Show these rows
        </button>
      </footer>
    </Dialog>
  );
}
