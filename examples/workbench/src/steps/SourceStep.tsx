/** The source: opened here, with what it was taken for and what is in it. */
import { lazy, Suspense, useEffect, useState } from "react";
import type { Remark, Shape, ShapeKind } from "hatch-fold";
import { FolderOpen, ZoomIn, ZoomOut } from "lucide-react";
import { ask } from "../library";
import type { Named } from "../protocol";
import { choose, forget, goTo, open, reread, resume, showRemark, undoAll, useStore } from "../store";
import demo from "../../../../demo/register.json?url";

const Ruler = lazy(() => import("./Ruler"));

const FORMATS: readonly (readonly [name: string, title: string])[] = [
  ["json", "JSON"],
  ["json-lines", "JSON Lines"],
  ["xml", "XML"],
  ["delimited", "delimited text (CSV and its kin)"],
  ["fixed", "fixed-width lines"],
  ["tagged", "lines that begin with a tag"],
  ["segments", "segments, each ended by a sign"],
  ["content-lines", "contacts and calendars"],
  ["blocks", "blocks of header lines"],
];
const ENCODINGS = ["utf-8", "utf-16le", "utf-16be", "windows-1252", "windows-1250", "iso-8859-1", "iso-8859-2", "iso-8859-15", "macintosh"];

export async function openDemo(): Promise<void> {
  const response = await fetch(demo);
  await open([{ name: "register.json", bytes: await response.blob() }]);
}

export function SourceStep() {
  const opened = useStore((state) => state.opened);
  const shape = useStore((state) => state.shape);
  const busy = useStore((state) => state.busy);
  const files = useStore((state) => state.files);
  if (opened === null && files.length === 0) return <Start />;
  return (
    <div className="source">
      <section aria-label="How it is read">
        <Taken shape={shape} />
        {shape === null ? (
          <p className="soft">{busy === "" ? "It could not be read as that: say what it is, or open another file." : `${busy}…`}</p>
        ) : (
          <Remarks remarks={shape.remarks} />
        )}
        <Restored />
        <Notes />
      </section>
      {shape !== null && <Kinds shape={shape} />}
      {shape !== null && shape.kinds.length > 1 && <Diagram shape={shape} />}
    </div>
  );
}

