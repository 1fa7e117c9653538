/** Which record the cell means that says where a row belongs: by key, fold mark, name of a new row, or label. */
import { pushTo } from "../model/push-to.js";
import { parseMark } from "../model/marks.js";
import type { CompiledTable } from "../plan/compile.js";
import type { Context } from "../rows/context.js";
import type { NewRow, Target, DifferingRow } from "../rows/row-edits.js";
import { keyHash } from "../rows/sheet.js";

/** The rows that are known so far. */
export interface KnownRows {
  readonly rows: readonly DifferingRow[];
  readonly news: readonly NewRow[];
}

/**
 * What `texts` can mean as records of `parent`: those of the source and new ones alike, as they will be called; the `sole`
 * record need not be named. The source is read once more where a text may be a label.
 */
export async function findParents(
  parent: CompiledTable,
  texts: readonly string[],
  { rows, news }: KnownRows,
  ctx: Context,
  sole = true,
): Promise<(text: string) => Target[]> {
  const base = ctx.base.tables[parent.index];
  const found = parent.keySlot < 0 ? new Map<number, number[]>() : base.keys.find(new Set(texts.map(keyHash)));
  const renamed = new Map<string, number>();
  for (const row of rows) {
    const edit = row.snapshot.table === parent ? row.cells.find((cell) => cell.slot === parent.keySlot) : undefined;
    if (edit !== undefined) renamed.set(edit.content, row.snapshot.place);
  }
  const byWord = new Map<string, Target[]>();
  const fresh = news.filter((row) => row.table === parent);
  for (const row of fresh) for (const word of wordsOf(row)) pushTo(byWord, word, { row });
  const byKey = (text: string): Target[] => {
    if (text === "") return sole && base.records === 1 && fresh.length === 0 ? [{ place: 0, of: parent }] : [];
    const named = byWord.get(text) ?? [];
    const again = renamed.get(text);
    if (again !== undefined) return [{ place: again, of: parent }, ...named];
    const places = (found.get(keyHash(text)) ?? []).map((place) => ({ place, of: parent }));
    if (places.length + named.length > 0) return [...places, ...named];
    const place = parseMark(parent.salt, text);
    return place >= 0 && place < base.records ? [{ place, of: parent }] : [];
  };
  const unknown = new Set(texts.filter((text) => text !== "" && byKey(text).length === 0));
  const byLabel = await findLabelled(parent, unknown, { rows, news: fresh }, ctx);
  return (text) => byLabel.get(text) ?? byKey(text);
}

/** The words that others may call a new row by. */
function wordsOf({ name, table, contents }: NewRow): ReadonlySet<string> {
  const words = new Set(name === "" ? [] : [name, name.slice(1)]);
  if (table.keySlot >= 0) words.add(contents[table.keySlot] ?? "");
  return words;
}

/** Records by label, as they will be called. */
async function findLabelled(
  table: CompiledTable,
  labels: ReadonlySet<string>,
  { rows, news }: KnownRows,
  { records }: Context,
): Promise<ReadonlyMap<string, Target[]>> {
  const found = new Map<string, Target[]>();
  const slot = table.plan.columns.findIndex(({ title }) => title === table.plan.label);
  if (slot < 0 || labels.size === 0) return found;
  const put = (label: string, target: Target): void => {
    if (labels.has(label)) pushTo(found, label, target);
  };
  const edited = new Map<number, string>();
  for (const { snapshot, cells } of rows) {
    const edit = snapshot.table === table ? cells.find((cell) => cell.slot === slot) : undefined;
    if (edit !== undefined) edited.set(snapshot.place, edit.content);
  }
  await records.cells((row, assembler) => {
    if (row.table === table) put((edited.get(row.place) ?? assembler.text(row, slot)).trim(), { place: row.place, of: table });
  });
  for (const row of news) put((row.contents[slot] ?? "").trim(), { row });
  return found;
}
