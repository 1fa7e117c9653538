/** A drafted plan with what a schema says: fields that no record has yet, types, words to choose from, limits, what must be there. */
import { pushAll } from "../bytes/lists.js";
import { formatPath, type Step } from "../model/path.js";
import type { ColumnPlan, ColumnRules, Rule, TablePlan } from "../model/plan.js";
import type { SchemaNode, SchemaValue } from "../model/schema-node.js";

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

/** The table's columns as the schema has them; those that it does not know stay as they are. */
export function bySchema(table: TablePlan, document: SchemaNode): TablePlan {
  const node = nodeAt(document, table.rows.steps);
  if (node === null) return table;
  const fields = fieldsIn(node, [], true);
  const columns = [...table.columns];
  const titles = new Set([...columns.map(({ title }) => title), ...(table.inside === undefined ? [] : [table.inside])]);
  let last = -1;
  for (const field of fields) {
    const at = columns.findIndex(({ at: { steps, end } }) => formatPath({ steps, end }) === field.path);
    if (at >= 0) {
      columns[at] = told(columns[at], field);
      last = Math.max(last, at);
      continue;
    }
    let title = field.path.replace(/(^|\/)@/g, "$1");
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
  let node: SchemaNode | null = document;
  for (const step of steps) {
    if (step.kind !== "name") return null;
    node = node?.fields.find(({ name }) => name === step.name)?.node() ?? null;
  }
  return node;
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
