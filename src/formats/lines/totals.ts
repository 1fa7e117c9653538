/**
 * Totals: counts of records and sums of their fields. In a trailer they are over the record that it
 * closes, or over the whole file; in a header over what is in the record that it begins, in the first line of a file
 * over all of it. They are checked when a source is read, and recomputed by a fold.
 */
import Big from "big.js";
import type { ByteSource } from "../../bytes/source.js";
import { decode } from "../../bytes/writer.js";
import { PlaceNode, type WrongTotal } from "../format.js";
import { CHECK_DIGITS } from "./check-digits.js";
import type { LineGrammar, LineKind, Term, Total } from "./grammar.js";
import { groupsOf, isBlankGroup } from "./groups.js";
import { SilentListener } from "../silent.js";
import { Amount, numberOf } from "./amount.js";
import { LineScanner, type RecordWatcher } from "./scan.js";

/** The whole file, or a record that is open. */
interface Scope {
  /** What the records in it add up to, by number of what is summed. */
  readonly sums: Amount[];
  /** Which of those some total is over. */
  wanted: readonly boolean[];
  /** Totals in its own header, to be checked when all that is in it has been met. */
  totals: readonly Check[];
  /** How many records of each kind are right in it. */
  readonly numbers: number[];
  kind: number;
  /** What its fields say that others repeat, by field. */
  copies: ReadonlyMap<number, string>;
}

type Check = (sums: readonly Amount[]) => void;

const NONE: readonly Check[] = [];
const NO_COPIES: ReadonlyMap<number, string> = new Map();

export function hasTotals(grammar: LineGrammar): boolean {
  return grammar.fill !== undefined || grammar.kinds.some((kind) => kind.fields.some((field) => field.total !== undefined));
}

/** Is the field of that kind summed up in some total? */
export function isSummed({ kinds }: LineGrammar, kind: string, field: string): boolean {
  return kinds.some(({ fields }) => fields.some(({ total }) => total?.terms.some((term) => term.kind === kind && term.field === field)));
}

/** The totals of a source that do not say what the records add up to: only those are kept. */
export async function wrongTotals(source: ByteSource, grammar: LineGrammar): Promise<readonly WrongTotal[]> {
  const watcher = new Adder(grammar);
  const scanner = new LineScanner(new PlaceNode(), new SilentListener(), grammar, watcher);
  for await (const chunk of source.chunks()) scanner.write(chunk);
  scanner.end();
  return watcher.wrongTotals(scanner);
}

/** A field with a total. */
interface Totalled {
  readonly field: number;
  readonly total: Total;
  /** It is over what is in the record itself, or over all of the file: then it is known at the end. */
  readonly waits: "record" | "file" | null;
  /** Where its terms stand among what is summed. */
  readonly terms: readonly { readonly to: number; readonly minus: boolean }[];
}

/** What a record adds to the sums. */
interface Addend {
  readonly to: number;
  /** -1 where the record is counted. */
  readonly field: number;
  readonly when: readonly { readonly field: number; readonly values: readonly string[] }[];
  /** The fields of a group in the line; `null` for the record of the line itself. */
  readonly places: readonly number[] | null;
}

export class Adder implements RecordWatcher {
  private readonly wrong: WrongTotal[] = [];
  /** The file, and the records that are open; what is beyond `depth` was closed and is used again. */
  private readonly scopes: Scope[];
  private depth = 1;
  private readonly totals: readonly (readonly Totalled[])[];
  private readonly addends: readonly (readonly Addend[])[];
  /** Some field is the number of its record. */
  private readonly isNumbered: boolean;
  /** By kind: fields that others repeat. */
  private readonly copied: readonly (readonly number[])[];
  /** What totals are over lines of all kinds: where in the sums. */
  private readonly lines: number;
  /** What totals are over records in the file, and by kind in a record of it. */
  private readonly wanted: readonly (readonly boolean[])[];

