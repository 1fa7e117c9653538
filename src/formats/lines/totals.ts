/**
 * Totals: counts of records and sums of their fields. In a trailer they are over the record that it
 * closes, or over the whole file; in a header over what is in the record that it begins. They are
 * checked when a source is read, and recomputed by a fold.
 */
import Big from "big.js";
import type { ByteSource } from "../../bytes/source.js";
import { decode } from "../../bytes/writer.js";
import { PlaceNode, type FoundTotal } from "../format.js";
import type { LineGrammar, Total } from "./grammar.js";
import { SilentListener } from "../silent.js";
import { LineScanner, type RecordWatcher } from "./scan.js";

/** The whole file, or a record that is open. */
interface Scope {
  /** What the records in it add up to, by `kind` and by `kind/field`. */
  readonly sums: Map<string, Big>;
  /** Totals in its own header, to be checked when all that is in it has been met. */
  readonly totals: readonly Check[];
}

type Check = (sums: ReadonlyMap<string, Big>) => void;

const NONE: readonly Check[] = [];

const ZERO = new Big(0);

export function hasTotals(grammar: LineGrammar): boolean {
  return grammar.kinds.some((kind) => kind.fields.some((field) => field.total !== undefined));
}

/** All totals of a source, with what they say and what the records add up to. */
export async function readTotals(source: ByteSource, grammar: LineGrammar): Promise<FoundTotal[]> {
  const watcher = new Adder(grammar);
  const scanner = new LineScanner(new PlaceNode(), new SilentListener(), grammar, watcher);
  for await (const chunk of source.chunks()) scanner.write(chunk);
  scanner.end();
  return watcher.found.sort((a, b) => a.start - b.start);
}

class Adder implements RecordWatcher {
  readonly found: FoundTotal[] = [];
  private readonly scopes: Scope[] = [{ sums: new Map(), totals: NONE }];
  /** Fields with totals, by kind, and whether they are over what is in the record itself. */
  private readonly totals: readonly (readonly { readonly field: number; readonly total: Total; readonly inside: boolean }[])[];
  /** Fields that are summed somewhere, by kind. */
  private readonly summed: readonly (readonly number[])[];

  constructor(private readonly grammar: LineGrammar) {
    this.totals = grammar.kinds.map(({ fields }, kind) =>
      fields.flatMap(({ total }, field) => (total === undefined ? [] : [{ field, total, inside: this.holds(kind, total.kind) }])),
    );
    const totals = this.totals.flat().map(({ total }) => total);
    this.summed = grammar.kinds.map((kind) =>
      kind.fields.flatMap(({ name }, f) => (totals.some((total) => total.kind === kind.name && total.field === name) ? [f] : [])),
    );
  }

  open(kind: number, _depth: number, _start: number, _lineEnd: number, _next: number, scanner: LineScanner): void {
    const { name, fields } = this.grammar.kinds[kind];
    const around = this.scopes[this.scopes.length - 1];
    let own = NONE;
    for (const { field, total, inside } of this.totals[kind]) {
      const check = this.checkOf(kind, field, total, scanner);
      if (inside) own = [...own, check];
      else check(around.sums);
    }
    for (const { sums } of this.scopes) add(sums, name, new Big(1));
    for (const f of this.summed[kind]) {
      const value = number(this.text(kind, f, scanner));
      if (value !== null) for (const { sums } of this.scopes) add(sums, `${name}/${fields[f].name}`, value);
    }
    this.scopes.push({ sums: new Map(), totals: own });
  }

  close(): void {
    const { sums, totals } = this.scopes.pop()!;
    for (const check of totals) check(sums);
  }

  /** Are records of that name inside those of the kind? */
  private holds(kind: number, name: string): boolean {
    const { kinds } = this.grammar;
    for (let k = kinds.findIndex((one) => one.name === name); k >= 0; k = kinds[k].inside) if (kinds[k].inside === kind) return true;
    return false;
  }

  private text(kind: number, field: number, { spans, window }: LineScanner): string {
    if (spans.starts[field] < 0) return "";
    const raw = decode(window, spans.textStarts[field], spans.textEnds[field]);
    return spans.plain[field] ? raw : this.grammar.decode(raw, kind, field);
  }

  /** What is to be done when all records of the total have been met. */
  private checkOf(kind: number, field: number, total: Total, scanner: LineScanner): Check {
    const said = this.text(kind, field, scanner);
    const { spans, base, line, window } = scanner;
    if (spans.starts[field] < 0) return () => undefined;
    const [start, end] = [base + spans.starts[field], base + spans.ends[field]];
    const old = decode(window, spans.starts[field], spans.ends[field]);
    return (sums) => {
      const sum = sums.get(total.field === null ? total.kind : `${total.kind}/${total.field}`) ?? ZERO;
      const value = number(said);
      const actual = value !== null && value.eq(sum) ? said : sum.toFixed(Math.max(decimalsOf(said), decimalsOf(sum.toFixed())));
      const path = this.path(kind, field);
      this.found.push({ start, end, line, path, said, actual, written: () => this.grammar.encode(actual, kind, field, old) });
    };
  }

  private path(kind: number, field: number): string[] {
    const names = [this.grammar.kinds[kind].fields[field].name];
    for (let k = kind; k >= 0; k = this.grammar.kinds[k].inside) names.unshift(this.grammar.kinds[k].name);
    return names;
  }
}

function add(sums: Map<string, Big>, name: string, value: Big): void {
  sums.set(name, (sums.get(name) ?? ZERO).plus(value));
}

function number(text: string): Big | null {
  try {
    return new Big(text.trim());
  } catch {
    return null;
  }
}

function decimalsOf(text: string): number {
  const point = text.indexOf(".");
  return point < 0 ? 0 : text.length - point - 1;
}
