/**
 * Are the names in a record data (`{"ST1": {…}, "ST2": {…}}`) or fields (`{"start": {…}, "end": {…}}`)?
 *
 * Names are data when the members look alike and the names themselves look like codes, or are many,
 * or change from record to record.
 */
import type { ShapeNode } from "./node.js";

/** Digits, separators, white space, or capitals only: more like a code than like a field. */
const LIKE_A_CODE = /[\d/\\.\s@:#-]|^[A-Z]{2,}$|[^\u0000-\u007f]/;

export function looksKeyed(node: ShapeNode): boolean {
  const members = node.members;
  const n = members.length;
  const instances = node.filledRecords + (node.filledRecords === 0 ? 1 : 0);
  if (n < 2) return false;
  const codes = node.names.filter((name) => LIKE_A_CODE.test(name)).length / n;
  const presence = members.reduce((sum, member) => sum + member.records, 0) / (n * instances);
  switch (sameness(members)) {
    case "records":
      return codes >= 0.6 || n >= 12 || (instances >= 3 && n >= 6 && presence < 0.34);
    case "lists":
      return (codes >= 0.8 && n >= 3) || n >= 12 || (instances >= 3 && n >= 6 && presence < 0.34);
    case "scalars":
      return (codes >= 0.8 && n >= 8) || n >= 60 || (instances >= 3 && n >= 8 && presence < 0.25);
    case "unlike":
      return false;
  }
}

function sameness(members: readonly ShapeNode[]): "records" | "lists" | "scalars" | "unlike" {
  let records = 0;
  let lists = 0;
  let texts = 0;
  let numbers = 0;
  const fields = new Map<string, number>();
  for (const member of members) {
    if (member.filledRecords > 0 && member.scalars + member.filledLists === 0) {
      records++;
      for (const name of member.names) fields.set(name, (fields.get(name) ?? 0) + 1);
    } else if (member.filledLists > 0 && member.scalars + member.filledRecords === 0) lists++;
    else if (member.scalars > 0 && member.filledLists + member.filledRecords === 0) {
      if (member.kinds[2] === member.scalars) texts++;
      else numbers++;
    }
  }
  const most = 0.9 * members.length;
  if (records >= most) {
    // on average a member has at least a third of all the fields, or the fields that matter are shared
    const shared = [...fields.values()].filter((count) => count >= records * 0.5).length;
    const average = [...fields.values()].reduce((sum, count) => sum + count, 0) / records;
    return fields.size === 0 || shared / average >= 0.5 ? "records" : "unlike";
  }
  if (lists >= most) return "lists";
  return texts >= most || numbers >= most ? "scalars" : "unlike";
}
