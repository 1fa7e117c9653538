/** What a plan file may say: the schema behind `plan.schema.json`. */
import { z } from "zod";
import { largest } from "../bytes/lists.js";
import type { FormatSettings } from "../formats/format.js";
import { FORMATS } from "../formats/index.js";
import { pushTo } from "../model/push-to.js";
import { BLANKS, CLEANING, COLUMN_TYPES } from "../model/plan.js";
import type { NamedWords } from "./layout-words.js";

const path = z.string().describe("names joined by /, as the survey shows them");

const severity = z.enum(["error", "warning"]).optional().describe("an error stops the fold, a warning is told; error, unless said");
const say = z.string().min(1).optional().describe("words of your own for what is wrong");

/** A rule is said alone, or with words of its own. */
// oxlint-disable-next-line typescript/explicit-function-return-type -- the schema is its own type
function rule<T extends z.ZodType>(is: T) {
  return z.union([is, z.strictObject({ is, say, severity })]);
}

const expression = rule(z.string());
const checks = z.union([expression, z.array(expression).min(1)]).optional();

const field = z.strictObject({
  at: path,
  type: z.enum(COLUMN_TYPES).optional().describe("what the column may hold; any keeps the kind a value had"),
  unit: z.string().optional().describe("shown to people, not used"),
  note: z.string().optional().describe("what it means, for those who edit: shown on the first sheet of a workbook"),
  blank: z.enum(BLANKS).optional().describe("what a blank cell stands for; absent, unless said"),
  "same-for": z.string().optional().describe("title of a column: records that have the same there have the same here"),
  required: rule(z.boolean()).optional().describe("a cell may not be blank"),
  minimum: rule(z.union([z.number(), z.string()]))
    .optional()
    .describe("the least number, or the first day"),
  maximum: rule(z.union([z.number(), z.string()]))
    .optional()
    .describe("the largest number, or the last day"),
  "min-length": rule(z.number().int().min(1)).optional().describe("so many letters at least"),
  "max-length": rule(z.number().int().min(1)).optional().describe("so many letters at most"),
  pattern: rule(z.string().min(1)).optional().describe("a regular expression (RE2 syntax) for the whole text"),
  "read-only": z.boolean().optional(),
  choices: z.record(z.string(), z.string()).optional().describe("code kept in the source: word shown in the table"),
  check: checks.describe("Common Expression Language expressions over value and the record"),
  compute: z.string().optional().describe("a Common Expression Language expression that gives the value; it is not edited itself"),
  clean: z
    .array(z.enum(CLEANING))
    .min(1)
    .optional()
    .describe("what is taken out of text that somebody pastes: tags of HTML, blanks where one is enough"),
  say: z.string().min(1).optional().describe("words of your own where a cell is not what its type, its choices or its reference allow"),
  severity: z
    .enum(["error", "warning"])
    .optional()
    .describe("with warning, what its type, its choices or its reference do not allow is written as it is, and told; error, unless said"),
  lookup: z.literal("partial").optional().describe("a cell may hold a unique beginning or part of a choice, a code or a label"),
  pack: z
    .union([z.string().min(1), z.array(z.string().min(1)).min(1).max(4)])
    .optional()
    .describe("the list stands in one cell, its items between these; several: those of the lists in it, from the outside in"),
  pair: z.string().min(1).optional().describe("members of a keyed record are packed, with this between name and value"),
  spread: z.number().int().min(1).max(200).optional().describe("the list stands in so many columns"),
  gaps: z.enum(["close", "stay"]).optional().describe("what a cleared place among numbered columns does: the record goes, unless said"),
  list: path.optional().describe("where the list is; unless said, the path without its last name"),
  refers: z.string().optional().describe("the table whose keys these are"),
  label: path.optional().describe("where the label of the record referred to stands; it changes together with the code"),
  copied: z.boolean().optional().describe("the label follows when that of the record referred to changes"),
  only: z.string().optional().describe("a Common Expression Language expression over the record referred to"),
});

const through = z.strictObject({
  through: z.string().describe("a table of links to these records: the column shows their other ends, and follows them"),
  show: z.string().describe("title of the column of the links that is shown, or the table that they are inside"),
  pack: z.string().min(1).optional().describe("what stands between them"),
});

const column = z.union([path, field, through]);

const uniqueTitles = z.union([z.string(), z.array(z.string()).min(1)]);
const uniqueSaid = z.strictObject({ is: uniqueTitles, say, severity });

const table = z.strictObject({
  rows: path,
  from: z
    .string()
    .optional()
    .describe("the source that the records are in, where there are several; that of the table around, unless said"),
  inside: z.string().optional().describe("the table whose records hold these"),
  note: z.string().optional().describe("what its records are, for those who edit: shown on the first sheet of a workbook"),
  key: z.string().optional().describe("title of the column that people know a record by"),
  label: z.string().optional().describe("title of the column that people call a record by, where others refer to it"),
  match: z
    .union([z.string(), z.array(z.string()).min(1)])
    .optional()
    .describe("titles of the columns by which rows without a mark are matched with records"),
  unique: z
    .union([uniqueTitles, z.array(z.array(z.string()).min(1)).min(1), uniqueSaid, z.array(uniqueSaid).min(1)])
    .optional()
    .describe("titles of columns that no two records have the same in, all taken together; several such lists may be said"),
  order: z.literal("sheet").optional().describe("records stand in their lists as their rows do in the sheet; as they did, unless said"),
  check: checks.describe("Common Expression Language expressions over a record, what it is in, and what is in it"),
  new: z
    .record(z.string(), z.string())
    .optional()
    .describe("how cells of new rows are filled, by title: P-{0000} for the next free number, uuid, or an expression"),
  sheet: z
    .strictObject({
      file: z.string().optional().describe("the sheet that the rows come from; several tables may share one"),
      header: z.number().int().min(1).optional().describe("row number of its titles; found by looking, unless said"),
      titles: z
        .record(z.string(), z.string())
        .optional()
        .describe("title in the plan: title in the sheet; a blank one for a column that is not taken from it"),
    })
    .optional()
    .describe("where rows of a new document come from"),
  columns: z.record(z.string(), column),
});

