/**
 * Totals: counts of records and sums of their fields. In a trailer they are over the record that it
 * closes, or over the whole file; in a header over what is in the record that it begins. They are
 * checked when a source is read, and recomputed by a fold.
 */
import Big from "big.js";
import type { ByteSource } from "../../bytes/source.js";
import { decode } from "../../bytes/writer.js";
import { PlaceNode, type WrongTotal } from "../format.js";
import type { LineGrammar, Total } from "./grammar.js";
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
}

type Check = (sums: readonly Amount[]) => void;

const NONE: readonly Check[] = [];

export function hasTotals(grammar: LineGrammar): boolean {
  return grammar.kinds.some((kind) => kind.fields.some((field) => field.total !== undefined));
}

/** The totals of a source that do not say what the records add up to: only those are kept. */
export async function wrongTotals(source: ByteSource, grammar: LineGrammar): Promise<WrongTotal[]> {
  const watcher = new Adder(grammar);
  const scanner = new LineScanner(new PlaceNode(), new SilentListener(), grammar, watcher);
  for await (const chunk of source.chunks()) scanner.write(chunk);
  scanner.end();
  return watcher.wrong.sort((a, b) => a.start - b.start);
}

class Adder implements RecordWatcher {
  readonly wrong: WrongTotal[] = [];
  /** The file, and the records that are open; what is beyond `depth` was closed and is used again. */
  private readonly scopes: Scope[];
  private depth = 1;
  /** What totals are over, as `kind` and as `kind/field`. */
  private readonly summed: readonly string[];
  /** Fields with totals, by kind, and whether they are over what is in the record itself. */
  private readonly totals: readonly (readonly { readonly field: number; readonly total: Total; readonly inside: boolean }[])[];
  /** By kind: where in the sums it counts, or -1, and which of its fields are added where. */
  private readonly counts: readonly number[];
  private readonly addends: readonly (readonly { readonly field: number; readonly to: number }[])[];
  /** What totals are over records in the file, and by kind in a record of it. */
  private readonly wanted: readonly (readonly boolean[])[];

  constructor(private readonly grammar: LineGrammar) {
    const { kinds } = grammar;
    this.totals = kinds.map(({ fields }, kind) =>
      fields.flatMap(({ total }, field) => (total === undefined ? [] : [{ field, total, inside: this.holds(kind, total.kind) }])),
    );
    this.summed = [...new Set(this.totals.flat().map(({ total }) => summedBy(total)))];
    const scopesOf = kinds.flatMap(({ inside }, kind) =>
      this.totals[kind].map((one) => ({ scope: one.inside ? kind : inside, to: this.summed.indexOf(summedBy(one.total)) })),
    );
    this.wanted = [-1, ...kinds.keys()].map((scope) =>
      this.summed.map((_, to) => scopesOf.some((one) => one.scope === scope && one.to === to)),
    );
    this.scopes = [{ sums: [], wanted: this.wanted[0], totals: NONE }];
    this.counts = kinds.map(({ name }) => this.summed.indexOf(name));
    this.addends = kinds.map(({ name, fields }) =>
      fields.flatMap((one, field) => {
        const to = this.summed.indexOf(`${name}/${one.name}`);
        return to < 0 ? [] : [{ field, to }];
      }),
    );
  }

  open(kind: number, _depth: number, _start: number, _lineEnd: number, _next: number, scanner: LineScanner): void {
    const { scopes, depth } = this;
    const around = scopes[depth - 1];
    let own = NONE;
    for (const { field, total, inside } of this.totals[kind]) {
      const check = this.checkOf(kind, field, total, scanner);
      if (inside) own = [...own, check];
      else check(around.sums);
    }
    const count = this.counts[kind];
    if (count >= 0) for (let d = 0; d < depth; d++) if (scopes[d].wanted[count]) (scopes[d].sums[count] ??= new Amount()).addOne();
    for (const { field, to } of this.addends[kind]) {
      const text = this.text(kind, field, scanner);
      for (let d = 0; d < depth; d++) if (scopes[d].wanted[to]) (scopes[d].sums[to] ??= new Amount()).add(text);
    }
    if (scopes.length === depth) scopes.push({ sums: [], wanted: [], totals: NONE });
    const scope = scopes[this.depth++];
    scope.sums.length = 0;
    scope.wanted = this.wanted[kind + 1];
    scope.totals = own;
  }

  close(): void {
    const { sums, totals } = this.scopes[--this.depth];
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
    const to = this.summed.indexOf(summedBy(total));
    return (sums) => {
      const amount = sums[to] as Amount | undefined;
      if (amount?.isPlainly(said) === true) return;
      const sum = amount?.value ?? ZERO;
      const value = numberOf(said);
      const actual = value !== null && value.eq(sum) ? said : sum.toFixed(Math.max(decimalsOf(said), decimalsOf(sum.toFixed())));
      if (said === actual) return;
      const path = this.path(kind, field);
      this.wrong.push({ start, end, line, path, said, actual, written: () => this.grammar.encode(actual, kind, field, old) });
    };
  }

  private path(kind: number, field: number): string[] {
    const names = [this.grammar.kinds[kind].fields[field].name];
    for (let k = kind; k >= 0; k = this.grammar.kinds[k].inside) names.unshift(this.grammar.kinds[k].name);
    return names;
  }
}

/** What a total is over: records, or a field of theirs. */
function summedBy({ kind, field }: Total): string {
  return field === null ? kind : `${kind}/${field}`;
}

const ZERO = new Big(0);

function decimalsOf(text: string): number {
  const point = text.indexOf(".");
  return point < 0 ? 0 : text.length - point - 1;
}
