/** The plan: tables and columns to take, and the same as text, both ways. */
import { lazy, Suspense, useEffect, useMemo, useState } from "react";
import { ChevronDown, ChevronRight, Settings2 } from "lucide-react";
import { isMap, parseDocument, type Document, type YAMLMap } from "yaml";
import type { Failure } from "../protocol";
import { goTo, save, usePlan, useStore } from "../store";
import { ColumnDialog } from "./ColumnDialog";
import { Sample } from "./Sample";

const PlanText = lazy(() => import("./PlanText"));

export default function PlanStep() {
  const opened = useStore((state) => state.opened);
  if (opened === null) return <p className="empty">Open a file first: a plan for it is drafted here.</p>;
  return <Plan key={opened.name} text={opened.plan} />;
}

function Plan({ text: taken }: { readonly text: string }) {
  const steps = useStore((state) => state.steps);
  const [text, setText] = useState(taken);
  // tables and columns that were left out can be had again
  const [whole, setWhole] = useState(taken);
  const [failure, setFailure] = useState<Failure | null>(null);
  const [typed, setTyped] = useState("");
  const [chosen, setChosen] = useState(() => useStore.getState().current);
  useEffect(() => setText(taken), [taken]);
  const document = useMemo(() => parseDocument(text), [text]);
  const all = useMemo(() => parseDocument(whole), [whole]);
  const isBroken = document.errors.length > 0;
  const change = (edit: (document: Document) => void) => {
    const made = parseDocument(text);
    edit(made);
    setText(made.toString({ lineWidth: 0, flowCollectionPadding: true }));
    setFailure(null);
  };
  const use = async () => {
    const wrong = await usePlan(text);
    setFailure(wrong);
    if (wrong === null) goTo("Tables");
  };
  const read = async (files: FileList | null) => {
    const file = files?.[0];
    if (file === undefined) return;
    const own = await file.text();
    setText(own);
    setWhole(own);
    setFailure(null);
  };
  const isSame = text === taken;
  return (
    <div className="plan">
      <section aria-label="Tables and columns" className="chooser">
        <h2>Take</h2>
        <label className="field">
          Find a column
          <input type="search" value={typed} onChange={(event) => setTyped(event.target.value)} />
        </label>
        {isBroken ? (
          <p className="told faulty">The text at the side is not YAML: mend it there first.</p>
        ) : (
          <Tables document={document} all={all} typed={typed} change={change} choose={setChosen} />
        )}
      </section>
      <section aria-label="The plan as text" className="text">
        <div className="tools">
          <h2>The plan</h2>
          <label className="button">
            Open a plan
            <input type="file" accept=".yaml,.yml" onChange={(event) => void read(event.target.files)} />
          </label>
          <button onClick={() => save({ name: "plan.yaml", bytes: new Blob([text]) }, false)}>Take it along</button>
          <button disabled={isSame} onClick={() => setText(taken)}>
            As it was
          </button>
          <span className="gap wide" />
          <button className="main" disabled={isSame || isBroken} onClick={() => void use()}>
            Use this plan
          </button>
        </div>
        {failure !== null && (
          <p className="told faulty" role="alert">
            {failure.line === undefined ? "" : `Line ${failure.line}: `}
            {failure.message}. {failure.hint}
          </p>
        )}
        {!isSame && steps > 0 && <p className="soft">Your edits go along to the tables and columns that stay.</p>}
        <Suspense fallback={<p className="soft">Loading the editor…</p>}>
          <PlanText
            text={text}
            line={failure?.line ?? document.errors[0]?.linePos?.[0].line}
            change={(now) => {
              setText(now);
              setFailure(null);
            }}
          />
        </Suspense>
        {!isBroken && document.hasIn(["tables", chosen]) && (
          <>
            <h2>First rows of {chosen}</h2>
            <Sample plan={text} table={chosen} />
          </>
        )}
      </section>
    </div>
  );
}

interface TablesProps {
  readonly document: Document;
  /** With everything that could be taken. */
  readonly all: Document;
  readonly typed: string;
  change(edit: (document: Document) => void): void;
  /** Shows a table's first rows. */
  choose(table: string): void;
}

function Tables({ document, all, typed, change, choose }: TablesProps) {
  const names = keysOf(all, ["tables"]);
  const more = keysOf(document, ["tables"]).filter((name) => !names.includes(name));
  return (
    <ul className="take">
      {[...names, ...more].map((name) => (
        <OneTable
          key={name}
          name={name}
          document={document}
          all={names.includes(name) ? all : document}
          typed={typed}
          change={change}
          choose={choose}
        />
      ))}
    </ul>
  );
}

