/** The page: open a file, see its shape, edit its tables, see what would change, take the result. */
import type { Compared } from "hatch-fold";
import { useEffect, useRef, useState } from "react";
import { ask } from "./library";
import type { Named, Opened, Sheet } from "./protocol";
import { ChangesPane } from "./ChangesPane";
import { ShapePane } from "./ShapePane";
import { SheetGrid } from "./SheetGrid";
import demo from "../../../demo/register.json?url";

interface Document extends Opened {
  readonly name: string;
}

function named(files: FileList): Named[] {
  return [...files].map((file) => ({ name: file.name, bytes: file }));
}

export function App() {
  const [doc, setDoc] = useState<Document | null>(null);
  const [sheets, setSheets] = useState<readonly Sheet[]>([]);
  const [current, setCurrent] = useState(0);
  const [compared, setCompared] = useState<Compared | null>(null);
  const [error, setError] = useState("");
  const [busy, setBusy] = useState(false);
  const newest = useRef(0);

  async function open(files: readonly Named[]) {
    if (files.length === 0) return;
    setBusy(true);
    setError("");
    try {
      const opened = await ask("open", { files });
      setDoc({ ...opened, name: files.length === 1 ? files[0].name : `${files.length} files` });
      setSheets(opened.sheets);
      setCurrent(
        Math.max(
          0,
          opened.sheets.findIndex((sheet) => sheet.rows.length > 1),
        ),
      );
    } catch (failure) {
      setError((failure as Error).message);
    }
    setBusy(false);
  }

  async function openDemo() {
    const response = await fetch(demo);
    await open([{ name: "register.json", bytes: await response.blob() }]);
  }

  // every edit is compared; only the newest answer counts
  useEffect(() => {
    if (doc === null) return;
    const turn = ++newest.current;
    ask("compare", { sheets }).then(
      (result) => turn === newest.current && setCompared(result),
      (failure: Error) => setError(failure.message),
    );
  }, [doc, sheets]);

  async function download() {
    for (const file of await ask("fold", {})) {
      const link = document.createElement("a");
      link.href = URL.createObjectURL(file.bytes);
      link.download = file.name;
      link.click();
      setTimeout(() => URL.revokeObjectURL(link.href), 1000);
    }
  }

  const replace = (sheet: Sheet) => setSheets(sheets.map((one, i) => (i === current ? sheet : one)));
  const drop = (event: React.DragEvent) => {
    event.preventDefault();
    void open(named(event.dataTransfer.files));
  };

  const problems = compared?.problems.length ?? 0;
  return (
    <div className="page" onDragOver={(event) => event.preventDefault()} onDrop={drop}>
      <header>
        <h1>Hatch Fold</h1>
        <span className="name">{doc?.name ?? "flatten, edit, fold back"}</span>
        <label className="button">
          Open files
          <input type="file" multiple onChange={(event) => event.target.files !== null && void open(named(event.target.files))} />
        </label>
        <button onClick={() => void openDemo()}>Open the demo</button>
        {doc !== null && (
          <button className="main" disabled={problems > 0 || compared === null} onClick={() => void download()}>
            Download folded {doc.shape.source.files === undefined || doc.name.endsWith(".zip") ? "file" : "files"}
          </button>
        )}
      </header>
      {error !== "" && <p role="alert">{error}</p>}
      {doc === null ? (
        <main className="empty">
          <p>
            {busy
              ? "Reading…"
              : "Drop files here (JSON, XML, delimited, fixed-width or header lines; several of one kind, or a zip), or open the demo: the register of a made-up coastal lights authority."}
          </p>
          <p>The file does not leave this page. Its records become tables; edit them, and take the file back with exactly those edits.</p>
        </main>
      ) : (
        <main>
          <ShapePane shape={doc.shape} sheets={sheets} current={current} compared={compared} choose={setCurrent} />
          <SheetGrid key={`${doc.name} ${current}`} sheet={sheets[current]} original={doc.sheets[current]} change={replace} />
          <ChangesPane compared={compared} show={(table) => setCurrent(sheets.findIndex((sheet) => sheet.name === table))} />
        </main>
      )}
    </div>
  );
}
