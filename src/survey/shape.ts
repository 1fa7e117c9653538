/** survey: what is in a source. The public form of a shape, with what is odd in it. */
import type { Watch } from "../source/watch.js";
import type { FileReading } from "../source/choose.js";
import { decode } from "../bytes/writer.js";
import { openParts } from "../source/parts.js";
import { Kind } from "../model/kind.js";
import { formatPath } from "../model/path.js";
import { normalised } from "../cells/normalised.js";
import { PIECE, scanParts } from "../source/pass.js";
import { Collector } from "./collect.js";
import { findHierarchy, type Hierarchy } from "./hierarchy.js";
import { couldBeKey, looksLikeId, referencesOf } from "./keys.js";
import { findKinds, isHollow, type IsList, kindPath, type FieldShape, type RecordKind } from "./kinds.js";

/** Value types, as a survey names them. */
export type TypeName = "text" | "number" | "true/false" | "null" | "list" | "record";

export interface ShapeField {
  /** From the record to the value. */
  readonly path: string;
  readonly form: FieldShape["form"];
  /** In how many records of the kind it is there. */
  readonly present: number;
  /** Values by type. */
  readonly types: Readonly<Partial<Record<TypeName, number>>>;
  /** Length in bytes of the longest value. */
  readonly longest: number;
  readonly example: string | null;
  /** Always there and never twice. */
  readonly couldBeKey: boolean;
  /** Keys of other kinds among which all its values are found. */
  readonly couldRefer: readonly { readonly kind: string; readonly field: string }[];
}

export interface ShapeKind {
  readonly name: string;
  readonly path: string;
  readonly form: RecordKind["form"];
  readonly count: number;
  /** Name of the kind around it. */
  readonly inside: string | null;
  /** It holds its own kind. */
  readonly recursive: boolean;
  readonly fields: readonly ShapeField[];
}

/** Something odd that a person should look at. */
export interface Remark {
  readonly kind: string;
  readonly path: string;
  readonly message: string;
  /** Which values of the field it is about, where that can be told: these texts, those of a type, or all that there are. */
  readonly values?: readonly string[] | TypeName | "any";
}

export interface Shape {
  readonly source: {
    readonly name: string;
    readonly size: number;
    readonly format: string;
    readonly why: string;
    /** What it could be otherwise, where that is not sure. */
    readonly next?: { readonly format: string; readonly title: string; readonly why: string };
    readonly encoding: string;
    readonly bom: boolean;
    /** How many files there are, when it is a set of them. */
    readonly files?: number;
    /** What people call the format. */
    readonly title: string;
    /** The first lines as they are taken apart, for formats where that can be drawn. */
    readonly drawing: readonly string[];
  };
  readonly kinds: readonly ShapeKind[];
  readonly remarks: readonly Remark[];
}

/** What a pass over a source finds. */
export interface FoundShape {
  readonly kinds: RecordKind[];
  readonly bom: boolean;
  readonly strays: Remark[];
}