function Start() {
  const kept = useStore((state) => state.kept);
  const [pasted, setPasted] = useState("");
  const pick = (list: FileList | null) => list !== null && void open([...list].map(named));
  return (
    <div className="start">
      <h2>Flatten records to tables, edit them, fold the edits back</h2>
      <p>
        Drop files anywhere on this page: JSON, XML, delimited, fixed-width or header lines; several of one kind, a folder, or a zip; with a
        plan, its files of several kinds and their schemas. Nothing leaves your machine.
      </p>
      <div className="tools">
        <label className="button main">
          <FolderOpen aria-hidden /> Open files
          <input type="file" multiple onChange={(event) => pick(event.target.files)} />
        </label>
        <label className="button">
          Open a folder
          <input type="file" ref={(input) => input?.setAttribute("webkitdirectory", "")} onChange={(event) => pick(event.target.files)} />
        </label>
        <button onClick={() => void openDemo()}>Open the demo</button>
      </div>
      {kept.length > 0 && (
        <section aria-label="Work in this browser">
          <h3>Go on with</h3>
          <ul className="lines">
            {kept.map(({ id, name, steps, at }) => (
              <li key={id}>
                <button className="link" onClick={() => void resume(id)}>
                  {name}
                </button>{" "}
                {steps === 1 ? "one edit" : `${steps} edits`}, last on {new Date(at).toLocaleString()}{" "}
                <button className="plain" onClick={() => void forget(id)} aria-label={`Forget ${name}`}>
                  Forget
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
      <details>
        <summary>Or paste text</summary>
        <label className="field">
          Records as text
          <textarea rows={6} value={pasted} onChange={(event) => setPasted(event.target.value)} spellCheck={false} />
        </label>
        <button disabled={pasted.trim() === ""} onClick={() => void open([{ name: "pasted text", bytes: new Blob([pasted]) }])}>
          Open the text
        </button>
      </details>
    </div>
  );
}

export function named(file: File): Named {
  return { name: file.webkitRelativePath === "" ? file.name : file.webkitRelativePath, bytes: file };
}

const MOST_NAMES = 12;

/** What the source was taken for, and how to say otherwise. */
function Taken({ shape }: { readonly shape: Shape | null }) {
  const { opened, reading, files } = useStore();
  const name = opened?.name ?? (files.length === 1 ? files[0].name : `${files.length} files`);
  return (
    <>
      <h2>{name}</h2>
      {files.length > 1 && (
        <p className="soft">
          {files
            .slice(0, MOST_NAMES)
            .map((file) => file.name)
            .join(", ")}
          {files.length > MOST_NAMES ? " …" : ""}
        </p>
      )}
      {shape !== null && (
        <p>
          {shape.source.title}
          {shape.source.why === "" ? "" : `: ${shape.source.why}`}. {shape.source.size.toLocaleString("en")} bytes
          {shape.source.files === undefined ? "" : ` in ${shape.source.files} files`}, {shape.source.encoding}
          {shape.source.bom ? " with a byte-order mark" : ""}.
        </p>
      )}
      {shape?.source.next !== undefined && (
        <p>
          If not, {shape.source.next.title}: {shape.source.next.why}.{" "}
          <button onClick={() => void reread({ ...reading, format: shape.source.next?.format })}>Read it as that</button>
        </p>
      )}
      {/* where a plan has several sources, it says how each is read */}
      <div className="tools" hidden={shape?.source.format === ""}>
        <label>
          Format{" "}
          <select
            value={reading.format ?? ""}
            onChange={(event) =>
              void reread({ encoding: reading.encoding, format: event.target.value === "" ? undefined : event.target.value })
            }
          >
            <option value="">{shape === null ? "found by looking" : `found: ${shape.source.title}`}</option>
            {FORMATS.map(([format, title]) => (
              <option key={format} value={format}>
                {title}
              </option>
            ))}
          </select>
        </label>
        <label>
          Encoding{" "}
          <select
            value={reading.encoding ?? ""}
            onChange={(event) => void reread({ ...reading, encoding: event.target.value === "" ? undefined : event.target.value })}
          >
            <option value="">{shape === null ? "found by looking" : `found: ${shape.source.encoding}`}</option>
            {ENCODINGS.map((encoding) => (
              <option key={encoding}>{encoding}</option>
            ))}
          </select>
        </label>
      </div>
      {shape !== null && /^(?:json|json-lines|xml)$/.test(shape.source.format) && <Schema />}
      {shape?.source.format === "delimited" && opened !== null && <Delimited settings={opened.settings} />}
      {shape?.source.format === "fixed" && opened !== null && (
        <Suspense>
          <Ruler />
        </Suspense>
      )}
      {shape !== null && shape.source.format !== "fixed" && shape.source.drawing.length > 0 && (
        <pre className="drawing" tabIndex={0} aria-label="The first lines, as they are taken apart">
          {shape.source.drawing.join("\n")}
        </pre>
      )}
      <div className="tools">
        <button className="main" disabled={opened === null} onClick={() => goTo("Tables")}>
          Edit the tables
        </button>
        <button disabled={opened === null} onClick={() => goTo("Plan")}>
          Choose tables and columns
        </button>
      </div>
    </>
  );
}

/** A schema of the owner's: what it does not allow is told before anything is folded. */
function Schema() {
  const reading = useStore((state) => state.reading);
  const pick = async (list: FileList | null) => {
    const files = [...(list ?? [])];
    if (files.length === 0) return;
    const schema = await Promise.all(files.map(async (file) => ({ file: file.name, text: await file.text() })));
    await reread({ ...reading, schema });
  };
  return (
    <div className="tools">
      <span className="soft">
        {reading.schema === undefined
          ? "Does the owner have a schema? Then fields that no record has yet, words and limits come from it."
          : `By ${reading.schema[0].file}.`}
      </span>
      <label className="button">
        {reading.schema === undefined ? "Take a schema" : "Another schema"}
        <input type="file" multiple accept=".json,.xsd" data-testid="schema" onChange={(event) => void pick(event.target.files)} />
      </label>
      {reading.schema !== undefined && <button onClick={() => void reread({ ...reading, schema: undefined })}>Without it</button>}
    </div>
  );
}

const DELIMITERS: readonly (readonly [delimiter: string, words: string])[] = [
  [",", "commas"],
  [";", "semicolons"],
  ["tab", "tabs"],
  ["|", "bars"],
  ["spaces", "spaces"],
];

/** What stands between the cells of delimited text, and where its titles are. */
function Delimited({ settings }: { readonly settings: Readonly<Record<string, unknown>> }) {
  const reading = useStore((state) => state.reading);
  const say = (word: string, value: unknown) =>
    void reread({ ...reading, format: "delimited", settings: { delimiter: ",", header: 1, ...settings, [word]: value } });
  const header = Number(settings.header ?? 1);
  const delimiter = (settings.delimiter as string | undefined) ?? ",";
  return (
    <div className="tools">
      <label>
        Between cells{" "}
        <select value={delimiter} onChange={(event) => say("delimiter", event.target.value)}>
          {DELIMITERS.some(([one]) => one === delimiter) || <option value={delimiter}>{delimiter}</option>}
          {DELIMITERS.map(([one, words]) => (
            <option key={one} value={one}>
              {words}
            </option>
          ))}
        </select>
      </label>
      <label>
        Titles{" "}
        <select value={header} onChange={(event) => say("header", Number(event.target.value))}>
          <option value={0}>none</option>
          {Array.from({ length: Math.max(12, header) }, (_, i) => (
            <option key={i} value={i + 1}>
              in line {i + 1}
            </option>
          ))}
        </select>
      </label>
    </div>
  );
}

function Remarks({ remarks }: { readonly remarks: readonly Remark[] }) {
  const opened = useStore((state) => state.opened);
  if (remarks.length === 0) return null;
  return (
    <>
      <h3>Worth a look</h3>
      <ul className="lines">
        {remarks.map((remark) => {
          const { kind, path, message } = remark;
          return (
            <li key={`${kind} ${path} ${message}`}>
              {kind !== "" && opened !== null ? (
                <button className="link" onClick={() => void showRemark(remark)}>
                  {kind} {path}
                </button>
              ) : (
                <b>
                  {kind} {path}
                </b>
              )}{" "}
              {message}
            </li>
          );
        })}
      </ul>
    </>
  );
}

/** Edits of last time are there again. */
function Restored() {
  const restored = useStore((state) => state.opened?.restored ?? 0);
  const steps = useStore((state) => state.steps);
  if (restored === 0 || steps === 0) return null;
  return (
    <p className="strip">
      {restored === 1 ? "The edit" : `The ${restored} edits`} of last time {restored === 1 ? "is" : "are"} there again.{" "}
      <button onClick={() => void undoAll()}>Start without {restored === 1 ? "it" : "them"}</button>
    </p>
  );
}

function Notes() {
  const notes = useStore((state) => state.opened?.notes);
  if (notes === undefined || notes.length === 0) return null;
  return (
    <ul className="lines notes">
      {notes.map((note) => (
        <li key={note}>{note}</li>
      ))}
    </ul>
  );
}

/** Kinds of record, nested, with their fields. */
function Kinds({ shape: { kinds } }: { readonly shape: Shape }) {
  const [chosen, setChosen] = useState("");
  const tables = useStore((state) => state.tables);
  const depth = (inside: string | null): number =>
    inside === null ? 0 : 1 + depth(kinds.find(({ name }) => name === inside)?.inside ?? null);
  const kind =
    kinds.find(({ name }) => name === chosen) ??
    kinds.reduce((one, other) => (other.count * other.fields.length > one.count * one.fields.length ? other : one), kinds[0]);
  if (kind === undefined) return null;
  return (
    <section aria-label="Kinds of record" className="kinds">
      <h2>What is in it</h2>
      <ul className="choose" aria-label="Kinds">
        {kinds.map(({ name, count, inside }) => (
          <li key={name}>
            <button
              aria-current={name === kind.name ? "true" : undefined}
              style={{ paddingInlineStart: `${0.6 + 0.9 * depth(inside)}rem` }}
              onClick={() => setChosen(name)}
            >
              <span>{name}</span>
              <small>{count.toLocaleString("en")}</small>
            </button>
          </li>
        ))}
      </ul>
      <Fields kind={kind} />
      {tables.some(({ name }) => name === kind.name) && <button onClick={() => choose(kind.name)}>Edit {kind.name}</button>}
    </section>
  );
}

function Fields({ kind }: { readonly kind: ShapeKind }) {
  return (
    <div className="scroll" tabIndex={0} role="region" aria-label={`Fields of ${kind.name}`}>
      <table>
        <thead>
          <tr>
            <th scope="col">field</th>
            <th scope="col">in</th>
            <th scope="col">holds</th>
            <th scope="col">for example</th>
            <th scope="col">looks like</th>
          </tr>
        </thead>
        <tbody>
          {kind.fields.map(({ path, form, present, types, example, couldBeKey, couldRefer }) => (
            <tr key={`${path} ${form}`}>
              <th scope="row">{path}</th>
              <td>{present === kind.count ? "all" : present.toLocaleString("en")}</td>
              <td>{Object.keys(types).join(", ")}</td>
              <td className="example">{example ?? ""}</td>
              <td>
                {couldBeKey && <em>could be the key</em>}{" "}
                {couldRefer.length > 0 && <em>names {couldRefer.map((one) => one.kind).join(" or ")}</em>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Diagram({ shape }: { readonly shape: Shape }) {
  const [svg, setSvg] = useState("");
  const [zoom, setZoom] = useState(1);
  useEffect(() => {
    let isWanted = true;
    void ask("diagram").then((text) => isWanted && setSvg(text));
    return () => {
      isWanted = false;
    };
  }, [shape]);
  if (svg === "") return null;
  const width = Number(/width="([\d.]+)/.exec(svg)?.[1] ?? 600);
  return (
    <section aria-label="Diagram" className="diagram">
      <div className="tools">
        <h2>How they hang together</h2>
        <button aria-label="Smaller" onClick={() => setZoom(Math.max(0.25, zoom / 1.25))}>
          <ZoomOut aria-hidden />
        </button>
        <span className="soft">{Math.round(zoom * 100)} %</span>
        <button aria-label="Larger" onClick={() => setZoom(Math.min(4, zoom * 1.25))}>
          <ZoomIn aria-hidden />
        </button>
      </div>
      <div className="scroll" tabIndex={0} role="region" aria-label="Picture">
        <img
          alt={`Record kinds of ${shape.source.name}, and how they refer to each other`}
          src={`data:image/svg+xml,${encodeURIComponent(svg)}`}
          style={{ width: width * zoom }}
        />
      </div>
    </section>
  );
}
