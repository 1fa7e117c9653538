/** What the plan says of one column: its title, what it may hold, and whose keys it names. */
import { useState } from "react";
import { isMap, type Document } from "yaml";
import { Dialog } from "../ui/Dialog";

const TYPES = ["any", "text", "integer", "decimal", "number", "boolean", "date"];

interface Props {
  readonly document: Document;
  readonly table: string;
  readonly title: string;
  /** Tables that have a key. */
  readonly keyed: readonly string[];
  change(edit: (document: Document) => void): void;
  close(): void;
}

export function ColumnDialog({ document, table, title, keyed, change, close }: Props) {
  const path = ["tables", table, "columns", title];
  const said = (word: string): string => {
    const value = document.getIn([...path, word]);
    return typeof value === "string" || typeof value === "boolean" || typeof value === "number" ? String(value) : "";
  };
  const [name, setName] = useState(title);
  const words = isMap(document.getIn([...path, "choices"]))
    ? Object.entries((document.getIn([...path, "choices"]) as { toJSON(): Record<string, string> }).toJSON())
        .map(([code, word]) => (code === word ? code : `${code}=${word}`))
        .join(", ")
    : "";
  const [choices, setChoices] = useState(words);
  const set = (word: string, value: unknown) => change((made) => put(made, path, word, value));
  const done = () => {
    const entries = choices.split(",").map((one) => one.trim().split("="));
    const renamed = name.trim();
    if (choices !== words || (renamed !== title && renamed !== ""))
      change((made) => {
        if (choices !== words)
          put(
            made,
            path,
            "choices",
            choices.trim() === "" ? undefined : Object.fromEntries(entries.map(([code, word = code]) => [code.trim(), word.trim()])),
          );
        if (renamed !== title && renamed !== "") rename(made, table, title, renamed);
      });
    close();
  };
  return (
    <Dialog title={`${title} of ${table}`} close={done}>
      <label className="field">
        Title
        <input value={name} onChange={(event) => setName(event.target.value)} />
      </label>
      <label className="field">
        May hold
        <select
          value={said("type") || "any"}
          onChange={(event) => set("type", event.target.value === "any" ? undefined : event.target.value)}
        >
          {TYPES.map((type) => (
            <option key={type}>{type}</option>
          ))}
        </select>
      </label>
      <label className="field">
        Names records of
        <select value={said("refers")} onChange={(event) => set("refers", event.target.value)}>
          <option value="">none</option>
          {keyed.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
      </label>
      <label className="field">
        Words to choose from (code, or code=word, with commas between)
        <input value={choices} onChange={(event) => setChoices(event.target.value)} />
      </label>
      <label className="field">
        Check (an expression that must be true, such as value &gt;= 0.0)
        <input defaultValue={said("check")} onBlur={(event) => set("check", event.target.value.trim())} />
      </label>
      <label>
        <input type="checkbox" checked={said("required") === "true"} onChange={(event) => set("required", event.target.checked)} /> must be
        filled
      </label>
      <label>
        <input type="checkbox" checked={said("read-only") === "true"} onChange={(event) => set("read-only", event.target.checked)} /> is not
        edited
      </label>
      <footer>
        <button className="main" onClick={done}>
          Done
        </button>
      </footer>
    </Dialog>
  );
}

/** A word of a column; nothing takes it away. A path alone becomes an entry with it. */
function put(made: Document, path: readonly string[], word: string, value: unknown): void {
  const column = made.getIn(path);
  if (!isMap(column)) made.setIn(path, made.createNode({ at: column }, { flow: true }));
  if (value === "" || value === undefined || value === false) made.deleteIn([...path, word]);
  else made.setIn([...path, word], made.createNode(value, { flow: true }));
}

function rename(made: Document, table: string, title: string, renamed: string): void {
  const map = made.getIn(["tables", table, "columns"]);
  if (!isMap(map)) return;
  const pair = map.items.find(({ key }) => String((key as { value?: unknown }).value ?? key) === title);
  if (pair !== undefined) pair.key = made.createNode(renamed);
  for (const word of ["key", "label"]) if (made.getIn(["tables", table, word]) === title) made.setIn(["tables", table, word], renamed);
}
