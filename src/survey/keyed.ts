/**
 * Are the names in a record data (`{"ST1": {…}, "ST2": {…}}`) or fields (`{"start": {…}, "end": {…}}`)?
 *
 * Names are data when the members look alike and the names themselves look like codes, or are many,
 * or change from record to record.
 */
import { Kind } from "../model/kind.js";
import type { ShapeNode } from "./node.js";

/** Digits, separators, white space, or capitals only: more like a code than like a field. */
const LIKE_A_CODE = /[\d/\\.\s@:#-]|^[A-Z]{2,}$|[^\u0000-\u007f]/;

export function looksKeyed(node: ShapeNode): boolean {
  const members = node.members;
  const n = members.length;
  const instances = node.filledRecords + (node.filledRecords === 0 ? 1 : 0);
  // some of its names were taken for data before
  if (node.any !== null) return n > 0;
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
    case "maps":
      return n >= 3;
    case "unlike":
      return false;
  }
}

type Sort = "records" | "lists" | "texts" | "others" | "mixed";

/** What a place holds, when it holds one sort of value; `null` when it holds nothing that tells. */
function sortOf(node: ShapeNode): Sort | null {
  const { filledRecords, filledLists, scalars } = node;
  const sorts = [filledRecords, filledLists, scalars].filter((n) => n > 0).length;
  if (sorts === 0) return null;
  if (sorts > 1) return "mixed";
  if (filledRecords > 0) return "records";
  if (filledLists > 0) return "lists";
  return node.kinds[Kind.Text] === scalars ? "texts" : "others";
}

function sameness(members: readonly ShapeNode[]): "records" | "maps" | "lists" | "scalars" | "unlike" {
  const telling = members.filter((member) => sortOf(member) !== null);
  const most = 0.9 * telling.length;
  const of = (sort: Sort): ShapeNode[] => telling.filter((member) => sortOf(member) === sort);
  if (telling.length === 0) return "unlike";
  const records = of("records");
  if (records.length >= most) return sharedFields(records) ? "records" : areMaps(records) ? "maps" : "unlike";
  const lists = of("lists");
  if (lists.length >= most) return sameItems(lists.flatMap(({ item }) => (item === null ? [] : [item as ShapeNode]))) ? "lists" : "unlike";
  return of("texts").length >= most || of("others").length >= most ? "scalars" : "unlike";
}

/** On average, more than half of a record's fields are fields that most of the records have; `most` is that half. */
function sharedFields(records: readonly ShapeNode[], most = 0.5): boolean {
  // records of which most are keyed themselves are alike: maps in maps
  if (records.filter(({ any, members }) => any !== null && members.length === 0).length >= records.length * 0.5) return true;
  const fields = new Map<string, number>();
  for (const record of records) for (const name of record.names) fields.set(name, (fields.get(name) ?? 0) + 1);
  const shared = [...fields.values()].filter((count) => count >= records.length * most).length;
  const average = [...fields.values()].reduce((sum, count) => sum + count, 0) / records.length;
  return fields.size === 0 || shared / average > most;
}

/** Hardly any name stands in two of the records, and what stands under all those names is alike. */
function areMaps(records: readonly ShapeNode[]): boolean {
  const names = new Set(records.flatMap((record) => [...record.names]));
  const inner = records.flatMap(({ members }) => [...members]);
  if (inner.length < 6 || names.size < 0.8 * inner.length) return false;
  return inner.every((one) => sortOf(one) === "records") && inner.every(({ names }) => names.length > 0) && sharedFields(inner, 0.75);
}

function sameItems(items: readonly ShapeNode[]): boolean {
  const sorts = new Set(items.map(sortOf).filter((sort) => sort !== null));
  return sorts.size === 1 && (!sorts.has("records") || sharedFields(items));
}
