/** A drafted plan with what a schema says: fields that no record has yet, types, words to choose from, limits, what must be there. */
import { pushAll } from "../bytes/lists.js";
import { formatPath, type Path, type Step } from "../model/path.js";
import type { ColumnPlan, ColumnRules, Rule, TablePlan } from "../model/plan.js";
import type { SchemaField, SchemaNode, SchemaValue } from "../model/schema-node.js";
import { cleanName, type IsList } from "./kinds.js";

/** A field of a record, also of one in it, by its path. */
interface Field {
  readonly steps: readonly Step[];
  readonly path: string;
  readonly required: boolean;
  readonly value: SchemaValue;
}

/** Records in records are followed so far: one may hold its own kind. */
const MOST_DEPTH = 6;
const MOST_CHOICES = 200;
export const MOST_TABLES = 30;

/** Does the schema allow several of what is there? */
export function listsOf(document: SchemaNode): IsList {
  return (steps) => fieldAt(document, steps)?.isList === true;
}

/** Tables as the schema has them, those of lists that no record has yet with them. */
export function bySchema(tables: readonly TablePlan[], document: SchemaNode): TablePlan[] {
  const known = new Set(tables.map(({ rows }) => formatPath(rows)));
  const names = new Set(tables.map(({ name }) => name.toLowerCase()));
  const withLists = (table: TablePlan): TablePlan[] => {
    const { steps } = table.rows;
    const node = nodeAt(document, steps);
    if (node === null) return [table];
    const told = withFields(table, node);
    return [told, ...listsIn(node, steps).flatMap((rows) => empty(rows, told))];
  };
  const empty = (rows: Path, around: TablePlan): TablePlan[] => {
    const path = formatPath(rows);
    const name = freeName(rows, around.name, names);
    if (known.has(path) || known.size >= MOST_TABLES) return [];
    known.add(path);
    names.add(name.toLowerCase());
    const inside = around.rows.steps.length === 0 ? undefined : around.name;
    return withLists({ name, rows, inside, columns: [], inline: [], shown: [] }).filter((table) => table.columns.length > 0);
  };
  const all = tables.flatMap(withLists);
  const top: TablePlan = { name: "document", rows: { steps: [], end: "value" }, columns: [], inline: [], shown: [] };
  return known.has(formatPath(top.rows)) ? all : [...all, ...listsIn(document, []).flatMap((rows) => empty(rows, top))];
}

/** Paths of the lists in a record, also in records that it holds; a record of its own kind further in is not followed. */
function listsIn(node: SchemaNode, before: readonly Step[], depth = 0): Path[] {
  return node.fields.flatMap(({ name, isList, node: inner }): Path[] => {
    if (name === "" || depth >= MOST_DEPTH) return [];
    const steps: readonly Step[] = [...before, { kind: "name", name }];
    if (!isList) return listsIn(inner(), steps, depth + 1);
    return before.some((step) => step.kind === "name" && step.name === name) ? [] : [{ steps, end: "value" }];
  });
}

function freeName({ steps }: Path, around: string, taken: ReadonlySet<string>): string {
  const last = steps.at(-1)!;
  const own = cleanName(last.kind === "name" ? last.name : "");
  const names = [own, `${cleanName(around)} ${own}`.slice(-80).trim()];
  for (let n = 2; ; n++) {
    const free = names.find((name) => !taken.has(name.toLowerCase()));
    if (free !== undefined) return free;
    names.push(`${own} ${n}`);
  }
}

/** The table's columns as the schema has them; those that it does not know stay as they are. */
function withFields(table: TablePlan, node: SchemaNode): TablePlan {
  const columns = [...table.columns];
  const own: Field[] =
    node.value === null ? [] : [{ steps: [], path: formatPath({ steps: [], end: "value" }), required: false, value: node.value }];
  const isShown = ({ path }: Field): boolean => columns.length === 0 || columns.some(({ at }) => formatPath(at) === path);
  const fields = [...own.filter(isShown), ...fieldsIn(node, [], true)];
  const titles = new Set([...columns.map(({ title }) => title), ...(table.inside === undefined ? [] : [table.inside])]);
  let last = -1;
  for (const field of fields) {
    const at = columns.findIndex(({ at: { steps, end } }) => formatPath({ steps, end }) === field.path);
    if (at >= 0) {
      columns[at] = told(columns[at], field);
      last = Math.max(last, at);
      continue;
    }
    let title = field.steps.length === 0 ? "value" : field.path.replace(/(^|\/)@/g, "$1");
    for (let n = 2; titles.has(title); n++) title = `${field.path} ${n}`;
    titles.add(title);
    const made: ColumnPlan = {
      title,
      at: { steps: field.steps, end: "value" },
      type: "any",
      blank: "absent",
      required: false,
      readOnly: false,
    };
    columns.splice(++last, 0, told(made, field));
  }
  return { ...table, columns, shown: [...columns.keys()] };
}

function nodeAt(document: SchemaNode, steps: readonly Step[]): SchemaNode | null {
  return steps.length === 0 ? document : (fieldAt(document, steps)?.node() ?? null);
}

function fieldAt(document: SchemaNode, steps: readonly Step[]): SchemaField | undefined {
  let [node, field]: [SchemaNode | undefined, SchemaField | undefined] = [document, undefined];
  for (const step of steps) {
    field = step.kind === "name" ? node?.fields.find(({ name }) => name === step.name) : undefined;
    node = field?.node();
  }
  return field;
}

function fieldsIn(node: SchemaNode, before: readonly Step[], sure: boolean): Field[] {
  const found: Field[] = [];
  for (const { name, required, isList, node: inner } of node.fields) {
    if (isList || name === "" || before.length >= MOST_DEPTH) continue;
    const steps: readonly Step[] = [...before, { kind: "name", name }];
    const { fields, value } = inner();
    const isRequired = sure && required;
    if (value !== null) found.push({ steps, path: formatPath({ steps, end: "value" }), required: isRequired, value });
    if (fields.length > 0) pushAll(found, fieldsIn({ fields, value: null }, steps, isRequired));
  }
  return found;
}

function told(column: ColumnPlan, { required, value }: Field): ColumnPlan {
  const { type, choices, minimum, maximum, minLength, maxLength, pattern } = value;
  const rule = <T>(is: T | undefined): Rule<T> | undefined => (is === undefined ? undefined : { is, severity: "error" });
  const words = choices === undefined || choices.length > MOST_CHOICES ? undefined : new Map(choices.map((word) => [word, word]));
  const isMeasured = type === "number" || type === "integer" || type === "decimal" || type === "date";
  const rules: ColumnRules = {
    minimum: isMeasured ? rule(minimum) : undefined,
    maximum: isMeasured ? rule(maximum) : undefined,
    minLength: rule(minLength),
    maxLength: rule(maxLength),
    pattern: rule(pattern),
  };
  const isRuled = Object.values(rules).some((one) => one !== undefined);
  return {
    ...column,
    type: words !== undefined ? "any" : type === "any" ? column.type : type,
    required: required || column.required,
    ...(words === undefined ? {} : { choices: words }),
    ...(isRuled ? { rules } : {}),
  };
}