function OneTable({ name, document, all, typed, change, choose }: TablesProps & { readonly name: string }) {
  const path = ["tables", name];
  const isTaken = document.hasIn(path);
  const [isOpen, setOpen] = useState(true);
  const [asked, setAsked] = useState<string | null>(null);
  const columns = [...new Set([...keysOf(all, [...path, "columns"]), ...keysOf(document, [...path, "columns"])])];
  const shown = columns.filter((title) => `${name} ${title}`.toLowerCase().includes(typed.trim().toLowerCase()));
  if (typed.trim() !== "" && shown.length === 0) return null;
  const key = document.getIn([...path, "key"]) as string | undefined;
  const hasChildren = keysOf(document, ["tables"]).some((other) => document.getIn(["tables", other, "inside"]) === name);
  const tick = (titles: readonly string[], isOn: boolean) =>
    change((made) => {
      for (const title of titles)
        if (!isOn) made.deleteIn([...path, "columns", title]);
        else if (!made.hasIn([...path, "columns", title])) addAt(made, all, path, title);
    });
  return (
    <li>
      <div className="top">
        <input
          type="checkbox"
          aria-label={`Take ${name}`}
          checked={isTaken}
          disabled={isTaken && hasChildren}
          title={isTaken && hasChildren ? "Tables inside it are taken" : undefined}
          onChange={(event) => change((made) => (event.target.checked ? made.setIn(path, all.getIn(path)) : made.deleteIn(path)))}
        />
        <button className="plain" aria-expanded={isOpen} onClick={() => (setOpen(!isOpen), choose(name))}>
          {isOpen ? <ChevronDown aria-hidden /> : <ChevronRight aria-hidden />}
          <b>{name}</b>
        </button>
        <small>
          {keysOf(document, [...path, "columns"]).length} of {columns.length}
        </small>
      </div>
      {isTaken && (isOpen || typed.trim() !== "") && (
        <>
          <div className="tools">
            <button className="plain" onClick={() => tick(shown, true)}>
              All
            </button>
            <button
              className="plain"
              onClick={() =>
                tick(
                  shown.filter((title) => title !== key),
                  false,
                )
              }
            >
              None
            </button>
            <label>
              Key{" "}
              <select
                value={key ?? ""}
                onChange={(event) =>
                  change((made) =>
                    event.target.value === "" ? made.deleteIn([...path, "key"]) : made.setIn([...path, "key"], event.target.value),
                  )
                }
              >
                <option value="">none</option>
                {keysOf(document, [...path, "columns"]).map((title) => (
                  <option key={title}>{title}</option>
                ))}
              </select>
            </label>
          </div>
          <Layout document={document} path={path} change={change} />
          <ul>
            {shown.map((title) => (
              <li key={title}>
                <label>
                  <input
                    type="checkbox"
                    checked={document.hasIn([...path, "columns", title])}
                    disabled={title === key}
                    onChange={(event) => tick([title], event.target.checked)}
                  />{" "}
                  {title}
                </label>
                <small>{typeOf(document, [...path, "columns", title])}</small>
                {document.hasIn([...path, "columns", title]) && (
                  <button
                    className="plain"
                    aria-label={`Settings of ${title} of ${name}`}
                    onClick={() => {
                      choose(name);
                      setAsked(title);
                    }}
                  >
                    <Settings2 aria-hidden />
                  </button>
                )}
              </li>
            ))}
          </ul>
        </>
      )}
      {asked !== null && (
        <ColumnDialog
          document={document}
          table={name}
          title={asked}
          keyed={keysOf(document, ["tables"]).filter((other) => document.hasIn(["tables", other, "key"]))}
          change={change}
          close={() => setAsked(null)}
        />
      )}
    </li>
  );
}

/** How the rows of a list stand, where they are in other records. */
function Layout({ document, path, change }: Pick<TablesProps, "document" | "change"> & { readonly path: readonly string[] }) {
  const columns = keysOf(document, [...path, "columns"]);
  const isInside = document.hasIn([...path, "inside"]);
  const form = document.getIn([...path, "beneath"]) === true ? "beneath" : document.getIn([...path, "repeat"]) === true ? "repeat" : "own";
  const set = (word: string) =>
    change((made) => {
      made.deleteIn([...path, "beneath"]);
      made.deleteIn([...path, "repeat"]);
      if (word !== "own") made.setIn([...path, word], true);
    });
  return (
    <div className="tools">
      <label>
        Called by{" "}
        <select
          value={(document.getIn([...path, "label"]) as string | undefined) ?? ""}
          onChange={(event) =>
            change((made) =>
              event.target.value === "" ? made.deleteIn([...path, "label"]) : made.setIn([...path, "label"], event.target.value),
            )
          }
        >
          <option value="">no label</option>
          {columns.map((title) => (
            <option key={title}>{title}</option>
          ))}
        </select>
      </label>
      {isInside && (
        <label>
          Rows{" "}
          <select value={form} onChange={(event) => set(event.target.value)}>
            <option value="own">in a table of their own</option>
            <option value="beneath">beneath the record around</option>
            <option value="repeat">with its cells repeated</option>
          </select>
        </label>
      )}
    </div>
  );
}

function keysOf(document: Document, path: readonly string[]): string[] {
  const node = document.getIn(path);
  return isMap(node) ? node.items.map(({ key }) => String((key as { value?: unknown }).value ?? key)) : [];
}

function typeOf(document: Document, path: readonly string[]): string {
  const node = document.getIn(path);
  if (!isMap(node)) return "";
  const [type, refers] = [node.get("type"), node.get("refers")] as (string | undefined)[];
  return [type, refers === undefined ? undefined : `names ${refers}`].filter((part) => part !== undefined).join(", ");
}

/** A column that was left out stands where it stood. */
function addAt(made: Document, all: Document, path: readonly string[], title: string): void {
  const order = keysOf(all, [...path, "columns"]);
  const map = made.getIn([...path, "columns"]) as YAMLMap | undefined;
  const pair = (all.getIn([...path, "columns"]) as YAMLMap).items[order.indexOf(title)];
  if (map === undefined || !isMap(map)) {
    made.setIn([...path, "columns", title], all.getIn([...path, "columns", title], true));
    return;
  }
  const before = new Set(order.slice(0, order.indexOf(title)));
  let at = 0;
  map.items.forEach(({ key }, i) => {
    if (before.has(String((key as { value?: unknown }).value ?? key))) at = i + 1;
  });
  map.items.splice(at, 0, pair);
}
