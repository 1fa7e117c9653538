/** How the records of a table are known and shown: their key and label, the form of their rows, and what that form asks for. */
import { Settings2 } from "lucide-react";
import { useState } from "react";
import type { Document } from "yaml";
import { cellWord, formOf, formsOf, keysOf, setCellWord, setForm, setTree, treeOf, treesOf, type Form } from "./layouts";

interface Props {
  readonly document: Document;
  readonly all: Document;
  readonly table: string;
  change(edit: (document: Document) => void): void;
}

const WORDS: Record<Form, string> = {
  own: "in their own table",
  beneath: "beneath the record around",
  repeat: "with its cells repeated",
  packed: "in one cell",
  spread: "in numbered columns",
  cross: "as a cross table",
  tree: "as a tree",
};

export function TableLayout({ document, all, table, change }: Props) {
  const [isOpen, setOpen] = useState(false);
  const form = formOf(document, all, table);
  if (form === null) return null;
  const path = ["tables", table];
  const forms = formsOf(document, all, table);
  const titles = keysOf(document, [...path, "columns"]);
  const said = (...words: readonly string[]): string => {
    const value = document.getIn([...path, ...words]);
    return typeof value === "string" ? value : "";
  };
  const isRows = form === "own" || form === "beneath" || form === "repeat";
  const inCells = form === "packed" || form === "spread";
  const word = (one: string, fallback: string): string => (said(one) === "" ? fallback : `${one} ${said(one)}`);
  const parts = [inCells ? "" : word("key", "no key"), WORDS[form], said("order") === "sheet" ? "in order" : ""];
  const summary = parts.filter((part) => part !== "").join(", ");
  const put = (one: string, value: string) =>
    change((made) => (value === "" ? made.deleteIn([...path, one]) : made.setIn([...path, one], value)));
  const named = titles.map((title) => [title, title] as const);
  return (
    <>
      <button
        className="plain summary"
        aria-expanded={isOpen}
        aria-label={`Layout of ${table}: ${summary}`}
        onClick={() => setOpen(!isOpen)}
      >
        <Settings2 aria-hidden /> {summary}
      </button>
      {isOpen && (
        <div className="layout">
          {!inCells && <Choice label="Key" value={said("key")} options={[["", "none"], ...named]} set={(title) => put("key", title)} />}
          {!inCells && (
            <Choice label="Called by" value={said("label")} options={[["", "no label"], ...named]} set={(title) => put("label", title)} />
          )}
          {(forms.length > 1 || form !== "own") && (
            <Choice
              label="Rows"
              value={form}
              options={[...new Set([form, ...forms])].map((one) => [one, WORDS[one]])}
              set={(one) => change((made) => setForm(made, all, table, one as Form))}
            />
          )}
          {inCells && (
            <label>
              <span>{form === "packed" ? "Separator" : "Columns"}</span>
              <input
                {...(form === "packed" ? {} : { type: "number", min: 1, max: 200 })}
                value={cellWord(document, all, table)}
                onChange={(event) => change((made) => setCellWord(made, all, table, event.target.value))}
              />
            </label>
          )}
          {form === "cross" &&
            (["down", "across", "cell"] as const).map((one) => (
              <Choice
                key={one}
                label={{ down: "Down", across: "Across", cell: "In cells" }[one]}
                value={said("cross", one)}
                options={[...(one === "cell" ? [["", "a sign"] as const] : []), ...named]}
                set={(title) =>
                  change((made) => (title === "" ? made.deleteIn([...path, "cross", one]) : made.setIn([...path, "cross", one], title)))
                }
              />
            ))}
          {form === "tree" && (
            <Choice
              label="Tree by"
              value={treeOf(document, table)}
              options={treesOf(document, table).map(({ value, words }) => [value, words])}
              set={(value) =>
                change((made) => {
                  setForm(made, all, table, "own");
                  setTree(made, table, value);
                })
              }
            />
          )}
          {isRows && (
            <label className="tick" title="Records stand in the file as their rows do in the sheet; rows can be moved">
              <input
                type="checkbox"
                checked={said("order") === "sheet"}
                onChange={(event) => put("order", event.target.checked ? "sheet" : "")}
              />{" "}
              the order of rows counts
            </label>
          )}
        </div>
      )}
    </>
  );
}

interface ChoiceProps {
  readonly label: string;
  readonly value: string;
  readonly options: readonly (readonly [value: string, words: string])[];
  set(value: string): void;
}

function Choice({ label, value, options, set }: ChoiceProps) {
  return (
    <label>
      <span>{label}</span>
      <select aria-label={label} value={value} onChange={(event) => set(event.target.value)}>
        {options.map(([one, words]) => (
          <option key={one} value={one}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}
