/** The page: five steps from the source to the result, any of which can be gone back to. */
import { lazy, Suspense, useEffect } from "react";
import { Moon } from "lucide-react";
import { CompareStep } from "./steps/CompareStep";
import { FoldStep } from "./steps/FoldStep";
import { named, SourceStep } from "./steps/SourceStep";
import { TablesStep } from "./steps/TablesStep";
import { bringBack, cancel, dismiss, findKept, goTo, open, redo, STEPS, undo, useStore, type StepName } from "./store";

const PlanStep = lazy(() => import("./steps/PlanStep"));

const PAGES: Readonly<Record<StepName, React.ComponentType>> = {
  Source: SourceStep,
  Plan: PlanStep,
  Tables: TablesStep,
  Compare: CompareStep,
  Fold: FoldStep,
};

export function App() {
  const step = useStore((state) => state.step);
  const opened = useStore((state) => state.opened);
  const files = useStore((state) => state.files);
  const failure = useStore((state) => state.failure);
  const isUnsaved = useStore((state) => state.isUnsaved);
  useEffect(() => void findKept(), []);
  useEffect(() => {
    const ask = (event: BeforeUnloadEvent) => {
      if (useStore.getState().isUnsaved) event.preventDefault();
    };
    addEventListener("beforeunload", ask);
    return () => removeEventListener("beforeunload", ask);
  }, []);
  useEffect(() => {
    // F6 goes from one part of the page to the next; undo is for all of them
    const next = (event: KeyboardEvent) => {
      const isWriting = (event.target as Element).closest("input, textarea, select, [contenteditable]") !== null;
      if ((event.ctrlKey || event.metaKey) && !isWriting && !event.defaultPrevented && /^[zy]$/i.test(event.key)) {
        event.preventDefault();
        void (event.key.toLowerCase() === "y" || event.shiftKey ? redo() : undo());
      }
      if (event.key !== "F6") return;
      event.preventDefault();
      const parts = [
        ...document.querySelectorAll<HTMLElement>(
          "header nav button[aria-current], .list button[aria-current], .grid, main .tools button:not(:disabled), main h2",
        ),
      ];
      const at = parts.findIndex((part) => part.contains(document.activeElement));
      const to = parts[(at + (event.shiftKey ? parts.length - 1 : 1)) % parts.length];
      to?.focus();
    };
    addEventListener("keydown", next);
    return () => removeEventListener("keydown", next);
  }, []);
  const drop = (event: React.DragEvent) => {
    event.preventDefault();
    void dropped(event.dataTransfer).then((files) => {
      // what was taken to a spreadsheet comes back to the tables that it is of
      const isBack =
        step === "Tables" &&
        opened !== null &&
        files.every(({ name }) => /\.(?:xlsx|csv|zip|json)$/i.test(name)) &&
        files.some(({ name }) => /\.xlsx$|receipt\.json$|tables\.zip$/i.test(name));
      void (isBack ? bringBack(files) : open(files));
    });
  };
  const Page = PAGES[step];
  return (
    <div className="page" onDragOver={(event) => event.preventDefault()} onDrop={drop}>
      <header>
        <h1>
          Hatch Fold <small>workbench</small>
        </h1>
        <nav aria-label="Steps">
          <ol>
            {STEPS.map((name, i) => (
              <li key={name}>
                <button aria-current={name === step ? "step" : undefined} onClick={() => goTo(name)} disabled={opened === null && i > 0}>
                  <i aria-hidden>{i + 1}</i> {name}
                  {name === "Compare" && <Badge />}
                </button>
              </li>
            ))}
          </ol>
        </nav>
        <span className="name" data-testid="name">
          {opened?.name ?? ""}
          {isUnsaved && <small title="Kept in this browser, not yet taken along"> · edited</small>}
        </span>
        {(opened !== null || files.length > 0) && (
          <label className="button">
            Open
            <input
              type="file"
              multiple
              data-testid="open"
              onChange={(event) => {
                if (event.target.files !== null) void open([...event.target.files].map(named));
                event.target.value = "";
              }}
            />
          </label>
        )}
        <button className="plain" aria-label="Light or dark" title="Light or dark" onClick={turnScheme}>
          <Moon aria-hidden />
        </button>
      </header>
      {failure !== null && (
        <div className="failure" role="alert">
          <p>
            {failure.place !== "" && !failure.message.startsWith(failure.place) && <b>{failure.place}: </b>}
            {failure.message.replace(/\.$/, "")}. {failure.hint}
          </p>
          {failure.excerpt !== "" && <pre>{failure.excerpt}</pre>}
          <button onClick={dismiss}>Close</button>
        </div>
      )}
      <main>
        <Suspense fallback={<p className="empty">Loading…</p>}>
          <Page />
        </Suspense>
      </main>
      <Status />
    </div>
  );
}

/** What was done last, and what is under way. */
function Status() {
  const { message, busy, progress, isComparing, found } = useStore();
  // what a comparison found is said aloud, too
  const counts = found === null ? "" : `${counted(found.changes, "change")}, ${counted(found.counts.problems, "problem")}`;
  const doing = busy === "" ? "Comparing" : busy;
  return (
    <footer className="status">
      <span aria-live="polite" data-testid="message">
        {message}
      </span>
      <span className="unseen" aria-live="polite">
        {counts}
      </span>
      <span className="gap wide" />
      {(busy !== "" || isComparing) && (
        <span className="working">
          {doing}
          {progress !== null && <progress aria-label={doing} value={progress.part} max={1} />}
          {busy !== "" && <button onClick={() => void cancel()}>Stop</button>}
        </span>
      )}
    </footer>
  );
}

function counted(n: number, one: string): string {
  return `${n.toLocaleString("en")} ${one}${n === 1 ? "" : "s"}`;
}

function Badge() {
  const isComparing = useStore((state) => state.isComparing);
  const problems = useStore((state) => state.found?.problems.length ?? 0);
  const changes = useStore((state) => state.found?.changes ?? 0);
  if (isComparing) return <em>…</em>;
  if (problems > 0) return <em className="faulty">! {problems}</em>;
  return changes > 0 ? <em>{changes.toLocaleString("en")}</em> : null;
}

function turnScheme(): void {
  const { style } = document.documentElement;
  const isDark = style.colorScheme === "" ? matchMedia("(prefers-color-scheme: dark)").matches : style.colorScheme === "dark";
  style.colorScheme = isDark ? "light" : "dark";
}

/** Files that were dropped, those of folders too. */
async function dropped({ items, files }: DataTransfer): Promise<ReturnType<typeof named>[]> {
  const entries = [...items].map((item) => item.webkitGetAsEntry());
  if (!entries.some((entry) => entry?.isDirectory === true)) return [...files].map(named);
  const found: ReturnType<typeof named>[] = [];
  const visit = async (entry: FileSystemEntry | null): Promise<void> => {
    if (entry === null) return;
    if (entry.isFile) {
      const bytes = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject));
      found.push({ name: entry.fullPath.slice(1), bytes });
      return;
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    for (;;) {
      const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
      if (some.length === 0) return;
      for (const one of some) await visit(one);
    }
  };
  for (const entry of entries) await visit(entry);
  return found;
}
