/** Which fields could be keys. */
import { formatPath } from "../model/path.js";
import type { FieldShape, RecordKind } from "./kinds.js";

const LIKE_AN_ID = /(?:^|[^a-z])(?:id|code|key|uuid|guid|ref|number|no|nr)$|[a-z](?:Id|ID|Code|Key|Number|No)$/;

/** People call records by something short. */
const LONGEST_KEY = 60;

/** Always there, a text or a number, not long, never twice. */
export function couldBeKey(kind: RecordKind, field: FieldShape): boolean {
  const { node, form } = field;
  if (kind.count < 2) return false;
  if (form === "name") return kind.parent === null && kind.holder.filledRecords === 1;
  const sole = node.kinds[2] === node.count || node.kinds[3] === node.count;
  return (
    form === "scalar" &&
    node.unique &&
    node.longest <= LONGEST_KEY &&
    sole &&
    field.at.steps.length > 0 &&
    field.present === kind.count &&
    node.count === kind.count &&
    node.example !== ""
  );
}

export function looksLikeId(name: string): boolean {
  return LIKE_AN_ID.test(name);
}

/** A key among whose values all those of a field are found. */
export interface Referred {
  readonly kind: RecordKind;
  readonly field: FieldShape;
}

export function referencesOf(kind: RecordKind, field: FieldShape, kinds: readonly RecordKind[]): Referred[] {
  const { node } = field;
  if (field.form !== "scalar" || node.distinct === null || node.distinct.size < 2 || node.scalars === 0 || node.allDates) return [];
  const numeric = node.kinds[2] === 0;
  const values = [...node.distinct];
  const found: Referred[] = [];
  for (const other of kinds) {
    for (const key of other.fields) {
      if (key.node === node || key.form !== "scalar" || !couldBeKey(other, key) || key.node.distinct === null || other.count < 3) continue;
      // small whole numbers are found among any ids: ask the names, too
      if (numeric && !(looksLikeId(formatPath(field.at)) && looksLikeId(formatPath(key.at)) && other !== kind)) continue;
      if (node.distinct.size <= key.node.distinct.size && values.every((value) => key.node.distinct!.has(value)))
        found.push({ kind: other, field: key });
    }
  }
  return found;
}
