/** The plan: tables and columns to take, and the same as text, both ways. */
import { lazy, Suspense, useEffect, useMemo, useState } from "react";
import { ChevronDown, ChevronRight, Settings2 } from "lucide-react";
import { isMap, parseDocument, type Document } from "yaml";
import type { Failure } from "../protocol";
import { goTo, save, usePlan, useStore } from "../store";
import { ColumnDialog } from "./ColumnDialog";
import { addAt, addTable, formOf, keysOf, leaveOut, shownIn } from "./layouts";
import { TableLayout } from "./TableLayout";
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
  const form = formOf(document, all, name);
  const isOwn = document.hasIn(path);
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
          checked={form !== null}
          disabled={isOwn && hasChildren}
          title={isOwn && hasChildren ? "Tables inside it are taken" : undefined}
          onChange={(event) => change((made) => (event.target.checked ? addTable(made, all, name) : leaveOut(made, all, name)))}
        />
        <button className="plain" aria-expanded={isOpen} onClick={() => (setOpen(!isOpen), choose(shownIn(document, all, name)))}>
          {isOpen ? <ChevronDown aria-hidden /> : <ChevronRight aria-hidden />}
          <b>{name}</b>
        </button>
        <small>
          {isOwn
            ? `${keysOf(document, [...path, "columns"]).length} of ${columns.length}`
            : form === null
              ? ""
              : `in ${shownIn(document, all, name)}`}
        </small>
      </div>
      {isOpen && (
        <TableLayout
          document={document}
          all={all}
          table={name}
          change={(edit) => {
            change((made) => {
              edit(made);
              choose(shownIn(made, all, name));
            });
          }}
        />
      )}
      {isOwn && (isOpen || typed.trim() !== "") && (
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
          </div>
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

function typeOf(document: Document, path: readonly string[]): string {
  const node = document.getIn(path);
  if (!isMap(node)) return "";
  const [type, refers] = [node.get("type"), node.get("refers")] as (string | undefined)[];
  return [type, refers === undefined ? undefined : `names ${refers}`].filter((part) => part !== undefined).join(", ");
}
