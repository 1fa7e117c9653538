/** Edits of a whole source, sorted to the files they are in: what a renderer gets is in offsets of its own file. */
import { pushAll } from "../bytes/lists.js";
import type { AddEdit, Edit, MovedRecord, NewRecord, Span } from "../edits/edit.js";
import { partAt, type SourceText } from "./parts.js";
import type { ForeignPiece } from "../edits/splice.js";

/** The edits of one file, and the records in it that go to another one. */
export interface FileEdits {
  readonly edits: Edit[];
  readonly leaving: ForeignPiece[];
}

export function editsByFile(edits: readonly Edit[], parts: readonly SourceText[]): FileEdits[] {
  const files = parts.map((): FileEdits => ({ edits: [], leaving: [] }));
  if (parts.length === 1) {
    pushAll(files[0].edits, edits);
    return files;
  }
  const moved = (record: MovedRecord, to: SourceText): MovedRecord => {
    const from = partAt(parts, record.start);
    const span = within(record, from);
    if (from === to) return { moved: true, ...span };
    const foreign: ForeignPiece = { ...span, source: from.whole, splices: [] };
    files[from.index].leaving.push(foreign);
    return { moved: true, ...span, foreign };
  };
  const local = (record: NewRecord | MovedRecord, to: SourceText): NewRecord | MovedRecord =>
    "moved" in record
      ? moved(record, to)
      : { ...record, inner: record.inner.map(({ steps, records }) => ({ steps, records: records.map((one) => local(one, to)) })) };
  for (const edit of edits) {
    const part = partAt(parts, edit.kind === "add" ? edit.at : edit.start);
    const model = "model" in edit && edit.model !== null ? { model: within(edit.model, part) } : {};
    files[part.index].edits.push(
      edit.kind === "add"
        ? {
            ...edit,
            ...model,
            ...besideIn(edit, part),
            at: edit.at - part.base,
            records: edit.records.map((record) => local(record, part)),
          }
        : { ...edit, ...model, ...within(edit, part) },
    );
  }
  return files;
}

function besideIn({ beside }: AddEdit, { base }: SourceText): Pick<AddEdit, "beside"> {
  return beside === undefined ? {} : { beside: { ...beside, at: beside.at - base } };
}

function within({ start, end }: Span, { base }: SourceText): Span {
  return { start: start - base, end: end - base };
}
