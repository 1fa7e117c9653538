/**
 * What a format is to the rest of the product: a sniffer, settings, and a dialect made from them: a
 * scanner and a renderer.
 *
 * A scanner steps along a guide (a compiled plan, or a survey that grows as it goes) and tells a
 * listener what it meets. It works on bytes in UTF-8; other encodings are turned into UTF-8 before it.
 */
import type { SchemaFile } from "../model/schema.js";
import type { SchemaNode } from "../model/schema-node.js";
import type { ZodType } from "zod";
import type { Encoding, TextSource } from "../bytes/encoding.js";
import type { Pages } from "../bytes/pages.js";
import type { ByteSource } from "../bytes/source.js";
import type { ByteWriter } from "../bytes/writer.js";
import type { WindowScanner } from "../bytes/window.js";
import { wordsOf } from "../bytes/words.js";
import type { ErrorCode, Facts, Fault } from "../errors/words.js";
import type { Settings, TablePlan } from "../model/plan.js";
import type { Step } from "../model/path.js";
import type { Edit, NewValue } from "../edits/edit.js";
import type { Kind } from "../model/kind.js";
import type { Trail } from "../model/trail.js";
import type { ForeignPiece, Splice } from "../edits/splice.js";

/** What the listener wants to hear of a value that is reached at a node. Bits. */
export const Wants = {
  Nothing: 0,
  /** A scalar, or the whole text of what is not a scalar. */
  Cell: 1,
  /** The value, or each item of the list, is a row. */
  Row: 2,
  /** Every event, containers too. */
  All: 4,
  /** Where it is: told like a cell, but its text need not be in view. */
  Span: 8,
} as const;

/** A place in the nesting: the state a scanner is in when it meets a value there. */
export class PlaceNode {
  take: number = Wants.Nothing;
  /** A list met here is stepped through: its items count as values of this same node. */
  steps = false;
  /** The node for any member of a record whose name is not in `names`. */
  any: PlaceNode | null = null;
  /** The node for the items of a list that is not stepped through. */
  item: PlaceNode | null = null;
  /** Nodes for items at fixed places of such a list. */
  readonly places: PlaceNode[] = [];
  /** Ask the listener for a node when a name is not known. */
  grows = false;
  /** Something below this node is wanted, so a record or list here is entered. */
  entered = false;
  readonly nameBytes: Uint8Array[] = [];
  /** The same in words of four bytes. */
  readonly nameWords: Int32Array[] = [];
  readonly nameNodes: PlaceNode[] = [];
  readonly byName = new Map<string, PlaceNode>();
  hint = 0;
  /**
   * Takes the text of a record that has other parts besides it (an XML element with attributes).
   * A column's node takes it itself; a row's node has one for the column at `.`.
   */
  own: PlaceNode | null = null;
  /** For a scanner's own use: the container in which the place was met last, and how often in it. */
  serial = -1;
  nth = 0;
  /** What a dialect knows of the place: the description of a field in a layout, say. */
  note: unknown = null;

  // numbers that the listener of a compiled plan uses; -1 where they do not apply
  /** Table of the rows that are opened here. */
  table = -1;
  /** Table whose open row takes the value. */
  owner = -1;
  /** Where in that row. */
  slot = -1;
  /** Reached by `*`: each member of a keyed record is one. */
  starred = false;
  /** Slot of the row opened here that takes the value itself (`.`). */
  selfSlot = -1;
  /** Slot of the row opened here that takes the member's name (`:key`). */
  nameSlot = -1;
  /** Slot of the row opened here that takes the place in its list (`:index`). */
  indexSlot = -1;

  addName(name: string, node: PlaceNode, bytes: Uint8Array): void {
    this.byName.set(name, node);
    this.nameBytes.push(bytes);
    this.nameWords.push(wordsOf(bytes));
    this.nameNodes.push(node);
  }

  /** The name by which this node leads to another one, or `null`. */
  nameOf(node: PlaceNode): string | null {
    for (const [name, one] of this.byName) if (one === node) return name;
    return null;
  }
}

