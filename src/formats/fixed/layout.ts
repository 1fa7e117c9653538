/** The layout of a fixed-width file, as a plan says it: record kinds, tags, and fields by columns. */
import type { LayoutInput } from "./settings.js";
import { PlanError } from "../../errors/error.js";
import type { LineField, LineKind } from "../lines/grammar.js";
import { compilePicture, type DatePicture } from "../lines/dates.js";
import type { NumberForm } from "../lines/numbers.js";
import { repeated } from "../lines/groups.js";
import { placeInside } from "../lines/layout.js";
import type { CodePage, Stored } from "./stored.js";
import { parseTotal } from "../lines/total-words.js";

export interface FixedField extends LineField {
  /** Columns from 0, the end not included; `Infinity` is the end of the line. */
  readonly from: number;
  readonly to: number;
  readonly right: boolean;
  readonly pad: string;
  readonly number: NumberForm | null;
  readonly date: DatePicture | null;
  /** It is no text, but a number in bytes of this page. */
  readonly stored: { readonly as: Stored; readonly page: CodePage } | null;
  readonly blankWhenZero: boolean;
  /** Only the padding is taken off: the text is what stands there. */
  readonly simple: boolean;
}

export interface FixedKind extends LineKind {
  readonly tag: { readonly from: number; readonly to: number; readonly is: readonly string[] } | null;
  readonly line: "first" | "last" | null;
  readonly fields: readonly FixedField[];
}

export function compileLayout(layout: LayoutInput, page: CodePage | null): FixedKind[] {
  const names = Object.keys(layout.records);
  return names.map((name) => {
    const record = layout.records[name];
    return {
      name: names.length === 1 && record.tag === undefined && record.line === undefined ? "" : name,
      inside: placeInside(name, record.inside, names),
      needsText: record.tag === undefined,
      closes: record.closes ?? false,
      tag: record.tag === undefined ? null : { ...range(record.tag.at), is: [record.tag.is].flat() },
      line: record.line ?? null,
      fields: Object.entries(record.fields).flatMap(([title, field]) => compileField(title, field, { layout, kind: name, page })),
    };
  });
}

/** What a field is compiled for: the layout, the kind that it is in, and the page of the file. */
interface FieldOf {
  readonly layout: LayoutInput;
  readonly kind: string;
  readonly page: CodePage | null;
}

type FieldInput = LayoutInput["records"][string]["fields"][string];
type GroupInput = Extract<FieldInput, { fields: unknown }>;

function compileField(name: string, input: FieldInput, of: FieldOf): FixedField[] {
  if (typeof input === "object" && "fields" in input) return compileGroup(name, input, of);
  const { layout, kind, page } = of;
  const said = typeof input === "object" ? input : { at: input };
  const { from, to: last } = range(said.at);
  const most = layout.length ?? Infinity;
  if ((last === Infinity ? from : last) > most) throw new PlanError("layout-beyond", { field: name, at: String(said.at), length: most });
  const to = Math.min(last, most);
  if (to <= from) throw new PlanError("layout-columns", { field: name, at: String(said.at) });
  const numeric = said.stored !== undefined || said.decimals !== undefined || said.sign !== undefined || said.decimal !== undefined;
  const fieldsOf = (one: string): string[] | null => fieldNames(layout, kind, one);
  const total = parseTotal(name, said.total, fieldsOf(kind) ?? [], fieldsOf);
  // what is repeated and what is checked are texts
  const counts = total !== undefined && total.copy === undefined && total.digit === undefined;
  const field: FixedField = {
    name,
    from,
    to,
    right: said.align === "right" || (said.align === undefined && (numeric || counts || said.pad === "0")),
    pad: said.pad ?? (numeric || counts ? "0" : " "),
    number: numeric
      ? { decimals: said.decimals ?? null, point: said.decimal ?? null, group: null, sign: said.sign ?? null, plus: said.plus ?? true }
      : null,
    date: said.date === undefined ? null : compilePicture(name, said.date, said.pivot),
    stored: storedIn(name, said.stored, page),
    blankWhenZero: said["blank-when-zero"] ?? false,
    simple: !numeric && said.date === undefined,
    total,
  };
  if (said.times === undefined) return [field];
  const width = to - from;
  return Array.from({ length: said.times }, (_, i) => ({ ...field, name: `${name} ${i + 1}`, from: from + i * width, to: to + i * width }));
}

/** Columns of its fields are counted in the group. */
function compileGroup(name: string, { at, times, fields }: GroupInput, of: FieldOf): FixedField[] {
  const { from, to } = range(at);
  const width = to - from;
  const last = from + width * (times ?? 1);
  const { length = Infinity } = of.layout;
  if (!(width > 0 && width < Infinity)) throw new PlanError("layout-columns", { field: name, at: String(at) });
  if (last > length) throw new PlanError("layout-beyond", { field: name, at: `${from + 1}-${last}`, length });
  const own = Object.entries(fields).flatMap(([title, input]) => {
    const { total } = typeof input === "object" ? input : {};
    if (total !== undefined) throw new PlanError("layout-total", { field: title, total: typeof total === "string" ? total : total.of });
    return compileField(title, input, { ...of, layout: { ...of.layout, length: width } });
  });
  return repeated(name, times, (nth) =>
    own.map((field) => ({ ...field, from: from + nth * width + field.from, to: from + nth * width + field.to })),
  );
}

/** Names of the fields of a kind, or of a group in the kind. */
function fieldNames({ records }: LayoutInput, kind: string, name: string): string[] | null {
  if (name in records) return Object.keys(records[name].fields);
  const group = records[kind].fields[name] as FieldInput | undefined;
  return typeof group === "object" && "fields" in group ? Object.keys(group.fields) : null;
}

function range(at: string | number): { from: number; to: number } {
  const [first, last = first] = String(at).split("-");
  return { from: Number(first) - 1, to: last === "" ? Infinity : Number(last) };
}

function storedIn(field: string, as: Stored | undefined, page: CodePage | null): FixedField["stored"] {
  if (as === undefined) return null;
  if (page === null) throw new PlanError("layout-stored", { field });
  return { as, page };
}
