/** Which fields could be keys. */
import type { FieldShape, RecordKind } from "./kinds.js";

const LIKE_AN_ID = /(?:^|[^a-z])(?:id|code|key|uuid|guid|ref|number|no|nr)$|[a-z](?:Id|ID|Code|Key|Number|No)$/;

/** Always there, a text or a number, never twice. */
export function couldBeKey(kind: RecordKind, field: FieldShape): boolean {
  const { node, form } = field;
  if (kind.count < 2) return false;
  if (form === "name") return kind.parent === null && kind.holder.filledRecords === 1;
  const sole = node.kinds[2] === node.count || node.kinds[3] === node.count;
  return (
    form === "scalar" &&
    node.unique &&
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
