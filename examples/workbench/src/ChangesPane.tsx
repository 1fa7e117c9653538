/** What a fold would change, and what stands in its way. */
import type { Change, Compared } from "hatch-fold";

interface Props {
  readonly compared: Compared | null;
  show(table: string): void;
}

export function ChangesPane({ compared, show }: Props) {
  if (compared === null) return <aside aria-label="Changes">Comparing…</aside>;
  const { counts, changes, problems, warnings, healed, notes } = compared;
  return (
    <aside aria-label="Changes">
      <h2>A fold would change</h2>
      <p className="counts" data-testid="counts">
        {counts.changed} changed, {counts.added} added, {counts.removed} removed, {counts.moved} moved
        {healed.length > 0 && `, ${healed.length} healed`}
      </p>
      {problems.length > 0 && (
        <ul className="problems">
          {problems.map((problem, i) => (
            <li key={i}>
              <button onClick={() => show(problem.table)}>
                {problem.table} row {problem.row} {problem.column}
              </button>
              <span>{problem.message}</span>
              <small>{problem.hint}</small>
            </li>
          ))}
        </ul>
      )}
      {warnings.length > 0 && (
        <ul className="notes" aria-label="Warnings">
          {warnings.map(({ table, row, column, message }, i) => (
            <li key={i}>
              <button onClick={() => show(table)}>
                {table} row {row} {column}
              </button>
              <span>{message}</span>
            </li>
          ))}
        </ul>
      )}
      {notes.length > 0 && (
        <ul className="notes" aria-label="Notes">
          {notes.map(({ table, message }, i) => (
            <li key={i}>
              {table !== "" && <button onClick={() => show(table)}>{table}</button>}
              <span>{message}</span>
            </li>
          ))}
        </ul>
      )}
      {changes.length === 0 && problems.length === 0 && (
        <p className="quiet">Nothing yet: the folded file would be the same, byte for byte.</p>
      )}
      <ul className="changes">
        {changes.map((change, i) => (
          <li key={i}>
            <button onClick={() => show(change.table)}>
              {change.table} {change.record}
            </button>
            <ChangeText change={change} />
          </li>
        ))}
      </ul>
    </aside>
  );
}

function ChangeText({ change }: { readonly change: Change }) {
  if (change.kind === "added") return <span className="added">added</span>;
  if (change.kind === "removed") return <span className="removed">removed{change.holds ? ` with ${change.holds} inside` : ""}</span>;
  return (
    <span>
      {change.kind === "moved" ? "moved " : `${change.column} `}
      <del>{change.old === "" ? "blank" : change.old}</del> → <ins>{change.new === "" ? "blank" : change.new}</ins>
    </span>
  );
}
