/** The result: folded and proved, to be taken along with reports, tables and the session. */
import { Check, Download } from "lucide-react";
import { ask } from "../library";
import type { Found, Wrote } from "../protocol";
import { foldNow, goTo, save, takeAlong, useStore } from "../store";

const sizeOf = (bytes: number): string =>
  bytes < 10_000
    ? `${bytes.toLocaleString("en")} bytes`
    : bytes < 10_000_000
      ? `${Math.round(bytes / 1000).toLocaleString("en")} kB`
      : `${Math.round(bytes / 1e6).toLocaleString("en")} MB`;

function takenWords({ taken, records }: Found): string {
  if (records === 1) return taken === 1 ? "The record with changes goes" : "The record with changes does not go";
  return `${taken === records ? "All" : `${taken.toLocaleString("en")} of`} ${records.toLocaleString("en")} records with changes go`;
}

/** stations: 2 changed, 1 removed. */
function wroteWords({ table, counts }: Wrote): string {
  return `${table}: ${Object.entries(counts)
    .map(([kind, count]) => `${count.toLocaleString("en")} ${kind}`)
    .join(", ")}`;
}

export function FoldStep() {
  const opened = useStore((state) => state.opened);
  const found = useStore((state) => state.found);
  const isComparing = useStore((state) => state.isComparing);
  const made = useStore((state) => state.made);
  const busy = useStore((state) => state.busy);
  if (opened === null) return <p className="empty">Open a file first: the result is taken along here.</p>;
  const isJson = opened.name.toLowerCase().endsWith(".json");
  return (
    <div className="fold">
      <section aria-label="Result">
        <h2>Fold {opened.name}</h2>
        {found === null ? (
          <p className="soft">{isComparing ? "Comparing…" : "What is there could not be compared."}</p>
        ) : found.inTheWay > 0 ? (
          <p className="told faulty">
            {found.inTheWay === 1 ? "A problem is" : `${found.inTheWay} problems are`} in the way.{" "}
            <button className="link" onClick={() => goTo("Compare")}>
              See and mend
            </button>
            , or leave the rows out there.
          </p>
        ) : (
          <p>
            {found.records === 0
              ? "Nothing was edited: the result is the source, byte for byte."
              : `${takenWords(found)} into the result; every other byte stays as it is.`}
          </p>
        )}
        <button className="main" disabled={found === null || busy !== ""} onClick={() => void foldNow()}>
          Fold
        </button>
        {made !== null && (
          <div className="made" role="status">
            <p>
              <Check aria-hidden /> {made.proved ? "Folded and proved: the result was read again and says what the tables say." : "Folded."}
              {made.left > 0 && ` ${made.left === 1 ? "One record was" : `${made.left} records were`} left out.`}
            </p>
            <ul className="files">
              {[...made.files]
                .sort((a, b) => Number(a.unchanged) - Number(b.unchanged))
                .map((file) => (
                  <li key={file.name}>
                    <span>
                      <b>{file.name}</b> {sizeOf(file.bytes.size)}
                      <small> {file.unchanged ? "as it was" : file.wrote.map(wroteWords).join("; ")}</small>
                    </span>
                    <button className={file.unchanged ? "" : "main"} onClick={() => save(file)}>
                      <Download aria-hidden /> Take {file.name}
                    </button>
                  </li>
                ))}
            </ul>
          </div>
        )}
      </section>
      <section aria-label="Reports">
        <h2>What changes, to be shown to others</h2>
        <div className="tools">
          <button disabled={found === null} onClick={() => void takeAlong("Writing the report", () => ask("report", "html"), false)}>
            A page (HTML)
          </button>
          <button disabled={found === null} onClick={() => void takeAlong("Writing the report", () => ask("report", "markdown"), false)}>
            Text (Markdown)
          </button>
          <button disabled={found === null} onClick={() => void takeAlong("Writing the report", () => ask("report", "json"), false)}>
            For programs (JSON)
          </button>
          {isJson && (
            <button disabled={found === null} onClick={() => void takeAlong("Writing the patch", () => ask("report", "patch"), false)}>
              JSON Patch
            </button>
          )}
        </div>
      </section>
      <section aria-label="Session">
        <h2>To go on elsewhere</h2>
        <p className="soft">
          The edits are kept in this browser as you make them. The session as a file holds the source, the plan and the edits; drop it on
          this page again.
        </p>
        <div className="tools">
          <button onClick={() => void takeAlong("Writing the session", () => ask("session"))}>The session</button>
          <button onClick={() => void takeAlong("Writing the workbook", () => ask("exportTables", "workbook"))}>
            The tables as a workbook
          </button>
          <button onClick={() => void takeAlong("Writing the tables", () => ask("exportTables", "csv"))}>The tables as CSV</button>
        </div>
      </section>
    </div>
  );
}
