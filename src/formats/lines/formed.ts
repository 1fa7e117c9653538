/** A grammar of lines in which some fields hold dates and numbers in the file's own forms. */
import type { SpellFault } from "../format.js";
import type { FormInput } from "./form-settings.js";
import { compileForm, readValue, writeValue, type ValueForm } from "./forms.js";
import { showsSign } from "./numbers.js";
import { rawFields } from "./samples.js";
import { type FieldSpans, type FieldValue, type LineField, type LineGrammar, type LineKind } from "./grammar.js";

export class FormedGrammar implements LineGrammar {
  readonly lookAhead: boolean;
  readonly unbroken: boolean;
  readonly gap: boolean;
  readonly learns?: true;

  constructor(
    private readonly inner: LineGrammar,
    /** The form of a field, by the names of its kind and its own. */
    private readonly formOf: (kind: string, field: string) => ValueForm | null,
  ) {
    this.lookAhead = inner.lookAhead;
    this.unbroken = inner.unbroken;
    this.gap = inner.gap;
    if (inner.learns === true) this.learns = true;
  }

  get kinds(): readonly LineKind[] {
    return this.inner.kinds;
  }

  get end(): number {
    return this.inner.end;
  }

  get broken(): boolean {
    return this.inner.broken === true;
  }

  get blankLine(): string | undefined {
    return this.inner.blankLine;
  }

  get alike(): LineGrammar["alike"] {
    return this.inner.alike;
  }

  get sharesLines(): boolean {
    return this.inner.sharesLines === true;
  }

  get breaks(): boolean {
    return this.inner.breaks === true;
  }

  get terminator(): string | undefined {
    return this.inner.terminator;
  }

  private form(kind: number, field: number): ValueForm | null {
    const { name, fields } = this.inner.kinds[kind];
    return this.formOf(name, nameIn(fields[field]));
  }

  next(buf: Uint8Array, from: number, limit: number, final: boolean): number {
    return this.inner.next(buf, from, limit, final);
  }

  kindOf(buf: Uint8Array, start: number, end: number, line: number, last: boolean): number {
    return this.inner.kindOf(buf, start, end, line, last);
  }

  split(kind: number, buf: Uint8Array, start: number, end: number, spans: FieldSpans): void {
    this.inner.split(kind, buf, start, end, spans);
    for (let f = 0; f < this.inner.kinds[kind].fields.length; f++) if (this.form(kind, f) !== null) spans.plain[f] = false;
    for (const line of spans.lines) if (this.form(kind, line.field) !== null) line.plain = false;
  }

  isEmpty(kind: number, field: number, buf: Uint8Array, spans: FieldSpans): boolean {
    return this.inner.isEmpty(kind, field, buf, spans);
  }

  isStray(buf: Uint8Array, start: number, end: number, line: number): boolean {
    return this.inner.isStray(buf, start, end, line);
  }

  dependent(kind: number): boolean {
    return this.inner.dependent(kind);
  }

  decode(text: string, kind: number, field: number): string {
    const form = this.form(kind, field);
    const plain = this.inner.decode(text, kind, field);
    return form === null ? plain : readValue(plain, form);
  }

  encode(text: string, kind: number, field: number, old: string | null): string | SpellFault {
    const form = this.form(kind, field);
    if (form === null) return this.inner.encode(text, kind, field, old);
    const { name } = this.inner.kinds[kind].fields[field];
    const was = old === null ? null : this.inner.decode(old.startsWith('"') ? old.slice(1, -1) : old, kind, field);
    const written = writeValue(name, text, form, was);
    return typeof written === "string" ? this.inner.encode(written, kind, field, old) : written;
  }

  isTelling(kind: number, field: number, raw: string): boolean {
    const number = this.form(kind, field)?.number ?? null;
    return number === null || showsSign(raw, number);
  }

  readsAs(text: string, kind: number, field: number): string {
    const form = this.form(kind, field);
    const written = form === null ? text : writeValue("", text, form, null);
    return form === null || typeof written !== "string" ? text : readValue(written, form);
  }

  write(kind: number, values: readonly FieldValue[], model: string | null): string {
    return this.inner.write(kind, this.written(kind, values, model), model);
  }

  extend(kind: number, line: string, values: readonly FieldValue[]): string {
    return this.inner.extend(kind, line, this.written(kind, values, line));
  }

  private written(kind: number, values: readonly FieldValue[], model: string | null): FieldValue[] {
    const olds = model === null ? [] : rawFields(this.inner, kind, model);
    const { fields } = this.inner.kinds[kind];
    return values.map((value) => this.spell(kind, value, olds[fields.findIndex(({ name }) => name === value.name)] ?? null));
  }

  /** A value as the file writes it; `old` is what a sibling has. */
  spell(kind: number, { name, text }: FieldValue, old: string | null = null): FieldValue {
    const own = this.inner.kinds[kind].fields.findIndex((field) => field.name === name);
    const form = own < 0 ? this.formOf(this.inner.kinds[kind].name, name) : this.form(kind, own);
    const written = form === null ? text : writeValue(name, text, form, old);
    return { name, text: typeof written === "string" ? written : text };
  }

  reset(): void {
    this.inner.reset();
  }
}

/** The name by which a plan says the form of a field. */
function nameIn({ name, group }: LineField): string {
  return group === undefined ? name : `${group.name}/${group.field}`;
}

/** The grammar with the forms of its fields, where some have any. */
export function withForms(
  grammar: LineGrammar,
  fields: readonly (readonly [name: string, input: FormInput])[],
  nameOf: (kind: string, field: string) => string = (_, field) => field,
): LineGrammar {
  const forms = new Map(
    fields.flatMap(([name, input]) => {
      const form = compileForm(name, input);
      return form === null ? [] : [[name, form] as const];
    }),
  );
  return forms.size === 0 ? grammar : new FormedGrammar(grammar, (kind, field) => forms.get(nameOf(kind, field)) ?? null);
}