/** Goes through the source once and finds its record kinds. */
export async function findShape(
  readings: readonly FileReading[],
  watch: Watch,
  { head, isList }: { readonly head?: number; readonly isList?: IsList } = {},
): Promise<FoundShape> {
  const parts = await openParts(readings);
  const collector = new Collector();
  let left = head ?? Infinity;
  const goesOn = (): Promise<boolean> => Promise.resolve((left -= PIECE) > 0);
  await scanParts(parts, (part) => collector.begin(part), {
    ...watch,
    phase: "survey",
    ...(head === undefined ? {} : { afterPiece: goesOn }),
  });
  const inFile = (name: string): string => (parts.length > 1 ? `${name}, ` : "");
  const strays: Remark[] = collector.strayLines.map(({ file, line, text }) => ({
    kind: "",
    path: `${inFile(file)}line ${line}`,
    message: `holds no record, and is kept as it is: ${text}`,
  }));
  const more = collector.strays - strays.length;
  const beyond = collector.overs - collector.overLines.length;
  for (const { file, line, text } of collector.overLines)
    strays.push({
      kind: "",
      path: `${inFile(file)}line ${line}`,
      message: `holds more than its fields, and that is kept as it is: ${text}`,
    });
  if (beyond > 0) strays.push({ kind: "", path: "", message: `${beyond} more lines hold more than their fields` });
  if (more > 0) strays.push({ kind: "", path: "", message: `${more} more lines hold no record` });
  if (collector.left > 0)
    strays.push({
      kind: "",
      path: "",
      message: `more places than are told apart: ${collector.left.toLocaleString("en")} values were not looked at`,
    });
  const remarks = new Set<string>();
  for (const { name, text, dialect, index } of parts) {
    for (const { path, line, said, actual } of (await dialect.wrongTotals?.(text)) ?? [])
      strays.push({
        kind: path.slice(0, -1).join("/"),
        path: path[path.length - 1],
        message: `${inFile(name)}line ${line} says ${said}, but the records add up to ${actual}`,
      });
    for (const message of dialect.remarks?.(collector.styles[index]) ?? []) remarks.add(message);
    const odd = text.encoding === "windows-1252" ? unassigned(decode(await text.read(0, HEAD))) : [];
    if (odd.length > 0)
      remarks.add(
        `${inFile(name)}it holds bytes that stand for no letter in windows-1252 (${odd.join(", ")}): if words look wrong, say another encoding, as cp850`,
      );
  }
  for (const message of remarks) strays.push({ kind: "", path: "", message });
  return {
    kinds: findKinds(collector.finish(), parts[0].dialect, parts.length === 1 ? parts[0].name : "", isList),
    bom: parts[0].text.bom,
    strays,
  };
}

export function describeShape(all: readonly RecordKind[], source: Shape["source"], strays: readonly Remark[] = []): Shape {
  const kinds = all.filter((kind) => !isHollow(kind));
  return {
    source,
    kinds: kinds.map((kind) => ({
      name: kind.name,
      path: kindPath(kind),
      form: kind.form,
      count: kind.count,
      inside: kind.parent?.name ?? null,
      recursive: kind.recursive,
      fields: kind.fields.map((field) => ({
        path: formatPath(field.at),
        form: field.form,
        present: field.present,
        types: field.form === "name" ? { text: field.present } : typesOf(field),
        longest: field.node.longest,
        example: field.form === "name" ? null : field.node.example,
        couldBeKey: couldBeKey(kind, field),
        couldRefer: referencesOf(kind, field, kinds).map((to) => ({ kind: to.kind.name, field: formatPath(to.field.at) })),
      })),
    })),
    remarks: [
      ...strays,
      ...kinds.flatMap((kind) => kind.fields.flatMap((field) => remarksOn(kind, field)).concat(hierarchyRemarks(kind), kindRemarks(kind))),
    ],
  };
}

/** So much of a text is looked at to see whether it is in another encoding. */
const HEAD = 1 << 16;

/** Bytes that windows-1252 has no letters for, in hexadecimal: in a text they tell that it is in another encoding, as in one of DOS. */
function unassigned(text: string): string[] {
  const found = new Set(text.match(/[\u0081\u008d\u008f\u0090\u009d]/g));
  return [...found].map((char) => char.charCodeAt(0).toString(16).toUpperCase()).toSorted();
}

function typesOf({ node, form }: FieldShape): Partial<Record<TypeName, number>> {
  const isStandIn = form === "rest";
  const counts: [TypeName, number][] = [
    ["text", node.kinds[Kind.Text]],
    ["number", node.kinds[Kind.Number]],
    ["true/false", node.kinds[Kind.True] + node.kinds[Kind.False]],
    ["null", node.nulls],
    ["list", node.emptyLists + (isStandIn ? 0 : node.filledLists)],
    ["record", node.emptyRecords + (isStandIn ? 0 : node.filledRecords)],
  ];
  return Object.fromEntries(counts.filter(([, n]) => n > 0));
}

