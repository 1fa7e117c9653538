/** The library at work, off the page's own thread. */
import {
  BlobSource,
  compare,
  formatPlace,
  hatch,
  HatchFoldError,
  MemoryTables,
  survey,
  type Compared,
  type Review,
  type SourcesInput,
} from "hatch-fold";
import { parse, print } from "./csv";
import type { Named, Opened, Request, Sheet } from "./protocol";

let source: SourcesInput = new Blob();
let name = "";
let tables = new MemoryTables();
/** What was compared last: a fold is of just that. */
let review: Promise<Review> | null = null;

async function open(files: readonly Named[]): Promise<Opened> {
  const opened = files.map((file) => new BlobSource(file.bytes, file.name));
  const input = opened.length === 1 ? opened[0] : opened;
  const shape = await survey(input);
  const hatched = await hatch(input);
  source = input;
  name = files[0].name;
  tables = hatched.tables;
  const own = hatched.plan.tables.filter((table) => table.host === undefined);
  const sheets = own.map((table): Sheet => {
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

async function compared(sheets: readonly Sheet[]): Promise<Compared> {
  review = compare(edited(sheets), { source, paths: true });
  const { fold: _, ...found } = await review;
  return found;
}

/** What is to be taken back: the file, or those of several that changed. */
async function folded(): Promise<Named[]> {
  const { bytes, files, unchanged } = await (await review!).fold();
  const blob = (part: Uint8Array): Blob => new Blob([part as BlobPart], { type: "application/octet-stream" });
  if (files.length === 0 || bytes.length > 0) return [{ name, bytes: blob(bytes) }];
  return files.filter((file) => unchanged || !file.unchanged).map((file) => ({ name: file.name, bytes: blob(file.bytes) }));
}

async function answer(request: Request): Promise<unknown> {
  switch (request.verb) {
    case "open":
      return open(request.files);
    case "compare":
      return compared(request.sheets);
    case "fold":
      return folded();
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