/** Hears what a scanner meets. Positions are in `scanner.window`; add `scanner.base` for source offsets. */
export interface Listener {
  /** A record or list that is wanted begins. */
  open(node: PlaceNode, kind: Kind, start: number): void;
  close(node: PlaceNode, kind: Kind, end: number): void;
  /**
   * A value that is wanted: its span, and the span of its text (inside the quotes).
   * `plain` says that the text's bytes stand for themselves.
   */
  value(node: PlaceNode, kind: Kind, start: number, end: number, textStart: number, textEnd: number, plain: boolean): void;
  /** The window is about to move: copy what is still needed. */
  leave(): void;
  /** A member name (or an item, when `name` is null) that the node does not know. */
  unknown?(node: PlaceNode, name: string | null): PlaceNode | null;
  /** The node for the text of a record that has other parts besides. */
  ownText?(node: PlaceNode): PlaceNode | null;
  /** The record that is open holds text between its parts, so it is kept as it is written. */
  mixed?(node: PlaceNode): void;
  /** The records met here are items of a list, however many of them there are. */
  listed?(node: PlaceNode): void;
  /**
   * A value that nobody wants, and that belongs to the record that is open: what it is called in that record, as a number, and
   * its span, which is empty where the number stands for the value, too.
   */
  rest?(called: number, start: number, end: number): void;
  /** A line that holds no record: where it stands, and its number. */
  stray?(start: number, end: number, line: number): void;
  /** A value begins in the line in which the one before it ends, where each has a line of its own. */
  sharesLine?(): void;
  /** What stands in a record's line and is none of its fields: cells beyond the titles, lines of a block without a name. */
  over?(start: number, end: number, line: number): void;
  /** Set by the scanner that speaks to this listener. */
  scanner?: Scanner;
}

/**
 * Where some of the records at the top of a file begin: offsets, and numbers of their lines. What stands between two of these
 * is read the same wherever it stands.
 */
export interface RecordStarts {
  readonly starts: Pages;
  readonly lines: Pages;
  /** Each total is over what is in one record. */
  readonly haveTotals: boolean;
}

/** A scanner in the middle of its work. */
export interface Scanner extends WindowScanner {
  /** Totals that do not fit their records, when all has been read; nothing where they were not checked. */
  wrongTotals?(): readonly WrongTotal[] | null;
  /** Where records at the top begin, where these do not depend on each other and were asked for. */
  recordStarts?(): RecordStarts | null;
  /** Name of the member whose value is being told: its span in the window, quotes not included. */
  readonly nameStart: number;
  readonly nameEnd: number;
  readonly namePlain: boolean;
  /** Its bytes, when it has left the window: the value is an item of a long list, and the list has the name. */
  nameCopy?(): Uint8Array | null;
  /** The same for the member whose value, of any length, is being told: source offsets. */
  readonly memberStart: number;
  readonly memberEnd: number;
  /** Place (from 0) of the item whose value is being told, in its list. */
  readonly index: number;
  /** The value being told is an item of a list that is stepped through. */
  readonly inList: boolean;
  /** The value being told is a member of a record, so it has a name. */
  readonly named: boolean;
  /** Number of the line at hand, from 1, where records are lines. */
  readonly line?: number;
  /**
   * The record being told is not the first of its list, nothing but what separates them is between it and the one before it,
   * and neither depends on the other. Where that is not known, it does not.
   */
  readonly adjoins?: boolean;
  /** The way from the top to the value being told, or (`closed`) to the container that has just closed. */
  trail(closed: boolean): Trail;
  /** How the file writes things, as far as it was seen. */
  readonly style: WritingStyle;
}

/** How a whole source spells things, learnt while scanning. A format may keep more of what it needs to read and write values. */
export interface WritingStyle {
  /** Bytes outside ASCII stand in the text. */
  rawHigh: boolean;
  /** Characters outside ASCII are written as escapes. */
  escapedHigh: boolean;
  /** Lines end in CR LF. */
  crlf: boolean;
}

/** What sniffing says: how sure (0 to 1) and why. */
export interface Sniffed {
  readonly score: number;
  readonly why: string;
}

/** Why a value cannot stand where it is to be written. */
export type HoldFault = Fault;