function remarksOn(kind: RecordKind, field: FieldShape): Remark[] {
  const { node } = field;
  const path = formatPath(field.at);
  const remarks: Remark[] = [];
  const say = (message: string, values?: Remark["values"]): void =>
    void remarks.push({ kind: kind.name, path, message, ...(values === undefined ? {} : { values }) });
  const types = (Object.entries(typesOf(field)) as [TypeName, number][]).filter(([type]) => type !== "null");
  if (field.form === "scalar" && types.length > 1) {
    const [rarest] = types.reduce((one, other) => (other[1] < one[1] ? other : one));
    say(`mixed types: ${types.map(([type, n]) => `${n} ${type}`).join(", ")}`, rarest);
  }
  if (field.form === "rest" && node.nulls > 0)
    say(`null ${times(node.nulls)} where others have a ${node.filledLists > 0 ? "list" : "record"}`, "null");
  else if (field.form !== "name" && field.form !== "rest" && field.present === 1 && kind.count >= 5) say("in one record only", "any");
  if (node.repeated > 0)
    say(`the name stands more than once in ${node.repeated} record${node.repeated === 1 ? "" : "s"}; the last one counts`);
  if (node.mixed > 0) say(`${node.mixed} text${node.mixed === 1 ? "" : "s"} with elements between the words (mixed content)`);
  if (node.longNumbers > 0)
    say(`${node.longNumbers} number${node.longNumbers === 1 ? "" : "s"} with more digits than a double holds; kept as spelled`);
  if (node.loneSurrogates > 0)
    say(`${node.loneSurrogates} text${node.loneSurrogates === 1 ? "" : "s"} with half a character (a lone surrogate)`);
  for (const group of nearDoubles(node.texts))
    say(`the same but for spaces or case: ${group.map((text) => JSON.stringify(text)).join(", ")}`, group);
  if (
    field.form === "scalar" &&
    !node.unique &&
    looksLikeId(path) &&
    node.distinct !== null &&
    field.present === kind.count &&
    node.distinct.size >= 0.9 * node.count &&
    node.distinct.size < node.count
  ) {
    say(`nearly a key, but these stand twice: ${[...node.doubles].map((text) => JSON.stringify(text)).join(", ")}`, [...node.doubles]);
  }
  return remarks;
}

function hierarchyRemarks(kind: RecordKind): Remark[] {
  return findHierarchy(kind).map((found) => ({
    kind: kind.name,
    path: found.field,
    message: hierarchyMessage(found, kind.count),
  }));
}

function hierarchyMessage(found: Hierarchy, count: number): string {
  const names = (all: readonly string[]): string => all.map((one) => JSON.stringify(one)).join(", ");
  if (found.form === "path") return `paths, with ${JSON.stringify(found.separator)} between the names: the records could be a tree`;
  if (found.form === "depth") return `depths down to ${found.deepest} in the order of the records: they could be a tree`;
  if (found.form === "parent") return `names the record above by its ${JSON.stringify(found.key)}: the records could be a tree`;
  if (found.form === "once") return "stands in the first of several records, and is blank in those below it";
  return `${found.count} values in ${count} records, each always with the same ${names(found.others)}: they could be records of their own`;
}

function times(n: number): string {
  return n === 1 ? "once" : `${n} times`;
}

function kindRemarks(kind: RecordKind): Remark[] {
  const remarks: Remark[] = [];
  if (kind.recursive) remarks.push({ kind: kind.name, path: kindPath(kind), message: "holds its own kind" });
  const single = kind.form === "list" ? kind.holder.filledRecords + kind.holder.scalars : 0;
  if (single > 0)
    remarks.push({ kind: kind.name, path: kindPath(kind), message: `stands alone ${times(single)} where others have a list` });
  return remarks;
}

/** Spellings that differ only by spaces, case or Unicode form. */
function nearDoubles(texts: ReadonlyMap<number, string> | null): string[][] {
  if (texts === null) return [];
  const groups = new Map<string, Set<string>>();
  for (const text of texts.values()) {
    const fold = normalised(text);
    groups.set(fold, (groups.get(fold) ?? new Set()).add(text));
  }
  return [...groups.values()].filter((group) => group.size > 1).map((group) => [...group]);
}
