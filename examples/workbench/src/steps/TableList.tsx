/** The tables, nested as their records are, with what was edited in them and what is wrong. */
import type { TableInfo } from "../protocol";
import { useStore, choose } from "../store";

/** Each table is followed by those inside it. */
function nested(tables: readonly TableInfo[], inside: string | null = null): TableInfo[] {
  const names = tables.flatMap(({ name, also }) => [name, ...also]);
  const isTop = (table: TableInfo): boolean => table.inside === null || !names.includes(table.inside);
  const here = tables.filter((table) => (inside === null ? isTop(table) : table.inside === inside && table.name !== inside));
  return here.flatMap((table) => [table, ...[table.name, ...table.also].flatMap((name) => nested(tables, name))]);
}

export function TableList() {
  const tables = useStore((state) => state.tables);
  const current = useStore((state) => state.current);
  const found = useStore((state) => state.found);
  const wrong = (names: readonly string[]): number => found?.problems.filter(({ table }) => names.includes(table)).length ?? 0;
  return (
    <nav className="list" aria-label="Tables">
      <h2>Tables</h2>
      <ul>
        {nested(tables).map(({ name, also, depth, rows, touched }) => (
          <li key={name}>
            <button
              aria-current={name === current ? "true" : undefined}
              style={{ paddingInlineStart: `${0.6 + 0.9 * depth}rem` }}
              onClick={() => choose(name)}
            >
              <span>{[name, ...also].join(", ")}</span>
              {wrong([name, ...also]) > 0 && <strong title="problems">! {wrong([name, ...also])}</strong>}
              {touched > 0 && (
                <em title="rows that were edited">
                  <span aria-hidden>• </span>
                  {touched.toLocaleString("en")}
                </em>
              )}
              <small>{rows.toLocaleString("en")}</small>
            </button>
          </li>
        ))}
      </ul>
    </nav>
  );
}
