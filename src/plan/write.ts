/** Writes a plan as YAML, with comments where a person has to decide. */
import { Document, isScalar, Scalar, YAMLMap } from "yaml";
import { formatPath } from "../model/path.js";
import type { ColumnPlan, Plan } from "../model/plan.js";

/** `comments` are by table name, or table name, line feed and column title. */
export function writePlan(plan: Plan, comments: ReadonlyMap<string, string> = new Map(), notes: readonly string[] = []): string {
  const doc = new Document({
    hatchfold: 1,
    sources: Object.fromEntries(
      plan.sources.map(({ name, file, format, encoding, schema, settings }) => [
        name,
        {
          file,
          ...(format === undefined ? {} : { format }),
          ...(encoding === undefined ? {} : { encoding }),
          ...(schema === undefined ? {} : { schema }),
          ...settings,
        },
      ]),
    ),
  });
  const tables = new YAMLMap();
  doc.set("tables", tables);
  for (const table of plan.tables) {
    const entry = doc.createNode({
      rows: pathScalar(formatPath(table.rows)),
      ...(table.from === undefined ? {} : { from: table.from }),
      ...(table.inside === undefined ? {} : { inside: table.inside }),
      ...(table.key === undefined ? {} : { key: table.key }),
    }) as YAMLMap;
    const columns = doc.createNode({}) as YAMLMap;
    for (const column of table.columns) {
      const node = doc.createNode(columnEntry(column), { flow: true });
      const comment = comments.get(`${table.name}\n${column.title}`);
      if (comment !== undefined) (node as Scalar).comment = ` ${comment}`;
      columns.add(doc.createPair(column.title, node));
    }
    entry.add(doc.createPair("columns", columns));
    const pair = doc.createPair(table.name, entry);
    const comment = comments.get(table.name);
    if (comment !== undefined && isScalar(pair.key)) pair.key.commentBefore = ` ${comment}`;
    tables.add(pair);
  }
  doc.commentBefore = [
    " A plan: which tables and columns to take, and where they are.",
    " Leave out what you do not need; what is left out stays as it is in the source.",
    ...(notes.length === 0 ? [] : ["", ...notes.map((note) => ` ${note}`)]),
  ].join("\n");
  // half characters (lone surrogates) in names would be lost in a file: they are escaped
  return doc.toString({ lineWidth: 0, flowCollectionPadding: true }).replace(/\p{Cs}/gu, (half) => `\\u${half.charCodeAt(0).toString(16)}`);
}

function columnEntry(column: ColumnPlan): unknown {
  const at = pathScalar(formatPath(column.at));
  const entry: Record<string, unknown> = { at };
  if (column.type !== "any") entry.type = column.type;
  if (column.unit !== undefined) entry.unit = column.unit;
  if (column.note !== undefined) entry.note = column.note;
  if (column.blank !== "absent") entry.blank = column.blank;
  if (column.refers !== undefined) entry.refers = column.refers;
  if (column.fillDown === true) entry.fill = "down";
  if (column.sameFor !== undefined) entry["same-for"] = column.sameFor;
  if (column.required) entry.required = true;
  if (column.readOnly) entry["read-only"] = true;
  const { minimum, maximum, minLength, maxLength, pattern } = column.rules ?? {};
  const number = (text: string): number | string => (String(Number(text)) === text ? Number(text) : text);
  if (minimum !== undefined) entry.minimum = number(minimum.is);
  if (maximum !== undefined) entry.maximum = number(maximum.is);
  if (minLength !== undefined) entry["min-length"] = minLength.is;
  if (maxLength !== undefined) entry["max-length"] = maxLength.is;
  if (pattern !== undefined) entry.pattern = pattern.is;
  if (column.choices !== undefined) entry.choices = Object.fromEntries(column.choices);
  return Object.keys(entry).length === 1 ? at : entry;
}

function pathScalar(path: string): string | Scalar {
  if (!/\p{Cs}/u.test(path)) return path;
  const scalar = new Scalar(path);
  scalar.type = "QUOTE_DOUBLE";
  return scalar;
}
