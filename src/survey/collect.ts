/** The survey's listener: grows a tree of places while a scanner goes through the source. */
import { decode } from "../bytes/writer.js";
import type { Dialect, PlaceNode, Listener, Scanner, WritingStyle } from "../formats/format.js";
import { Kind } from "../model/kind.js";
import type { SourceText } from "../source/parts.js";
import { looksKeyed } from "./keyed.js";
import { ShapeNode } from "./node.js";

/** Deeper than this nothing is told apart any more. */
const DEEPEST = 32;
/** With this many names a record is looked at: perhaps its names are data. */
const MOST_STRAYS = 3;
const MANY_NAMES = 200;
/** With this many they are taken for data whatever they look like. */
const TOO_MANY_NAMES = 2000;
/** With this many places names are looked at on all levels: maps in maps have as many as there are values. */
const MANY_PLACES = 4_000;
/** More are not told apart. */
const MOST_PLACES = 60_000;

export class Collector implements Listener {
  scanner!: Scanner;
  readonly root = new ShapeNode(0);
  private serial = 0;
  private readonly stack: { node: ShapeNode; serial: number; count: number; list: boolean }[] = [];
  private depth = 0;
  /** Lines that hold no record, and the first few of them. */
  strays = 0;
  /** Records with more in their lines than fields. */
  overs = 0;
  readonly overLines: { readonly file: string; readonly line: number; readonly text: string }[] = [];
  readonly strayLines: { readonly file: string; readonly line: number; readonly text: string }[] = [];
  /** How each file is written. */
  readonly styles: WritingStyle[] = [];
  private readonly repeated = new Set<ShapeNode>();

  private dialect!: Dialect;
  private file = "";

  /** A scanner over one more file. */
  begin({ name, dialect }: SourceText): Scanner {
    this.dialect = dialect;
    this.file = name;
    const scanner = dialect.scanner(this.root, this);
    this.styles.push(scanner.style);
    return scanner;
  }

  open(node: PlaceNode, kind: Kind): void {
    this.met(node as ShapeNode);
    const frame = (this.stack[this.depth++] ??= { node: node as ShapeNode, serial: 0, count: 0, list: false });
    frame.node = node as ShapeNode;
    frame.serial = this.serial++;
    frame.count = 0;
    frame.list = kind === Kind.List;
    const shape = node as ShapeNode;
    if (shape.firstSerial < 0 && !frame.list) shape.firstSerial = frame.serial;
  }

  close(node: PlaceNode, kind: Kind): void {
    const frame = this.stack[--this.depth];
    const shape = node as ShapeNode;
    if (kind === Kind.List) {
      shape.items += frame.count;
      shape.mostItems = Math.max(shape.mostItems, frame.count);
      shape.tally(frame.count === 0 ? Kind.EmptyList : Kind.List);
    } else shape.tally(frame.count === 0 ? Kind.EmptyRecord : Kind.Record);
  }

  value(node: PlaceNode, kind: Kind, _start: number, _end: number, textStart: number, textEnd: number): void {
    this.met(node as ShapeNode);
    const window = this.scanner.window;
    (node as ShapeNode).scalar(kind, window, textStart, textEnd, () =>
      this.dialect.decode(window, textStart, textEnd, { kind, node, style: this.scanner.style }),
    );
  }

  unknown(parent: PlaceNode, name: string | null): PlaceNode | null {
    const shape = parent as ShapeNode;
    if (shape.depth >= DEEPEST) return null;
    if (this.places >= this.sumUpAt) this.sumUp();
    if (this.places >= MOST_PLACES) {
      this.left++;
      return null;
    }
    this.places++;
    const node = new ShapeNode(shape.depth + 1);
    if (name === null) return (shape.item = node);
    const many = shape.byName.size;
    if (many >= MANY_NAMES && (many >= TOO_MANY_NAMES || (many % MANY_NAMES === 0 && looksKeyed(shape)))) return shape.collapse();
    shape.addName(name, node, this.dialect.encodeName(name));
    return node;
  }

  /** Places that are told apart. */
  private places = 0;
  private sumUpAt = MANY_PLACES;
  /** Values that were not looked at, as there are too many places. */
  left = 0;

  /** Where names are data the places of all of them become one; but not in records that are open. */
  private sumUp(): void {
    const open = new Set<ShapeNode>(this.stack.slice(0, this.depth).map(({ node }) => node));
    const visit = (node: ShapeNode): number => {
      const inner = [...node.members, node.any, node.item].filter((one) => one !== null) as ShapeNode[];
      const count = inner.reduce((sum, one) => sum + visit(one), 1);
      if (open.has(node) || !looksKeyed(node)) return count;
      return 1 + visit(node.collapse());
    };
    this.places = visit(this.root);
    this.sumUpAt = Math.max(MANY_PLACES, 2 * this.places);
  }

  ownText(node: PlaceNode): PlaceNode {
    return (node.own ??= new ShapeNode((node as ShapeNode).depth + 1));
  }

  listed(node: PlaceNode): void {
    this.repeated.add(node as ShapeNode);
  }

  mixed(node: PlaceNode): void {
    (node as ShapeNode).mixed++;
  }

  /** The tree, when all has been met, or as much as was wanted. Where members repeat, they are the items of a list. */
  finish(): ShapeNode {
    while (this.depth > 0) {
      const { node, list, count } = this.stack[this.depth - 1];
      // of one that has only begun nothing is known
      if (count > 0) this.close(node, list ? Kind.List : Kind.Record);
      else if (--this.depth > 0) this.stack[this.depth - 1].count--;
    }
    if (this.dialect.repeats) for (const node of this.repeated) node.makeList();
    return this.root;
  }

  over(start: number, end: number, line: number): void {
    this.overs++;
    if (this.overLines.length < MOST_STRAYS) this.overLines.push({ file: this.file, line, text: decode(this.scanner.window, start, end) });
  }

  stray(start: number, end: number, line: number): void {
    this.strays++;
    if (this.strayLines.length < MOST_STRAYS)
      this.strayLines.push({ file: this.file, line, text: decode(this.scanner.window, start, end) });
  }

  leave(): void {
    // nothing is kept by position
  }

  /** Counts a value for the container around it, and sees when a name stands twice in one record. */
  private met(node: ShapeNode): void {
    if (this.depth === 0) return;
    const frame = this.stack[this.depth - 1];
    frame.count++;
    if (frame.list || frame.node.any === node) return;
    if (node.lastRecord === frame.serial) {
      if (node.repeated++ === 0) this.repeated.add(node);
    } else {
      if (node.records++ === 0) node.firstRecord = frame.serial;
      node.lastRecord = frame.serial;
    }
  }
}