  constructor(private readonly grammar: LineGrammar) {
    const { kinds } = grammar;
    this.isNumbered = kinds.some(({ fields }) => fields.some(({ total }) => total?.number === "number"));
    const terms = kinds.flatMap(({ fields }) => fields.flatMap(({ total }) => total?.terms ?? []));
    const keys = [...new Set(terms.map(keyOf))];
    this.lines = keys.indexOf(keyOf({ kind: null, field: null, when: [] }));
    this.totals = kinds.map(({ fields, line }, kind) =>
      fields.flatMap(({ total }, field): Totalled[] => {
        if (total === undefined) return [];
        const within = total.terms.length > 0 && total.terms.every((term) => this.holds(kind, term.kind));
        return [
          {
            field,
            total,
            waits: within ? "record" : line === "first" ? "file" : null,
            terms: total.terms.map((term) => ({ to: keys.indexOf(keyOf(term)), minus: term.minus })),
          },
        ];
      }),
    );
    const scopesOf = kinds.flatMap(({ inside }, kind) =>
      this.totals[kind].flatMap(({ waits, terms: own }) =>
        own.map(({ to }) => ({ scope: waits === "record" ? kind : waits === "file" ? -1 : inside, to })),
      ),
    );
    this.wanted = [-1, ...kinds.keys()].map((scope) => keys.map((_, to) => scopesOf.some((one) => one.scope === scope && one.to === to)));
    this.scopes = [{ sums: [], wanted: this.wanted[0], totals: NONE, numbers: [], kind: -1, copies: new Map() }];
    this.copied = kinds.map(({ name, fields }) =>
      fields.flatMap((field, f) =>
        kinds.some((kind) => kind.fields.some(({ total }) => total?.copy?.kind === name && total.copy.field === field.name)) ? [f] : [],
      ),
    );
    const distinct = new Map(terms.map((term) => [keyOf(term), term]));
    this.addends = kinds.map((own) =>
      [...distinct].flatMap(([key, { kind, field, when }]): Addend[] => {
        const addend = (places: readonly number[] | null, place: (name: string) => number): Addend => ({
          to: keys.indexOf(key),
          field: field === null ? -1 : place(field),
          when: when.map((one) => ({ field: place(one.field), values: one.values })),
          places,
        });
        if (kind === own.name) return [addend(null, (name) => own.fields.findIndex((one) => one.name === name))];
        const group = groupsOf(own).find(({ name }) => name === kind);
        return (group?.places ?? []).map((places) => addend(places, (name) => places[group!.names.indexOf(name)]));
      }),
    );
  }

  /** Is each total over what is in one record at the top? */
  get isWithinRecords(): boolean {
    const { kinds, fill } = this.grammar;
    if (fill !== undefined || kinds.some(({ line }) => line !== undefined && line !== null)) return false;
    return kinds.every(({ inside }, kind) =>
      this.totals[kind].every(
        ({ total, waits }) => total.number !== "line" && (inside >= 0 || waits === "record" || total.digit !== undefined),
      ),
    );
  }

  open(kind: number, _depth: number, start: number, lineEnd: number, next: number, scanner: LineScanner): void {
    this.last.next = next;
    this.last.width = lineEnd - start;
    this.last.isEnded = next > lineEnd || this.grammar.unbroken;
    const { scopes } = this;
    const around = scopes[this.depth - 1];
    if (this.isNumbered) around.numbers[kind] = (around.numbers[kind] ?? 0) + 1;
    for (const addend of this.addends[kind]) if (addend.places === null) this.addUp(addend, kind, scanner);
    const { lines } = this;
    if (lines >= 0) for (let d = 0; d < this.depth; d++) if (scopes[d].wanted[lines]) (scopes[d].sums[lines] ??= new Amount()).addOne();
    let own = NONE;
    for (const one of this.totals[kind]) {
      if (one.waits === null && this.isRight(one, around, scanner)) continue;
      const check = this.checkOf(kind, one, scanner);
      if (one.waits === "record") own = [...own, check];
      else if (one.waits === "file") scopes[0].totals = [...scopes[0].totals, check];
      else check(around.sums);
    }
    if (scopes.length === this.depth) scopes.push({ sums: [], wanted: [], totals: NONE, numbers: [], kind: -1, copies: new Map() });
    const scope = scopes[this.depth++];
    // amounts are used again
    for (const amount of scope.sums) (amount as Amount | undefined)?.reset();
    if (this.isNumbered) scope.numbers.length = 0;
    scope.wanted = this.wanted[kind + 1];
    scope.totals = own;
    scope.kind = kind;
    scope.copies =
      this.copied[kind].length === 0 ? NO_COPIES : new Map(this.copied[kind].map((field) => [field, this.text(kind, field, scanner)]));
    for (const addend of this.addends[kind]) if (addend.places !== null) this.addUp(addend, kind, scanner);
    // the line that begins a record is one of its lines
    if (lines >= 0 && scope.wanted[lines]) (scope.sums[lines] ??= new Amount()).addOne();
  }

