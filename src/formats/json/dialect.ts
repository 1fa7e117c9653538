/** Reading and writing JSON. */
import { decode } from "../../bytes/writer.js";
import type { NewValue } from "../../edits/edit.js";
import type { Dialect, FormatCode } from "../format.js";
import { Kind } from "../../model/kind.js";
import { JsonRenderer } from "./render.js";
import { JsonScanner } from "./scan.js";
import type { Settings, TablePlan } from "../../model/plan.js";
import { hasComments, plainJson, PlainText, plainText, readPlain } from "./comments.js";
import { decodeText, encodeName, unescape } from "./text.js";

/** What JSON is to the rest of the product; JSON Lines and JSON text sequences share it. */
export const jsonDialect: Dialect = {
  name: "json",
  settings: {},
  emptyIsAbsent: false,
  repeats: false,
  onlyText: false,
  scanner: (root, listener) => new JsonScanner(root, listener),
  decode: (bytes, start, end, { kind }) => (kind === Kind.Text ? decodeText(bytes, start, end) : decode(bytes, start, end)),
  unescape,
  encodeName,
  nameText: (bytes) => decodeText(bytes, 0, bytes.length),
  parse: (text) => JSON.parse(text) as unknown,
  validator: (files) => import("./schema.js").then(({ validatorOf }) => validatorOf(files, (text) => JSON.parse(text) as unknown)),
  schemaFields: (files) => import("./schema-fields.js").then(({ fieldsOf }) => fieldsOf(files)),
  fault: () => null,
  sourceValue,
  looksLikeSource: (text) => /^[[{]/.test(text),
  sourceExample: '{"a": 1} or [1, 2]',
  beside: () => false,
  renderer: (source, style) => new JsonRenderer(source, style),
};

/** The same for files with comments. */
function commentedDialect(settings: Settings): Dialect {
  return {
    ...jsonDialect,
    settings,
    read: readPlain,
    readPieces: plainJson,
    parse: (text) => JSON.parse(plainText(text)) as unknown,
    validator: (files) =>
      import("./schema.js").then(({ validatorOf }) => validatorOf(files, (text) => JSON.parse(plainText(text)) as unknown)),
    renderer: (source, style) => new JsonRenderer(source, style, source instanceof PlainText ? source : null),
  };
}

export const code: FormatCode = {
  guess: async (source) => ((await hasComments(source)) ? { comments: true } : {}),
  dialect: (settings) => (settings.comments === true ? commentedDialect(settings) : jsonDialect),
  skeleton,
};

/** Empty lists and keyed records where the tables at the top are. */
function skeleton(tables: readonly TablePlan[]): string {
  const tops = tables.filter((table) => table.inside === undefined);
  const root: Record<string, unknown> = Object.create(null) as Record<string, unknown>;
  for (const { rows } of tops) {
    const keyed = rows.steps.at(-1)?.kind === "any";
    const steps = keyed ? rows.steps.slice(0, -1) : rows.steps;
    let at = root;
    steps.forEach((step, i) => {
      const name = step.kind === "name" ? step.name : "";
      const inner = i < steps.length - 1 || keyed ? (Object.create(null) as Record<string, unknown>) : [];
      at = (at[name] ??= inner) as Record<string, unknown>;
    });
  }
  const list = tops.every(({ rows }) => rows.steps.length === 0);
  return list ? "[\n]\n" : `${JSON.stringify(root, null, 2)}\n`;
}

function sourceValue(text: string): NewValue | null {
  if (!/^[[{]/.test(text)) return null;
  try {
    JSON.parse(text);
  } catch {
    return null;
  }
  return { kind: text.startsWith("{") ? Kind.Record : Kind.List, text };
}