/** Why a format cannot spell a value. */
export type SpellFault = { [C in ErrorCode]: { readonly code: C; readonly facts: Facts<C> } }[ErrorCode];

/** What is known of a value beside its bytes. */
export interface ScannedValue {
  readonly kind: Kind;
  readonly node: PlaceNode;
  readonly style: WritingStyle;
}

/** A format with its settings: what scans, decodes and renders one kind of file. It has no state: what a scan learnt is its writing style. */
export interface Dialect {
  /** Name of the format. */
  readonly name: string;
  readonly settings: Settings;
  /** An empty text is the same as none. */
  readonly emptyIsAbsent: boolean;
  /** Letters that the encoding lacks can be spelled out. */
  readonly spellsLetters?: boolean;
  /** Members of one name in one record are the items of a list. */
  readonly repeats: boolean;
  /** Numbers, `true` and `false` are only texts. */
  readonly onlyText: boolean;
  /** `totals`: they are checked on the way, where the settings declare some. */
  scanner(root: PlaceNode, listener: Listener, totals?: boolean): Scanner;
  /** The text of a value as a person reads it: escapes resolved, quotes gone. */
  decode(bytes: Uint8Array, start: number, end: number, value: ScannedValue): string;
  /** The same as bytes, appended to `out`; false when that takes more than swapping simple escapes. */
  unescape(bytes: Uint8Array, start: number, end: number, out: ByteWriter): boolean;
  /** The bytes that a member name most likely has in a file. */
  encodeName(name: string): Uint8Array;
  /** A member name as a person reads it, from its bytes in the file. */
  nameText(bytes: Uint8Array): string;
  /** Why the value cannot be written at the end of these steps from the top; `null` when it can. */
  fault(value: NewValue, steps: readonly Step[], spot: Spot): HoldFault | null;
  /** What a piece of source text is that a cell holds verbatim, as it would be read; `null` when it is not well formed. */
  sourceValue(text: string, style: WritingStyle): NewValue | null;
  /** The text is meant as source text, well formed or not. */
  looksLikeSource(text: string): boolean;
  /** What such a piece looks like. */
  readonly sourceExample: string;
  /** The text as the scanner and the renderer see it, byte for byte in its place; what is written is the text itself. */
  read?(text: TextSource): Promise<TextSource>;
  /** The same of a text that comes in pieces. */
  readPieces?(pieces: AsyncIterable<Uint8Array>): AsyncIterable<Uint8Array>;
  /** Both texts are written alike at the end of these steps from the top, as a field may show less than a cell. */
  writesAlike?(one: string, other: string, steps: readonly Step[]): boolean;
  /** A text as it is read again when it was written there: a field may keep fewer or more digits than were typed. */
  readsAs?(text: string, steps: readonly Step[]): string;
  /** A text as it is written holds something that no sheet shows. */
  hasComment?(written: string): boolean;
  /** A record's own text that is empty follows from what else there is: an element without others has one. */
  readonly emptyIsNoText?: true;
  /** A part of that name stands beside the record's own text, not instead of it. */
  beside(name: string): boolean;
  renderer(source: TextSource, style: WritingStyle): Renderer;
  /** A record of one file can stand in the other one as it is written. */
  alike?(style: WritingStyle, other: Dialect, otherStyle: WritingStyle): boolean;
  /** The whole text as JSON values, for formats that are JSON. */
  parse?(text: string): unknown;
  /** Names of what a new record at the end of these steps has in it from the start, where no table shows it: it ends so. */
  bringsAlong?(steps: readonly Step[]): readonly string[];
  /** How many records at the end of these steps one record around them has room for; nothing where any number. */
  mostOf?(steps: readonly Step[]): number | null;
  /** Tries what is asked of records whose fields depend on each other, where the settings declare some. */
  trial?(source: TextSource): FieldTrial;
  /** Totals that do not fit their records, where the settings declare some: one pass over the source. */
  wrongTotals?(source: ByteSource): Promise<readonly WrongTotal[]>;
  /** The value at the end of these steps from the top follows from others: it is a total over records. */
  isTotal?(steps: readonly Step[]): boolean;
  /** Checks documents by a schema, where there are schemas for the format. @throws {@link SchemaError} where it cannot be read */
  validator?(files: readonly SchemaFile[]): Promise<Validator>;
  /** What a schema says of the fields of a document. */
  schemaFields?(files: readonly SchemaFile[]): Promise<SchemaNode>;
  /** What a scan met and a person should know. */
  remarks?(style: WritingStyle): readonly string[];
}