export const sourceShape = {
  file: z
    .union([z.string(), z.array(z.string()).min(1)])
    .describe("path from the plan: a file, a folder, an archive, a pattern like registers/*.xml, or a list of these"),
  format: z
    .enum(FORMATS.map((format) => format.name))
    .optional()
    .describe("sniffed, unless said"),
  schema: z
    .string()
    .min(1)
    .optional()
    .describe("path from the plan: a schema of the owner's, JSON Schema or XML Schema, by which a fold is checked"),
  encoding: z.string().optional().describe("a name of the Encoding Standard; found by looking, unless said"),
};

// oxlint-disable-next-line typescript/explicit-function-return-type -- the schema is its own type
function schemaWith<T extends z.ZodType>(settings: Readonly<Record<string, T>>, tables: typeof table) {
  return z.strictObject({
    hatchfold: z.literal(1),
    sources: z.record(z.string(), z.strictObject({ ...sourceShape, ...settings })),
    tables: z.record(z.string(), tables),
  });
}

/** A table's entry with the words of layouts; these read what they say themselves. */
function tableWith(layouts: readonly NamedWords[]): typeof table {
  const words = (kind: "table" | "column"): Record<string, z.ZodType> =>
    Object.assign({}, ...layouts.map((layout) => layout.words?.[kind]?.(z) ?? {})) as Record<string, z.ZodType>;
  const own = field.extend(words("column")) as unknown as typeof field;
  return table.extend({ ...words("table"), columns: z.record(z.string(), z.union([path, own, through])) });
}

export type PlanInput = z.input<ReturnType<typeof schemaWith<z.ZodOptional<z.ZodUnknown>>>>;

/** The schema of plans, with the words of all formats and layouts. */
export interface PlanSchema {
  /** Takes any value for a word of a format: that is checked by the format in question, as several may have the word. */
  readonly plan: ReturnType<typeof schemaWith<z.ZodOptional<z.ZodUnknown>>>;
  /** The same with all that the formats say of their words. */
  readonly described: z.ZodObject;
  /** The words of each format, by its name. */
  readonly settings: ReadonlyMap<string, FormatSettings>;
}

const known = new WeakMap<readonly NamedWords[], Promise<PlanSchema>>();

export function planSchema(layouts: readonly NamedWords[]): Promise<PlanSchema> {
  const made = known.get(layouts) ?? makeSchema(layouts);
  known.set(layouts, made);
  return made;
}

async function makeSchema(layouts: readonly NamedWords[]): Promise<PlanSchema> {
  const settings = new Map(await Promise.all(FORMATS.map(async (format) => [format.name, await format.settings()] as const)));
  const byWord = new Map<string, z.ZodType[]>();
  for (const words of settings.values()) for (const [word, schema] of Object.entries(words)) pushTo(byWord, word, schema);
  const open = Object.fromEntries([...byWord.keys()].map((word) => [word, z.unknown().optional()]));
  const described = Object.fromEntries([...byWord].map(([word, schemas]) => [word, z.union(schemas).optional()]));
  const tables = tableWith(layouts);
  return { plan: schemaWith(open, tables), described: schemaWith(described, tables), settings };
}

export type ColumnInput = PlanInput["tables"][string]["columns"][string];
/** A column of the record's own, or of a list in it. */
export type FieldInput = Exclude<ColumnInput, { readonly through: string }>;

export function isThrough(input: ColumnInput): input is Exclude<ColumnInput, FieldInput> {
  return typeof input !== "string" && "through" in input;
}

/** What a plan's text holds at a place: the words there, or nothing. */
export type WordsThere = (path: readonly PropertyKey[]) => readonly string[];

/** The words that a schema knows at a path: of several records that may stand there, of that which is most like what does. */
export function wordsAt(schema: z.core.$ZodType, path: readonly PropertyKey[], there: WordsThere, depth = 0): readonly string[] {
  const inner = (one: z.core.$ZodType, deeper: number): readonly string[] => wordsAt(one, path, there, depth + deeper);
  if (schema instanceof z.ZodOptional) return inner(schema.unwrap(), 0);
  if (schema instanceof z.ZodUnion) {
    const words = schema.options.map((one) => inner(one, 0)).filter((list) => list.length > 0);
    const present = there(path);
    const alike = words.map((list) => list.filter((word) => present.includes(word)).length);
    const most = largest(alike);
    return [...new Set(words.filter((_, i) => alike[i] === most).flat())];
  }
  if (depth === path.length) return schema instanceof z.ZodObject ? Object.keys(schema.shape) : [];
  if (schema instanceof z.ZodRecord) return inner(schema.valueType, 1);
  if (schema instanceof z.ZodArray) return inner(schema.element, 1);
  const next = schema instanceof z.ZodObject ? (schema.shape[String(path[depth])] as z.core.$ZodType | undefined) : undefined;
  return next === undefined ? [] : inner(next, 1);
}

/** The words that may stand at a place of a plan, its formats' own too. */
export function planWords({ described }: PlanSchema, path: readonly PropertyKey[], there: WordsThere): readonly string[] {
  return wordsAt(described, path, there);
}

/** The JSON Schema that ships with the package. */
export async function planJsonSchema(layouts: readonly NamedWords[]): Promise<object> {
  return z.toJSONSchema((await planSchema(layouts)).described, { io: "input" });
}
