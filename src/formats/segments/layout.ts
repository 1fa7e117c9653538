/** The layout of a file of segments, as a plan says it. */
import type { LineField, LineKind } from "../lines/grammar.js";
import { placeInside } from "../lines/layout.js";
import { parseTotal } from "../lines/total-words.js";
import type { SegmentsInput } from "./settings.js";

export interface SegmentField extends LineField {
  /** Number of the field in the segment, from 0, and of the part in it; -1 for a field without parts. */
  readonly at: number;
  readonly part: number;
}

export interface SegmentKind extends LineKind {
  readonly tags: readonly string[];
  readonly fields: readonly SegmentField[];
}

type Part = Extract<SegmentsInput["records"][string]["fields"][number], string | { name: string }>;

export function nameOf(part: Part): string {
  return typeof part === "string" ? part : part.name;
}

export function compileSegments(layout: SegmentsInput): SegmentKind[] {
  const names = Object.keys(layout.records);
  const fieldsOf = (kind: string): string[] | null => (kind in layout.records ? layout.records[kind].fields.flat().map(nameOf) : null);
  return names.map((name) => {
    const record = layout.records[name];
    const field = (part: Part, at: number, place: number): SegmentField => {
      const total = typeof part === "string" ? undefined : parseTotal(part.name, part.total, fieldsOf(name) ?? [], fieldsOf);
      return { name: nameOf(part), at, part: place, ...(total === undefined ? {} : { total }) };
    };
    return {
      name,
      inside: placeInside(name, record.inside, names),
      needsText: false,
      closes: record.closes ?? false,
      tags: [record.tag].flat(),
      fields: record.fields.flatMap((one, at) => (Array.isArray(one) ? one.map((part, i) => field(part, at, i)) : [field(one, at, -1)])),
    };
  });
}