/** Writes fields into a copy of a record, and reads it again. */
export interface FieldTrial {
  /** Do fields of records at the end of these steps depend on each other? */
  isNeeded(steps: readonly Step[]): boolean;
  /** Are records at the end of these steps told by their place in the file, of which there is one? */
  placeOf(steps: readonly Step[]): "first" | "last" | null;
  /** What a new record has in columns that no field names, as others have: that, and lines that come with it. */
  copied(steps: readonly Step[]): Promise<readonly { readonly kind: string; readonly columns: string; readonly text: string }[]>;
  /** What the record that begins at `at` says with these texts in its fields. */
  change(steps: readonly Step[], at: number, texts: ReadonlyMap<string, string>): Promise<Tried>;
  /** What a new record says, made like the one that begins at `model`. */
  add(steps: readonly Step[], model: number | null, texts: ReadonlyMap<string, string>): Promise<Tried>;
}

/** The text of every field then; or why it cannot be, and in which field. */
export type Tried = { readonly says: ReadonlyMap<string, string> } | { readonly fault: HoldFault; readonly field: string };

/** Checks whole documents by a schema of their owner's. */
export interface Validator {
  /** All that is wrong with a text. */
  validate(text: string): Promise<readonly SchemaFault[]>;
}

export interface SchemaFault {
  readonly message: string;
  /** What it is about: a JSON Pointer, or an offset in the text. */
  readonly at: string | number;
  /** It is about what is in a record, how much or in which order. */
  readonly isOfParts: boolean;
}

/** A total as it stands in a source, and what the records add up to, which is something else. */
export interface WrongTotal {
  readonly start: number;
  readonly end: number;
  readonly line: number;
  /** Names of the record kinds around it, and of the field. */
  readonly path: readonly string[];
  readonly said: string;
  readonly actual: string;
  /** The bytes of the right total, or why they do not fit. */
  written(): string | SpellFault;
}

/** Whether a value replaces another one, or is one of a record that had none there. */
export type Spot = "set" | "add" | "new";

/** One format: one folder. */
export interface Format {
  readonly name: string;
  readonly title: string;
  /** File name endings, with the dot. */
  readonly endings: readonly string[];
  /** Settings that each file of a set may have for itself. */
  readonly own?: readonly string[];
  sniff(head: Uint8Array, name: string): Sniffed;
  /** The encoding of a source that is not well-formed UTF-8 and says nothing about it. */
  readonly otherEncoding: Encoding;
  /** The encoding that the source itself declares. */
  declaredEncoding?(head: Uint8Array): string | undefined;
  /** Words that a source's entry in a plan may have, with their schemas. */
  settings(): Promise<FormatSettings>;
  load(): Promise<FormatCode>;
}

export type FormatSettings = Readonly<Record<string, ZodType>>;

/** Reading and writing a format: loaded when a source has it. */
export interface FormatCode {
  /** Finds settings by looking at a source, and at names of fields that a plan knows; where nothing has to be found, there are none. */
  guess(source: TextSource, known?: ReadonlySet<string>): Promise<Settings>;
  /** The first lines drawn so that a person sees how they are taken apart. */
  draw?(source: TextSource, settings: Settings): Promise<readonly string[]>;
  dialect(settings: Settings, encoding: Encoding): Dialect;
  /** A document with nothing in it, into which the records of these tables can go. */
  skeleton(tables: readonly TablePlan[], settings: Settings): string;
}

export interface Renderer {
  /** Splices for all edits of one file, in no particular order. Edits inside what is `leaving` for another file go into that piece. */
  render(edits: readonly Edit[], leaving?: readonly ForeignPiece[]): Promise<Splice[]>;
}