  /** To what is open: groups belong to the record of their line, too. */
  private addUp({ to, field, when, places }: Addend, kind: number, scanner: LineScanner): void {
    const { scopes, depth } = this;
    for (const one of when) if (!one.values.includes(this.text(kind, one.field, scanner))) return;
    if (places !== null && isBlankGroup(this.grammar, kind, places, scanner.window, scanner.spans)) return;
    for (let d = 0; d < depth; d++) if (scopes[d].wanted[to]) this.addTo((scopes[d].sums[to] ??= new Amount()), kind, field, scanner);
  }

  /** One, of a count; or what a field says. */
  private addTo(amount: Amount, kind: number, field: number, scanner: LineScanner): void {
    const { spans, window } = scanner;
    if (field < 0) amount.addOne();
    else if (!spans.plain[field] || spans.starts[field] < 0 || !amount.addDigits(window, spans.textStarts[field], spans.textEnds[field]))
      amount.add(this.text(kind, field, scanner));
  }

  close(): void {
    const { sums, totals } = this.scopes[--this.depth];
    for (const check of totals) check(sums);
  }

  /** Lines that fill up the file: how many, and where the first begins and the last ends. */
  private fillers = { count: 0, start: -1, end: -1 };
  /** The last line of a record. */
  private last = { next: 0, width: 0, isEnded: true };

  filler(start: number, next: number): void {
    const { count, start: first } = this.fillers;
    this.fillers = { count: count + 1, start: first < 0 ? start : first, end: next };
  }

  /** When the file has ended. */
  wrongTotals(scanner: LineScanner): readonly WrongTotal[] {
    const [{ sums, totals }] = this.scopes;
    for (const check of totals) check(sums);
    this.checkFill(scanner);
    return this.wrong.sort((a, b) => a.start - b.start);
  }

  private checkFill({ line, style }: LineScanner): void {
    const { fill, unbroken, kinds } = this.grammar;
    if (fill === undefined || line === 0) return;
    const { count, start, end } = this.fillers;
    const wanted = (fill.to - ((line - count) % fill.to)) % fill.to;
    if (count === wanted) return;
    const newline = unbroken ? "" : style.crlf ? "\r\n" : "\n";
    const filler = fill.with.repeat(this.last.width);
    const at = start < 0 ? this.last.next : start;
    this.wrong.push({
      start: at,
      end: start < 0 ? at : end,
      line: line - count + 1,
      path: [kinds[0].name, "fill"],
      said: String(count),
      actual: String(wanted),
      written: () => (start < 0 && !this.last.isEnded ? newline : "") + (filler + newline).repeat(wanted),
    });
  }

  /** Are records of that name, or any, inside those of the kind? */
  private holds(kind: number, name: string | null): boolean {
    const { kinds } = this.grammar;
    if (name === null) return kinds.some((one) => one.inside === kind);
    if (groupsOf(kinds[kind]).some((group) => group.name === name)) return true;
    const isIt = (one: LineKind): boolean => one.name === name || groupsOf(one).some((group) => group.name === name);
    for (let k = kinds.findIndex(isIt); k >= 0; k = kinds[k].inside) if (kinds[k].inside === kind) return true;
    return false;
  }

