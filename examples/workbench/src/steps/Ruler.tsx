/** The columns of a fixed-width file, on a ruler over its first lines: borders can be dragged, added and taken away. */
import { useEffect, useMemo, useRef, useState } from "react";
import { isMap, isScalar, isSeq, parseDocument, type Document } from "yaml";
import { ask } from "../library";
import { usePlan, useStore, goTo } from "../store";

const LINES = 4;

interface Field {
  readonly name: string;
  readonly from: number;
  readonly to: number;
}

interface Kind {
  readonly name: string;
  readonly tag: { readonly from: number; readonly to: number; readonly is: readonly string[] } | null;
  readonly fields: readonly Field[];
}

export default function Ruler() {
  const plan = useStore((state) => state.opened?.plan ?? "");
  const [text, setText] = useState(plan);
  const [lines, setLines] = useState<readonly string[]>([]);
  const [wrong, setWrong] = useState("");
  useEffect(() => setText(plan), [plan]);
  useEffect(() => {
    let isWanted = true;
    void ask("firstLines", 400).then((some) => isWanted && setLines(some));
    return () => {
      isWanted = false;
    };
  }, [plan]);
  const kinds = useMemo(() => kindsOf(parseDocument(text), Math.max(0, ...lines.map((line) => line.length))), [text, lines]);
  if (kinds.length === 0 || lines.length === 0) return null;
  const change = (edit: (document: Document) => void) => {
    const made = parseDocument(text);
    edit(made);
    setText(made.toString({ lineWidth: 0, flowCollectionPadding: true }));
    setWrong("");
  };
  const use = async () => {
    const failure = await usePlan(text);
    if (failure === null) goTo("Tables");
    else setWrong(`${failure.message}. ${failure.hint}`);
  };
  return (
    <div className="ruler">
      <h3>Columns</h3>
      <p className="soft">Drag a border, or move it with the arrow keys. Click above the lines to add one; Delete takes it away.</p>
      {kinds.map((kind) => (
        <OneKind
          key={kind.name}
          kind={kind}
          lines={lines
            .filter((line) => kind.tag === null || kind.tag.is.includes(line.slice(kind.tag.from - 1, kind.tag.to)))
            .slice(0, LINES)}
          change={change}
        />
      ))}
      {wrong !== "" && (
        <p className="told faulty" role="alert">
          {wrong}
        </p>
      )}
      <div className="tools">
        <button className="main" disabled={text === plan} onClick={() => void use()}>
          Use these columns
        </button>
        <button disabled={text === plan} onClick={() => setText(plan)}>
          As they were
        </button>
      </div>
    </div>
  );
}

interface OneKindProps {
  readonly kind: Kind;
  readonly lines: readonly string[];
  change(edit: (document: Document) => void): void;
}

function OneKind({ kind: { name, fields }, lines, change }: OneKindProps) {
  const track = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(8);
  useEffect(() => {
    const box = track.current?.querySelector(".probe")?.getBoundingClientRect();
    if (box !== undefined && box.width > 0) setWidth(box.width / 100);
  }, []);
  const longest = Math.max(1, ...lines.map((line) => line.length));
  const columnAt = (x: number): number => Math.round((x - track.current!.getBoundingClientRect().left) / width) + 1;
  const move = (at: number, to: number) => {
    const field = fields[at];
    const before = fields[at - 1];
    const least = before === undefined ? 1 : before.from + 1;
    const from = Math.max(least, Math.min(to, field.to));
    if (from === field.from) return;
    change((document) => {
      setColumns(document, name, field.name, from, field.to);
      if (before !== undefined && (before.to === field.from - 1 || before.to >= from))
        setColumns(document, name, before.name, before.from, from - 1);
    });
  };
  const add = (from: number) => {
    const at = fields.findIndex((field) => field.from < from && field.to >= from);
    if (at < 0) return;
    const field = fields[at];
    change((document) => {
      setColumns(document, name, field.name, field.from, from - 1);
      addField(document, name, freeName(fields, from), from, field.to);
    });
  };
  const remove = (at: number) => {
    if (at === 0) return;
    const [before, field] = [fields[at - 1], fields[at]];
    change((document) => {
      removeField(document, name, field.name);
      setColumns(document, name, before.name, before.from, field.to);
    });
  };
  return (
    <section aria-label={name}>
      <h4>{name}</h4>
      <div className="scroll" tabIndex={0} role="region" aria-label={`Lines of ${name}`}>
        <div className="track" ref={track} style={{ width: `${longest + 1}ch` }}>
          <span className="probe" aria-hidden>
            {"0".repeat(100)}
          </span>
          <div className="scale" aria-hidden onPointerDown={(event) => add(columnAt(event.clientX))}>
            {Array.from({ length: longest }, (_, i) =>
              (i + 1) % 10 === 0 ? String(((i + 1) / 10) % 10) : (i + 1) % 5 === 0 ? "+" : "·",
            ).join("")}
          </div>
          <pre>{lines.join("\n")}</pre>
          {fields.map((field, i) => (
            <span
              key={field.name}
              className="border"
              role="slider"
              tabIndex={0}
              aria-label={`${field.name} begins`}
              aria-valuenow={field.from}
              aria-valuemin={1}
              aria-valuemax={field.to}
              title={`${field.name}: ${field.from}-${field.to}`}
              style={{ insetInlineStart: `${field.from - 1}ch` }}
              onKeyDown={(event) => {
                if (event.key === "ArrowLeft") move(i, field.from - 1);
                else if (event.key === "ArrowRight") move(i, field.from + 1);
                else if (event.key === "Delete") remove(i);
                else return;
                event.preventDefault();
              }}
              onPointerDown={(event) => {
                event.preventDefault();
                event.currentTarget.focus();
                event.currentTarget.setPointerCapture(event.pointerId);
              }}
              onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && move(i, columnAt(event.clientX))}
            />
          ))}
        </div>
      </div>
      <p className="parts">
        {fields.map((field) => (
          <span key={field.name}>
            <b>{field.name}</b> {(lines[0] ?? "").slice(field.from - 1, field.to).trim()}
          </span>
        ))}
      </p>
    </section>
  );
}

