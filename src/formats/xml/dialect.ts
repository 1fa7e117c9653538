/** Reading and writing XML. */
import { decode, encode, type ByteWriter } from "../../bytes/writer.js";
import type { TextSource } from "../../bytes/encoding.js";
import type { TablePlan, Settings } from "../../model/plan.js";
import type { SchemaFile } from "../../model/schema.js";
import type { SchemaNode } from "../../model/schema-node.js";
import type { Step } from "../../model/path.js";
import {
  PlaceNode,
  type Dialect,
  type HoldFault,
  type Listener,
  type ScannedValue,
  type Validator,
  type WritingStyle,
  type Spot,
  type FormatCode,
} from "../format.js";
import { Kind } from "../../model/kind.js";
import type { NewValue } from "../../edits/edit.js";
import { Entities } from "./entities.js";
import { SilentListener } from "../silent.js";
import { XmlRenderer } from "./render.js";
import { AT, isNameBytes } from "./bytes.js";
import { ATTRIBUTE, XmlScanner, type XmlStyle } from "./scan.js";
import { PlanNames } from "./scope.js";
import { guessNamespaces } from "./sniff.js";
import { decodeAttribute, decodeContent, notXml, unescape } from "./text.js";

/** What stands between `<` and `>` and is no element. */
const NO_ELEMENT = /<!--[\s\S]*?-->|<!\[CDATA\[[\s\S]*?\]\]>|<\?[\s\S]*?\?>/g;

/** Never found in a file. */
const NO_NAME = Uint8Array.of(0xff);
const NAME = /^[\p{L}_][\p{L}\p{N}\p{M}_.:-]*$/u;

class XmlDialect implements Dialect {
  readonly name = "xml";
  readonly emptyIsAbsent = false;
  readonly spellsLetters = true;
  readonly repeats = true;
  readonly onlyText = true;
  readonly sourceExample = "some <b>words</b> &amp; more";
  constructor(readonly settings: Settings) {}

  private get namespaces(): Readonly<Record<string, string>> {
    return (this.settings.namespaces ?? {}) as Readonly<Record<string, string>>;
  }

  scanner(root: PlaceNode, listener: Listener): XmlScanner {
    forgetPlaces(root);
    return new XmlScanner(root, listener, new Entities(), this.namespaces);
  }

  validator(files: readonly SchemaFile[]): Promise<Validator> {
    return import("./schema.js").then(({ validatorOf }) => validatorOf(files));
  }

  schemaFields(files: readonly SchemaFile[]): Promise<SchemaNode> {
    return import("./schema-fields.js").then(({ fieldsOf }) => fieldsOf(files));
  }

  decode(bytes: Uint8Array, start: number, end: number, { kind, node, style }: ScannedValue): string {
    if (kind === Kind.Record) return decode(bytes, start, end);
    const { entities } = style as XmlStyle;
    return node.note === ATTRIBUTE ? decodeAttribute(bytes, start, end, entities) : decodeContent(bytes, start, end, entities);
  }

  unescape(bytes: Uint8Array, start: number, end: number, out: ByteWriter): boolean {
    return unescape(bytes, start, end, out);
  }

  encodeName(name: string): Uint8Array {
    const bytes = encode(name);
    return isNameBytes(bytes, bytes[0] === AT ? 1 : 0) ? bytes : NO_NAME;
  }

  nameText(bytes: Uint8Array): string {
    return decode(bytes);
  }

  fault(value: NewValue, steps: readonly Step[], spot: Spot): HoldFault | null {
    // the root element cannot be taken out of its document
    const [root] = steps;
    if (value.kind === Kind.Absent && steps.length === 1 && root.kind === "name")
      return { code: "cell-emptied", facts: { title: root.name } };
    const char = notXml(value.text);
    if (char !== null) return { code: "xml-character", facts: { char } };
    const bad = spot === "set" ? undefined : steps.find((step) => step.kind === "name" && !NAME.test(step.name.replace(/^@/, "")));
    return bad?.kind === "name" ? { code: "xml-name", facts: { name: bad.name } } : null;
  }

