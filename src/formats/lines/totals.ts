/**
 * Totals in trailers: counts of records and sums of their fields, over the record that the trailer
 * closes, or over the whole file. They are checked when a source is read, and recomputed by a fold.
 */
import Big from "big.js";
import type { ByteSource } from "../../bytes/source.js";
import { decode } from "../../bytes/writer.js";
import { GuideNode } from "../format.js";
import type { FoundTotal } from "../format.js";
import type { LineGrammar, Total } from "./grammar.js";
import { Deaf } from "./deaf.js";
import { LineScanner, type RecordWatcher } from "./scan.js";

/** What the records of one scope add up to, by `kind` and by `kind/field`. */
type Scope = Map<string, Big>;

const ZERO = new Big(0);

export function hasTotals(grammar: LineGrammar): boolean {
  return grammar.kinds.some((kind) => kind.fields.some((field) => field.total !== undefined));
}

/** All totals of a source, with what they say and what the records add up to. */
export async function readTotals(source: ByteSource, grammar: LineGrammar): Promise<FoundTotal[]> {
  const watcher = new Adder(grammar);
  const scanner = new LineScanner(new GuideNode(), new Deaf(), grammar, watcher);
  for await (const chunk of source.chunks()) scanner.write(chunk);
  scanner.end();
  return watcher.found;
}

class Adder implements RecordWatcher {
  readonly found: FoundTotal[] = [];
  /** The whole file, and each record that is open. */
  private readonly scopes: Scope[] = [new Map<string, Big>()];
  /** Fields that are summed somewhere, by kind. */
  private readonly summed: readonly (readonly number[])[];

  constructor(private readonly grammar: LineGrammar) {
    const totals = grammar.kinds.flatMap((kind) => kind.fields.flatMap((field) => field.total ?? []));
    this.summed = grammar.kinds.map((kind) =>
      kind.fields.flatMap(({ name }, f) => (totals.some((total) => total.kind === kind.name && total.field === name) ? [f] : [])),
    );
  }

  open(kind: number, _depth: number, _start: number, _lineEnd: number, _next: number, scanner: LineScanner): void {
    const { name, fields } = this.grammar.kinds[kind];
    fields.forEach(({ total }, f) => {
      if (total !== undefined) this.check(kind, f, total, scanner);
    });
    for (const scope of this.scopes) add(scope, name, new Big(1));
    for (const f of this.summed[kind]) {
      const value = number(this.text(kind, f, scanner));
      if (value !== null) for (const scope of this.scopes) add(scope, `${name}/${fields[f].name}`, value);
    }
    this.scopes.push(new Map());
  }

  close(): void {
    this.scopes.pop();
  }

  private text(kind: number, field: number, { spans, window }: LineScanner): string {
    if (spans.starts[field] < 0) return "";
    const raw = decode(window, spans.textStarts[field], spans.textEnds[field]);
    return spans.plain[field] ? raw : this.grammar.decode(raw, kind, field);
  }

  private check(kind: number, field: number, total: Total, scanner: LineScanner): void {
    const said = this.text(kind, field, scanner);
    const sum = this.scopes[this.scopes.length - 1].get(total.field === null ? total.kind : `${total.kind}/${total.field}`) ?? ZERO;
    const value = number(said);
    const places = decimalsOf(said);
    const actual = value !== null && value.eq(sum) ? said : sum.toFixed(Math.max(places, decimalsOf(sum.toFixed())));
    const { spans, base, line, window } = scanner;
    if (spans.starts[field] < 0) return;
    const old = decode(window, spans.starts[field], spans.ends[field]);
    this.found.push({
      start: base + spans.starts[field],
      end: base + spans.ends[field],
      line,
      path: this.path(kind, field),
      said,
      actual,
      written: () => this.grammar.encode(actual, kind, field, old),
    });
  }

  private path(kind: number, field: number): string[] {
    const names = [this.grammar.kinds[kind].fields[field].name];
    for (let k = kind; k >= 0; k = this.grammar.kinds[k].inside) names.unshift(this.grammar.kinds[k].name);
    return names;
  }
}

function add(scope: Scope, name: string, value: Big): void {
  scope.set(name, (scope.get(name) ?? ZERO).plus(value));
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