// ---- the layout in the plan's text

type Path = readonly (string | number)[];

function layoutPath(document: Document): Path | null {
  const sources = document.get("sources");
  if (!isMap(sources)) return null;
  for (const { key } of sources.items) {
    const path = ["sources", keyText(key), "layout", "records"];
    if (document.hasIn(path)) return path;
  }
  return null;
}

function keyText(key: unknown): string {
  return isScalar(key) ? String(key.value) : String(key);
}

function kindsOf(document: Document, longest: number): Kind[] {
  const path = layoutPath(document);
  const records = path === null ? undefined : document.getIn(path);
  if (path === null || !isMap(records)) return [];
  return records.items.map(({ key }) => {
    const name = keyText(key);
    const tag = rangeOf(document.getIn([...path, name, "tag", "at"]), longest);
    const is = document.getIn([...path, name, "tag", "is"]);
    const words = isSeq(is) ? is.items.map(keyText) : is === undefined ? [] : [keyText(is)];
    const fields = document.getIn([...path, name, "fields"]);
    const found = isMap(fields)
      ? fields.items.flatMap(({ key: title }): Field[] => {
          const at = document.getIn([...path, name, "fields", keyText(title)]);
          const range = rangeOf(isMap(at) ? at.get("at") : at, longest);
          return range === null ? [] : [{ name: keyText(title), ...range }];
        })
      : [];
    return { name, tag: tag === null ? null : { ...tag, is: words }, fields: found.sort((a, b) => a.from - b.from) };
  });
}

function rangeOf(said: unknown, longest: number): { from: number; to: number } | null {
  const found = /^(\d+)(?:(-)(\d*))?$/.exec(typeof said === "string" || typeof said === "number" ? String(said) : "");
  if (found === null) return null;
  const from = Number(found[1]);
  return { from, to: found[2] === undefined ? from : found[3] === "" ? Math.max(from, longest) : Number(found[3]) };
}

function setColumns(document: Document, kind: string, field: string, from: number, to: number): void {
  const path = [...layoutPath(document)!, kind, "fields", field];
  const isLong = isMap(document.getIn(path));
  const was = String(document.getIn(isLong ? [...path, "at"] : path));
  document.setIn(isLong ? [...path, "at"] : path, was.endsWith("-") ? `${from}-` : `${from}-${to}`);
}

function freeName(fields: readonly Field[], from: number): string {
  for (let n = 1; ; n++) {
    const name = n === 1 ? `column ${from}` : `column ${from} ${n}`;
    if (!fields.some((field) => field.name === name)) return name;
  }
}

/** The table whose rows are records of that kind. */
function tableOf(document: Document, kind: string): string | null {
  const tables = document.get("tables");
  if (!isMap(tables)) return null;
  const found = tables.items.find(
    ({ key }) =>
      String(document.getIn(["tables", keyText(key), "rows"]))
        .split("/")
        .at(-1) === kind,
  );
  return found === undefined ? null : keyText(found.key);
}

function addField(document: Document, kind: string, name: string, from: number, to: number): void {
  document.setIn([...layoutPath(document)!, kind, "fields", name], document.createNode({ at: `${from}-${to}` }));
  const table = tableOf(document, kind);
  if (table !== null) document.setIn(["tables", table, "columns", name], document.createNode({ at: name, type: "text" }, { flow: true }));
}

function removeField(document: Document, kind: string, name: string): void {
  document.deleteIn([...layoutPath(document)!, kind, "fields", name]);
  const tables = document.get("tables");
  if (!isMap(tables)) return;
  for (const { key } of tables.items) {
    const table = keyText(key);
    const columns = document.getIn(["tables", table, "columns"]);
    if (!isMap(columns)) continue;
    for (const { key: title } of [...columns.items]) {
      const column = document.getIn(["tables", table, "columns", keyText(title)]);
      const at = String(isMap(column) ? column.get("at") : column);
      if (at === `${kind}/${name}` || (at === name && tableOf(document, kind) === table)) {
        if (document.getIn(["tables", table, "key"]) === keyText(title)) document.deleteIn(["tables", table, "key"]);
        document.deleteIn(["tables", table, "columns", keyText(title)]);
      }
    }
  }
}