  /** Any text is content of an element, when it is well formed as such; with no other element in it, it is read as a text. */
  sourceValue(text: string, style: WritingStyle): NewValue | null {
    const node = new PlaceNode();
    const scanner = new XmlScanner(node, new SilentListener(), (style as XmlStyle).entities);
    try {
      scanner.write(encode(`<x>${text}</x>`));
      scanner.end();
    } catch {
      return null;
    }
    if (text.replace(NO_ELEMENT, "").includes("<")) return { kind: Kind.Record, text };
    const bytes = encode(text);
    return { kind: Kind.Text, text: this.decode(bytes, 0, bytes.length, { kind: Kind.Text, node, style }) };
  }

  looksLikeSource(text: string): boolean {
    return /[<&]/.test(text);
  }

  readonly emptyIsNoText = true;

  hasComment(written: string): boolean {
    return /<!--|<\?/.test(written.replace(/<!\[CDATA\[[^]*?\]\]>/g, ""));
  }

  beside(name: string): boolean {
    return name.startsWith("@");
  }

  remarks(style: WritingStyle): readonly string[] {
    return (style as XmlStyle).entities.external
      ? ["entities are declared outside this file: they are never fetched, and a text that refers to one is kept as it is written"]
      : [];
  }

  renderer(source: TextSource, style: WritingStyle): XmlRenderer {
    return new XmlRenderer(source, style as XmlStyle, new PlanNames(this.namespaces));
  }

  /** The same entities and the same namespaces are declared. */
  alike(style: WritingStyle, _other: Dialect, otherStyle: WritingStyle): boolean {
    const own = ({ entities, names }: XmlStyle): string => JSON.stringify([entities.declared, [...names.declared].sort()]);
    return own(style as XmlStyle) === own(otherStyle as XmlStyle);
  }
}

/** A scanner counts elements from the first again: what another one noted on the nodes does not hold. */
function forgetPlaces(node: PlaceNode, seen = new Set<PlaceNode>()): void {
  seen.add(node);
  node.serial = -1;
  for (const inner of [...node.nameNodes, node.any]) if (inner !== null && !seen.has(inner)) forgetPlaces(inner, seen);
}

export const code: FormatCode = {
  guess: async (source: TextSource) => guessNamespaces(await source.read(0, 1 << 16)),
  dialect: (settings) => new XmlDialect(settings),
  skeleton,
};

/** The root element, and the elements that the records at the top stand in. */
function skeleton(tables: readonly TablePlan[], settings: Settings): string {
  const tops = tables
    .filter((table) => table.inside === undefined)
    .map(({ rows, columns }) => (rows.steps.length > 0 ? rows.steps : (columns[0]?.at.steps ?? [])));
  const nameAt = (steps: readonly Step[], i: number): string => (steps[i]?.kind === "name" ? steps[i].name : "");
  const root = nameAt(tops.find((steps) => steps.length > 0) ?? [], 0) || "records";
  const around = [...new Set(tops.filter((steps) => steps.length > 2).map((steps) => nameAt(steps, 1)))].filter(
    (name) => !name.startsWith("@"),
  );
  const bound = Object.entries((settings.namespaces ?? {}) as Record<string, string>);
  const namespaces = bound
    .map(([prefix, uri]) => ` xmlns${prefix === "" ? "" : `:${prefix}`}="${uri.replaceAll("&", "&amp;").replaceAll('"', "&quot;")}"`)
    .join("");
  const inner = around.map((name) => `\n  <${name}/>`).join("");
  const body = inner === "" ? `<${root}${namespaces}/>` : `<${root}${namespaces}>${inner}\n</${root}>`;
  return `<?xml version="1.0" encoding="UTF-8"?>\n${body}\n`;
}
