/** Groups of fields that stand several times in one line: each that is not blank is a record inside that of the line. */
import { PlanError } from "../../errors/error.js";
import { decode } from "../../bytes/writer.js";
import type { FieldSpans, LineField, LineGrammar, LineGroup, LineKind } from "./grammar.js";

/** The fields of a group that stands so many times, one after the other: named apart, as `lamps 2 hours`. */
export function repeated<F extends LineField>(group: string, times: number | undefined, fieldsOf: (nth: number) => readonly F[]): F[] {
  if (times === undefined) throw new PlanError("layout-times", { group });
  return Array.from({ length: times }, (_, nth) =>
    fieldsOf(nth).map((field) => ({ ...field, name: `${group} ${nth + 1} ${field.name}`, group: { name: group, nth, field: field.name } })),
  ).flat();
}

const known = new WeakMap<LineKind["fields"], readonly LineGroup[]>();
const NONE: readonly LineGroup[] = [];

export function groupsOf({ fields }: LineKind): readonly LineGroup[] {
  const found = known.get(fields);
  if (found !== undefined) return found;
  const groups = new Map<string, { name: string; names: string[]; places: number[][] }>();
  for (const [f, { group }] of fields.entries()) {
    if (group === undefined) continue;
    const own = groups.get(group.name) ?? { name: group.name, names: [], places: [] };
    groups.set(group.name, own);
    if (group.nth === 0) own.names.push(group.field);
    (own.places[group.nth] ??= []).push(f);
  }
  const made = groups.size === 0 ? NONE : [...groups.values()];
  known.set(fields, made);
  return made;
}

/** Has the line no such group: it is too short, or its fields there are empty? */
export function isBlankGroup(grammar: LineGrammar, kind: number, places: readonly number[], buf: Uint8Array, spans: FieldSpans): boolean {
  return places.every((field) => {
    if (spans.starts[field] < 0 || grammar.isEmpty(kind, field, buf, spans)) return true;
    const nothing = grammar.nothing?.(kind, field) ?? "";
    return nothing !== "" && grammar.decode(decode(buf, spans.textStarts[field], spans.textEnds[field]), kind, field) === nothing;
  });
}

/** Where the fields of a group begin and end in the line that has it. */
export function groupSpan(places: readonly number[], { starts, ends }: FieldSpans): { start: number; end: number } {
  let [start, end] = [Infinity, -1];
  for (const field of places) {
    if (starts[field] < 0) continue;
    start = Math.min(start, starts[field]);
    end = Math.max(end, ends[field]);
  }
  return { start, end };
}
