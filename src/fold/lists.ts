/** What is kept of the list that was read last in each record. */
import type { CompiledTable } from "../plan/compile.js";
import type { Row } from "../records/assemble.js";

export class OfLists<T> {
  private readonly lists = new Map<CompiledTable, Map<Row | null, { place: number; kept: T }>>();

  constructor(
    private readonly begin: () => T,
    /** A list has been read. */
    private readonly end: (table: CompiledTable, kept: T) => void = () => undefined,
  ) {}

  /** Of the list that a row is in; `file` is the number of its file. */
  of({ table, parent }: Row, file: number): T {
    const lists = this.lists.get(table) ?? new Map<Row | null, { place: number; kept: T }>();
    this.lists.set(table, lists);
    const place = parent?.place ?? file;
    const known = lists.get(parent);
    if (known?.place === place) return known.kept;
    if (known !== undefined) this.end(table, known.kept);
    const kept = this.begin();
    lists.set(parent, { place, kept });
    return kept;
  }

  /** No list goes on. */
  endAll(): void {
    for (const [table, lists] of this.lists) for (const { kept } of lists.values()) this.end(table, kept);
    this.lists.clear();
  }
}
