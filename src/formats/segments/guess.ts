/** Proposes a layout for files of segments: their separators, and which segments hold others. */
import { decode } from "../../bytes/writer.js";
import { SegmentGrammar } from "./grammar.js";
import { separatorsOf, type Separators } from "./separators.js";
import type { SegmentsInput } from "./settings.js";

type Field = SegmentsInput["records"][string]["fields"][number];

/** Service segments that begin and end an interchange, a group and a message: ISO 9735, and ASC X12. */
const PAIRS: readonly (readonly [head: string, tail: string])[] = [
  ["UNB", "UNZ"],
  ["UNG", "UNE"],
  ["UNH", "UNT"],
  ["ISA", "IEA"],
  ["GS", "GE"],
  ["ST", "SE"],
];
export function guessSegments(bytes: Uint8Array, whole: boolean): SegmentsInput | null {
  const separators = separatorsOf(decode(bytes.subarray(0, 4096)));
  if (separators === null) return null;
  const { end, delimiter, parts, release, skip } = separators;
  const segments = segmentsIn(bytes, whole, separators);
  const records: Record<string, SegmentsInput["records"][string]> = {};
  const around: string[] = [];
  for (const segment of segments) {
    const [tag, ...fields] = segment;
    const tail = PAIRS.find(([, one]) => one === tag[0]);
    if (tail !== undefined) around.splice(Math.max(0, around.lastIndexOf(tail[0]) + 1));
    const known = records[tag[0]];
    const inside = around.at(-1);
    if (known === undefined)
      records[tag[0]] = {
        tag: tag[0],
        ...(inside === undefined ? {} : { inside }),
        ...(tail === undefined ? {} : { closes: true }),
        fields: fieldsOf(fields),
      };
    else records[tag[0]] = { ...known, fields: longer(known.fields, fieldsOf(fields)) };
    if (tail !== undefined) around.pop();
    if (PAIRS.some(([one]) => one === tag[0])) around.push(tag[0]);
  }
  for (const [head, tail] of PAIRS) withTotals(records, head, tail);
  return {
    end,
    delimiter,
    ...(parts === undefined ? {} : { parts }),
    ...(release === undefined ? {} : { release }),
    ...(skip === undefined ? {} : { skip }),
    records,
  };
}

/** Segments as lists of fields, each a list of parts. */
function segmentsIn(bytes: Uint8Array, whole: boolean, separators: Separators): string[][][] {
  const grammar = new SegmentGrammar({ ...separators, records: {} });
  const found: string[][][] = [];
  for (let from = 0; from < bytes.length;) {
    const next = grammar.next(bytes, from, bytes.length, whole);
    if (next < 0) break;
    const fields = grammar.fieldsIn(bytes, from, grammar.end);
    if (fields[0][0] !== "" && (separators.skip === undefined || !fields[0][0].startsWith(separators.skip))) found.push(fields);
    from = next;
  }
  return found;
}

function fieldsOf(fields: readonly (readonly string[])[]): Field[] {
  return fields.map((parts, i) =>
    parts.length === 1 ? `field ${i + 1}` : parts.map((_, p) => (p === 0 ? `field ${i + 1}` : `field ${i + 1}.${p + 1}`)),
  );
}

/** Where one has parts and the other has not, the parts. */
function longer(one: readonly Field[], other: readonly Field[]): Field[] {
  return Array.from({ length: Math.max(one.length, other.length) }, (_, i) => {
    const [first, second] = [[one.at(i) ?? []].flat(), [other.at(i) ?? []].flat()];
    const parts = i >= one.length ? second : i >= other.length || first.length >= second.length ? first : second;
    return parts.length === 1 ? parts[0] : parts;
  });
}

/** A trailer counts what is in its message, and repeats its number. */
function withTotals(records: Record<string, SegmentsInput["records"][string]>, head: string, tail: string): void {
  const [own, end] = [records[head], records[tail]] as (SegmentsInput["records"][string] | undefined)[];
  if (own === undefined || end === undefined || end.fields.length < 2) return;
  const inner = PAIRS.map(([one]) => one).filter((one) => (records[one] as { inside?: string } | undefined)?.inside === head);
  const isMessage = tail === "UNT" || tail === "SE";
  const counted = isMessage ? "count lines" : inner.map((one) => `count ${one}`).join(" + ");
  const reference = { UNB: "field 5", UNG: "field 5", UNH: "field 1", ISA: "field 13", GS: "field 6", ST: "field 2" }[head]!;
  const repeats = own.fields.flat().includes(reference);
  const [first, second, ...rest] = end.fields;
  records[tail] = {
    ...end,
    fields: [
      counted === "" || Array.isArray(first) ? first : { name: first as string, total: counted },
      !repeats || Array.isArray(second) ? second : { name: second as string, total: `copy ${head}/${reference}` },
      ...rest,
    ],
  };
}
