/** What a fold would change: every change by record, to be ticked, looked at in the source, or taken back. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, useEffect, useRef, useState } from "react";
import type { Change, Problem } from "hatch-fold";
import { Shown } from "../grid/Shown";
import { ask } from "../library";
import type { Around, ChangedRecord, ChangeFilter, Found, Lines } from "../protocol";
import { showRow, take, takeBack, useStore } from "../store";
import { Tick } from "../ui/Tick";

const PAGE = 50;
const NONE: ChangeFilter = { table: null, kind: null, text: "" };

export function CompareStep() {
  const opened = useStore((state) => state.opened);
  const found = useStore((state) => state.found);
  const isComparing = useStore((state) => state.isComparing);
  const [filter, setFilter] = useState(NONE);
  const [chosen, setChosen] = useState<ChangedRecord | null>(null);
  if (opened === null) return <p className="empty">Open a file and edit its tables: what that changes is shown here.</p>;
  if (found === null) return <p className="empty">{isComparing ? "Comparing…" : "What is there could not be compared."}</p>;
  const isNothing = found.changes + found.problems.length + found.warned.length + found.notes.length === 0;
  return (
    <div className="compare">
      <section aria-label="Changes" className="changes">
        <Counts found={found} />
        <Told found={found} />
        {found.records > 0 && <Filters found={found} filter={filter} setFilter={setFilter} />}
        {isNothing && <p className="empty">Nothing yet: the folded file would be the same, byte for byte.</p>}
        {found.records > 0 && <Records found={found} filter={filter} chosen={chosen} choose={setChosen} />}
      </section>
      {found.records > 0 && <Lens record={chosen} />}
    </div>
  );
}

function Counts({ found: { counts, healed } }: { readonly found: Found }) {
  const said: [number, string][] = [
    [counts.changed, "changed"],
    [counts.added, "added"],
    [counts.removed, "removed"],
    [counts.moved, "moved"],
    [healed.length, "healed"],
    [counts.problems, counts.problems === 1 ? "problem" : "problems"],
    [counts.warnings, counts.warnings === 1 ? "warning" : "warnings"],
  ];
  return (
    <dl className="counts" data-testid="counts">
      {said.map(([n, word], i) => (
        <div key={word} className={n === 0 ? "none" : i === 5 ? "faulty" : i === 6 ? "warned" : ""} hidden={n === 0 && i > 3}>
          <dd>{n.toLocaleString("en")}</dd>
          <dt>{word}</dt>
        </div>
      ))}
    </dl>
  );
}

function Told({ found: { problems, inTheWay, warned, notes } }: { readonly found: Found }) {
  return (
    <>
      {problems.length > 0 && (
        <Problems title="To be mended before anything is folded" list={problems} className="faulty">
          {inTheWay > 0 ? (
            <button onClick={() => void take(NONE, "problems", false)}>Leave these rows out</button>
          ) : (
            <span>
              They are left out of the fold. <button onClick={() => void take(NONE, "problems", true)}>Take them in again</button>
            </span>
          )}
        </Problems>
      )}
      {warned.length > 0 && <Problems title="Warnings, which stop nothing" list={warned} className="warned" />}
      {notes.length > 0 && (
        <ul className="lines notes" aria-label="Notes">
          {notes.map(({ table, message }) => (
            <li key={`${table} ${message}`}>
              {table !== "" && <b>{table}</b>} {message}
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

interface ProblemsProps {
  readonly title: string;
  readonly list: readonly Problem[];
  readonly className: string;
  readonly children?: React.ReactNode;
}

function Problems({ title, list, className, children }: ProblemsProps) {
  return (
    <div className={`told ${className}`}>
      <h2>{title}</h2>
      <ul className="lines" aria-label={title}>
        {list.map(({ table, row, column, message, hint, rows }, i) => (
          <li key={i}>
            <button className="link" onClick={() => void showRow(table, row, column)}>
              {table} row {row}
              {rows === undefined ? "" : ` and ${rows.length - 1} more`} {column}
            </button>{" "}
            {message} <small>{hint}</small>
          </li>
        ))}
      </ul>
      {children}
    </div>
  );
}

interface FiltersProps {
  readonly found: Found;
  readonly filter: ChangeFilter;
  setFilter(filter: ChangeFilter): void;
}

function Filters({ found, filter, setFilter }: FiltersProps) {
  return (
    <div className="tools">
      <label>
        Table{" "}
        <select
          value={filter.table ?? ""}
          onChange={(event) => setFilter({ ...filter, table: event.target.value === "" ? null : event.target.value })}
        >
          <option value="">all</option>
          {found.tables.map(({ table, changes }) => (
            <option key={table} value={table}>
              {table} ({changes})
            </option>
          ))}
        </select>
      </label>
      <label>
        Changes{" "}
        <select
          value={filter.kind ?? ""}
          onChange={(event) => setFilter({ ...filter, kind: event.target.value === "" ? null : (event.target.value as Change["kind"]) })}
        >
          <option value="">all</option>
          <option>changed</option>
          <option>added</option>
          <option>removed</option>
          <option>moved</option>
        </select>
      </label>
      <label>
        with{" "}
        <input
          type="search"
          aria-label="Text in changes"
          value={filter.text}
          onChange={(event) => setFilter({ ...filter, text: event.target.value })}
        />
      </label>
      <span className="gap wide" />
      <span className="soft" data-testid="taken">
        {found.taken.toLocaleString("en")} of {found.records.toLocaleString("en")} {found.records === 1 ? "record is" : "records are"} to be
        folded
      </span>
      <button onClick={() => void take(filter, null, true)}>Tick these</button>
      <button onClick={() => void take(filter, null, false)}>Leave these out</button>
    </div>
  );
}

interface RecordsProps {
  readonly found: Found;
  readonly filter: ChangeFilter;
  readonly chosen: ChangedRecord | null;
  choose(record: ChangedRecord): void;
}

function Records({ found, filter, chosen, choose }: RecordsProps) {
  const scroll = useRef<HTMLDivElement>(null);
  const [total, setTotal] = useState(found.records);
  const [pages, setPages] = useState<ReadonlyMap<number, readonly ChangedRecord[]>>(new Map());
  const list = useVirtualizer({
    count: total,
    getScrollElement: () => scroll.current,
    estimateSize: () => 44,
    overscan: 3,
    useFlushSync: false,
  });
  const items = list.getVirtualItems();
  const [from, to] = [Math.floor((items[0]?.index ?? 0) / PAGE), Math.floor((items.at(-1)?.index ?? 0) / PAGE)];
  useEffect(() => setPages(new Map()), [filter]);
  useEffect(() => {
    let isWanted = true;
    for (let page = from; page <= to; page++)
      void ask("changes", filter, page * PAGE, (page + 1) * PAGE).then(
        (some) => {
          if (!isWanted) return;
          setTotal(some.total);
          setPages((known) => new Map(known).set(page, some.records));
        },
        () => undefined,
      );
    return () => {
      isWanted = false;
    };
  }, [found, filter, from, to]);
  return (
    <div className="scroll" ref={scroll} tabIndex={0} role="region" aria-label="Records with changes">
      <ol className="records" style={{ height: list.getTotalSize() }}>
        {items.map(({ index, start }) => {
          const record = pages.get(Math.floor(index / PAGE))?.[index % PAGE];
          return (
            <li
              key={index}
              ref={list.measureElement}
              data-index={index}
              style={{ transform: `translateY(${start}px)` }}
              aria-setsize={total}
              aria-posinset={index + 1}
            >
              {record === undefined ? (
                "…"
              ) : (
                <Record
                  record={record}
                  filter={filter}
                  isChosen={chosen?.table === record.table && chosen.row === record.row}
                  choose={choose}
                />
              )}
            </li>
          );
        })}
      </ol>
    </div>
  );
}

interface RecordProps {
  readonly record: ChangedRecord;
  readonly filter: ChangeFilter;
  readonly isChosen: boolean;
  choose(record: ChangedRecord): void;
}

const Record = memo(function Record({ record, filter, isChosen, choose }: RecordProps) {
  const { table, row, record: name, isTaken, changes } = record;
  return (
    <article className={`${isTaken ? "" : "left"} ${isChosen ? "chosen" : ""}`}>
      <label>
        <Tick label={`Fold ${table} ${name}`} isOn={isTaken} set={(isOn) => take(filter, [{ table, row }], isOn)} />
      </label>
      <div>
        <h2>
          <button className="link" onClick={() => void showRow(table, row, changes[0].column)}>
            {table} {name}
          </button>{" "}
          <small>row {row}</small>
        </h2>
        <ul>
          {changes.map((change, i) => (
            <li key={i}>
              <ChangeText change={change} />
            </li>
          ))}
        </ul>
      </div>
      <div className="do">
        <button className="plain" aria-pressed={isChosen} onClick={() => choose(record)}>
          Lines
        </button>
        <button className="plain" onClick={() => void takeBack(table, row)}>
          Take back
        </button>
      </div>
    </article>
  );
});

function ChangeText({ change }: { readonly change: Change }) {
  if (change.kind === "added") {
    const cells = Object.entries(change.cells ?? {}).filter(([, text]) => text !== "");
    return (
      <>
        <b className="added">+ added</b>{" "}
        <span className="soft">
          {cells
            .slice(0, 6)
            .map(([title, text]) => `${title}: ${text}`)
            .join(", ")}
        </span>
      </>
    );
  }
  if (change.kind === "removed")
    return <b className="removed">− removed{change.holds === undefined || change.holds === 0 ? "" : ` with ${change.holds} inside`}</b>;
  return (
    <>
      <b>{change.kind === "moved" ? "moved" : change.column}</b>{" "}
      <del>{change.old === "" || change.old === null ? "blank" : <Shown text={change.old} />}</del> →{" "}
      <ins>{change.new === "" || change.new === null ? "blank" : <Shown text={change.new} />}</ins>
    </>
  );
}

/** The source's lines around a change, as they are and as they would be. */
function Lens({ record }: { readonly record: ChangedRecord | null }) {
  const [seen, setSeen] = useState<{ readonly record: ChangedRecord; readonly around: Around | null } | null>(null);
  useEffect(() => {
    if (record === null) return;
    let isWanted = true;
    void ask("around", record.table, record.row).then(
      (around) => isWanted && setSeen({ record, around }),
      () => isWanted && setSeen({ record, around: null }),
    );
    return () => {
      isWanted = false;
    };
  }, [record]);
  return (
    <aside className="lens" aria-label="Lines of the source">
      <h2>In the source</h2>
      {record === null ? (
        <p className="soft">“Lines” beside a record shows what it changes in the source.</p>
      ) : seen?.record !== record ? (
        <p className="soft">Looking…</p>
      ) : seen.around === null ? (
        <p className="soft">There is nothing to show: the record cannot be folded alone, or the file is packed.</p>
      ) : (
        <>
          <h3>Now</h3>
          <Code lines={seen.around.before} others={seen.around.after} />
          <h3>After the fold</h3>
          <Code lines={seen.around.after} others={seen.around.before} />
        </>
      )}
    </aside>
  );
}

function Code({ lines, others }: { readonly lines: Lines; readonly others: Lines }) {
  const all = lines.text.split("\n");
  const theirs = others.text.split("\n");
  let head = 0;
  while (head < all.length && all[head] === theirs[head]) head++;
  let tail = 0;
  while (tail < all.length - head && tail < theirs.length - head && all.at(-1 - tail) === theirs.at(-1 - tail)) tail++;
  return (
    <pre tabIndex={0} aria-label="Lines">
      {all.map((line, i) => (
        <div key={i} className={i >= head && i < all.length - tail ? "differs" : ""}>
          <small>{lines.first + i}</small>
          {line}
        </div>
      ))}
    </pre>
  );
}
