/** A dialect for every format made of lines: its grammar does the rest. */
import { decode, encode } from "../../bytes/writer.js";
import type { ByteSource } from "../../bytes/source.js";
import type { Step } from "../../model/path.js";
import type { Dialect, WrongTotal, PlaceNode, HoldFault, Listener, ScannedValue, WritingStyle, Spot } from "../format.js";
import type { Settings } from "../../model/plan.js";
import { Kind } from "../../model/kind.js";
import type { NewValue } from "../../edits/edit.js";
import type { LineGrammar } from "./grammar.js";
import { LineRenderer } from "./render.js";
import { numberOf } from "./amount.js";
import { Adder, hasTotals, isSummed, wrongTotals } from "./totals.js";
import { LineTrial } from "./trial.js";
import { LineScanner, type FieldNote } from "./scan.js";
import { findField, findGroup, findKind } from "./find.js";

export class LineDialect implements Dialect {
  readonly emptyIsAbsent = true;
  readonly repeats = true;
  readonly onlyText = true;
  readonly sourceExample = "";

  constructor(
    readonly name: string,
    readonly settings: Settings,
    protected readonly grammar: LineGrammar,
  ) {
    if (hasTotals(grammar)) this.wrongTotals = (source) => wrongTotals(source, grammar);
  }

  bringsAlong(steps: readonly Step[]): string[] {
    const { kinds } = this.grammar;
    const own = findKind(this.grammar, steps);
    return own < 0 ? [] : kinds.flatMap(({ inside, closes, name }) => (inside === own && closes ? [name] : []));
  }

  trial(source: ByteSource): LineTrial {
    return new LineTrial(source, this.grammar);
  }

  mostOf(steps: readonly Step[]): number | null {
    return findGroup(this.grammar, steps)?.group.places.length ?? null;
  }

  readonly wrongTotals?: (source: ByteSource) => Promise<readonly WrongTotal[]>;

  scanner(root: PlaceNode, listener: Listener, totals = false): LineScanner {
    const scanner = new LineScanner(root, listener, this.grammar, totals && hasTotals(this.grammar) ? new Adder(this.grammar) : null);
    return totals ? scanner.keepStarts() : scanner;
  }

  decode(bytes: Uint8Array, start: number, end: number, { node }: ScannedValue): string {
    const note = node.note as FieldNote | null;
    const text = decode(bytes, start, end);
    return note === null ? text : this.grammar.decode(text, note.kind, note.field);
  }

  unescape(): boolean {
    return false;
  }

  encodeName(name: string): Uint8Array {
    return encode(name);
  }

  nameText(bytes: Uint8Array): string {
    return decode(bytes);
  }

  isTotal(steps: readonly Step[]): boolean {
    const found = findField(this.grammar, steps);
    return found !== null && this.grammar.kinds[found.kind].fields[found.field].total !== undefined;
  }

  fault(value: NewValue, steps: readonly Step[], spot: Spot): HoldFault | null {
    const found = findField(this.grammar, steps);
    if (found === null) return null;
    const { kind, field } = found;
    const own = this.grammar.kinds[kind];
    if (value.kind === Kind.Absent && own.needsText && own.fields.length === 1)
      return { code: "cell-emptied", facts: { title: own.fields[0].name } };
    if (own.fields[field].total !== undefined && spot !== "new") return { code: "total-edited", facts: {} };
    const { group, name } = own.fields[field];
    if (value.kind === Kind.Text && isSummed(this.grammar, group?.name ?? own.name, group?.field ?? name) && numberOf(value.text) === null)
      return { code: "total-addend", facts: { title: name } };
    const written = this.grammar.encode(value.text, kind, field, null);
    if (typeof written === "string") return null;
    // people know a field of a group by its own name
    return group !== undefined && "name" in written.facts
      ? ({ ...written, facts: { ...written.facts, name: group.field } } as HoldFault)
      : written;
  }

  writesAlike(one: string, other: string, steps: readonly Step[]): boolean {
    const found = findField(this.grammar, steps);
    if (found === null) return false;
    const [written, another] = [one, other].map((text) => this.grammar.encode(text, found.kind, found.field, null));
    return typeof written === "string" && written === another;
  }

  readsAs(text: string, steps: readonly Step[]): string {
    const found = this.grammar.readsAs === undefined ? null : findField(this.grammar, steps);
    return found === null ? text : this.grammar.readsAs!(text, found.kind, found.field);
  }

  sourceValue(): null {
    return null;
  }

  looksLikeSource(): boolean {
    return false;
  }

  beside(): boolean {
    return false;
  }

  renderer(source: ByteSource, style: WritingStyle): LineRenderer {
    return new LineRenderer(source, style, this.grammar);
  }

  /** The same words, and the same fields in the same order. */
  alike(_style: WritingStyle, other: Dialect): boolean {
    const own = ({ settings, grammar }: LineDialect): string =>
      // lines that say the names of their fields themselves can stand among others
      JSON.stringify([settings, grammar.kinds.map(({ name, fields }) => [name, grammar.learns ? [] : fields.map((field) => field.name)])]);
    return other instanceof LineDialect && own(this) === own(other);
  }
}