  private text(kind: number, field: number, { spans, window }: LineScanner): string {
    if (spans.starts[field] < 0) return "";
    const raw = decode(window, spans.textStarts[field], spans.textEnds[field]);
    return spans.plain[field] ? raw : this.grammar.decode(raw, kind, field);
  }

  /** Does the field say plainly what one thing adds up to? Most do, and need no more looking at. */
  private isRight({ field, total, terms }: Totalled, { sums }: Scope, { spans, window }: LineScanner): boolean {
    const isAlone = terms.length === 1 && !terms[0].minus && total.modulo === null && total.per === null;
    if (!isAlone || spans.starts[field] < 0 || !spans.plain[field]) return false;
    const amount = sums[terms[0].to] as Amount | undefined;
    return amount?.isDigits(window, spans.textStarts[field], spans.textEnds[field]) === true;
  }

  /** What is to be done when all records of the total have been met. */
  private checkOf(kind: number, { field, total, terms }: Totalled, scanner: LineScanner): Check {
    const said = this.text(kind, field, scanner);
    const { spans, base, line, window } = scanner;
    if (spans.starts[field] < 0) return () => undefined;
    const [start, end] = [base + spans.starts[field], base + spans.ends[field]];
    const old = decode(window, spans.starts[field], spans.ends[field]);
    const told = (actual: string): void => {
      if (said === actual) return;
      const path = this.path(kind, field);
      this.wrong.push({ start, end, line, path, said, actual, written: () => this.grammar.encode(actual, kind, field, old) });
    };
    const { number, digit, copy, modulo, per } = total;
    if (copy !== undefined) {
      const from = this.grammar.kinds.findIndex(({ name }) => name === copy.kind);
      const scope = this.scopes.slice(0, this.depth).findLast((one) => one.kind === from);
      const of = from < 0 ? -1 : this.grammar.kinds[from].fields.findIndex(({ name }) => name === copy.field);
      const text = scope?.copies.get(of);
      return () => told(text ?? said);
    }
    if (digit !== undefined) {
      const of = this.grammar.kinds[kind].fields.findIndex((one) => one.name === digit.of);
      const text = this.text(kind, of, scanner);
      return () => told(text === "" ? "" : CHECK_DIGITS[digit.by](text));
    }
    const isAlone = terms.length === 1 && !terms[0].minus && modulo === null && per === null;
    const place = number === "line" ? line : this.scopes[this.depth - 1].numbers[kind];
    return (sums) => {
      if (isAlone && (sums[terms[0].to] as Amount | undefined)?.isPlainly(said) === true) return;
      let sum = number === undefined ? ZERO : new Big(place);
      for (const { to, minus } of terms) {
        const amount = (sums[to] as Amount | undefined)?.value ?? ZERO;
        sum = minus ? sum.minus(amount) : sum.plus(amount);
      }
      if (modulo !== null) sum = sum.mod(modulo);
      if (per !== null) sum = sum.div(per).round(0, Big.roundUp);
      const value = numberOf(said);
      told(value !== null && value.eq(sum) ? said : sum.toFixed(Math.max(decimalsOf(said), decimalsOf(sum.toFixed()))));
    };
  }

  private path(kind: number, field: number): string[] {
    const names = [this.grammar.kinds[kind].fields[field].name];
    for (let k = kind; k >= 0; k = this.grammar.kinds[k].inside) names.unshift(this.grammar.kinds[k].name);
    return names.filter((name) => name !== "");
  }
}

/** What a term is over, whatever its sign. */
function keyOf({ kind, field, when }: Pick<Term, "kind" | "field" | "when">): string {
  return JSON.stringify([kind, field, when]);
}

const ZERO = new Big(0);

function decimalsOf(text: string): number {
  const point = text.indexOf(".");
  return point < 0 ? 0 : text.length - point - 1;
}
