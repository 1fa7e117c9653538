/** The library at work, off the page's own thread. */
import { compare, fold, formatPlace, hatch, HatchFoldError, MemoryTables, survey } from "hatch-fold";
import { parse, print } from "./csv";
import type { Opened, Request, Sheet } from "./protocol";

let source: Blob = new Blob();
let tables = new MemoryTables();

async function open(blob: Blob, name: string): Promise<Opened> {
  const shape = await survey(blob, { name });
  const hatched = await hatch(blob, { name });
  source = blob;
  tables = hatched.tables;
  const sheets = hatched.plan.tables.map((table): Sheet => {
    const file = `${table.name}.csv`;
    const [titles, ...rows] = parse(tables.text(file));
    return {
      file,
      name: table.name,
      titles,
      rows,
      fixed: ["fold mark", ...table.columns.filter((column) => column.readOnly).map((column) => column.title)],
    };
  });
  return { shape, sheets, notes: hatched.notes };
}

function edited(sheets: readonly Sheet[]): MemoryTables {
  const copy = new MemoryTables(tables.contents);
  for (const { file, titles, rows } of sheets) copy.contents.set(file, new TextEncoder().encode(print([titles, ...rows])));
  return copy;
}

async function answer(request: Request): Promise<unknown> {
  switch (request.verb) {
    case "open":
      return open(request.source, request.name);
    case "compare":
      return compare(edited(request.sheets), { source, paths: true });
    case "fold":
      return (await fold(edited(request.sheets), { source })).bytes;
  }
}

self.onmessage = async ({ data }: MessageEvent<Request>) => {
  try {
    self.postMessage({ id: data.id, ok: await answer(data) });
  } catch (error) {
    const known = error instanceof HatchFoldError ? error : null;
    const place = known === null ? "" : formatPlace(known.place);
    self.postMessage({
      id: data.id,
      error: `${place === "" ? "" : `${place}: `}${error instanceof Error ? error.message : String(error)}`,
      hint: known?.hint ?? "",
    });
  }
};
