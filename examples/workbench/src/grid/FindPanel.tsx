/** Find and replace, with all hits to be seen before anything is replaced. */
import { X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { ask } from "../library";
import type { Hit, Search, TableInfo } from "../protocol";
import { edit, useStore, type CellAt } from "../store";
import { Shown } from "./Shown";

interface Props {
  readonly table: TableInfo;
  close(): void;
  show(at: CellAt): void;
}

export function FindPanel({ table, close, show }: Props) {
  const revision = useStore((state) => state.revision);
  const [text, setText] = useState("");
  const [becomes, setBecomes] = useState("");
  const [isExact, setExact] = useState(true);
  const [isWhole, setWhole] = useState(false);
  const [column, setColumn] = useState(-1);
  const [found, setFound] = useState<{ total: number; hits: readonly Hit[] }>({ total: 0, hits: [] });
  const first = useRef<HTMLInputElement>(null);
  useEffect(() => first.current?.focus(), []);
  const { name } = table;
  const search: Search = { text, isExact, isWhole, columns: column < 0 ? null : [column] };
  useEffect(() => {
    let isWanted = true;
    const timer = setTimeout(() => {
      void ask("search", name, { text, isExact, isWhole, columns: column < 0 ? null : [column] }, becomes).then(
        (hits) => isWanted && setFound(hits),
      );
    }, 120);
    return () => {
      isWanted = false;
      clearTimeout(timer);
    };
  }, [name, text, isExact, isWhole, column, becomes, revision]);
  return (
    <section className="find" aria-label="Find and replace" onKeyDown={(event) => event.key === "Escape" && close()}>
      <div className="fields">
        <label className="field">
          Find
          <input ref={first} value={text} onChange={(event) => setText(event.target.value)} />
        </label>
        <label className="field">
          Replace with
          <input value={becomes} onChange={(event) => setBecomes(event.target.value)} />
        </label>
        <label className="field">
          In
          <select value={column} onChange={(event) => setColumn(Number(event.target.value))}>
            <option value={-1}>all columns</option>
            {table.columns.map(({ title, role }, i) =>
              role === "mark" || role === "action" ? null : (
                <option key={title} value={i}>
                  {title}
                </option>
              ),
            )}
          </select>
        </label>
        <label>
          <input type="checkbox" checked={isExact} onChange={(event) => setExact(event.target.checked)} /> capitals count
        </label>
        <label>
          <input type="checkbox" checked={isWhole} onChange={(event) => setWhole(event.target.checked)} /> whole cells
        </label>
        <button className="main" disabled={found.total === 0} onClick={() => void edit(name, { kind: "replace", search, becomes })}>
          Replace {found.total === 0 ? "" : found.total.toLocaleString("en")}
        </button>
        <button className="plain" aria-label="Close find and replace" onClick={close}>
          <X aria-hidden />
        </button>
      </div>
      <p aria-live="polite" className="soft">
        {text === "" && !isWhole
          ? "What is found is listed here."
          : `${found.total.toLocaleString("en")} found${found.total > found.hits.length ? `, the first ${found.hits.length} are listed` : ""}.`}
      </p>
      <ul className="hits">
        {found.hits.map(({ row, column: at, number, cell, becomes: made }) => (
          <li key={`${row} ${at}`}>
            <button className="plain" onClick={() => show({ row, column: at })}>
              row {number}, {table.columns[at].title}
            </button>{" "}
            <Shown text={cell} />
            {made !== cell && (
              <>
                {" → "}
                <ins>{made === "" ? "blank" : <Shown text={made} />}</ins>
              </>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
