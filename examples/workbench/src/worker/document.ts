/** A source with its plan and its tables: opened, edited, compared, folded. What the page shows comes from here. */
import {
  BlobSource,
  compare,
  draft,
  hatch,
  readPlan,
  RowTables,
  survey,
  type Compared,
  type Plan,
  type Problem,
  type Progress,
  type Receipt,
  type Review,
  type SchemaInput,
  type Shape,
  type SheetRowName,
  type SourcesInput,
} from "hatch-fold";
import type { Fault, Named, Opened, Reading, SampleRows, Told } from "../protocol";
import { Refused } from "./edits";
import { failureOf } from "./failure";
import { filesOfEach, shapeOfAll } from "./given";
import { fingerprintOf, holdSession, keepSession, keepStep, sessionOf, stepsOf } from "./keep";
import { printRows, RowsSink, TableFiles } from "./rows";
import { editsIn, type Step, type Table } from "./table";
import { infoOf, movedTo, tablesOf } from "./tables";

/** Sources larger than this are looked at by their head first. */
const LARGE = 4 << 20;
const HEAD = 1 << 19;
/** A first look shows so many bytes of rows. */
const FIRST_ROWS = 60_000;
/** So long nothing is edited before a comparison begins. */
const PAUSE = 200;
/** A sample of a plan is so many rows of a table; so many bytes of rows are enough for it. */
const SAMPLE_ROWS = 8;
const SAMPLE = 20_000;
const ENOUGH = new DOMException("enough", "AbortError");
/** So often it is told how far things are. */
const PACE = 150;
const NOTHING: Compared = {
  counts: { unchanged: 0, changed: 0, added: 0, removed: 0, moved: 0, healed: 0, problems: 0, warnings: 0 },
  changes: [],
  healed: [],
  problems: [],
  warnings: [],
  notes: [],
  follows: [],
};

export class Document {
  tables: Table[] = [];
  plan!: Plan;
  planText = "";
  receipt!: Receipt;
  notes: readonly string[] = [];
  /** Steps of editing; those from `done` on were taken back. */
  steps: Step[] = [];
  done = 0;
  /** Records whose changes are not to be folded: by table, ids of rows. */
  readonly left = new Map<string, Set<number>>();
  /** What was compared last, and with which edits. */
  review: Review | null = null;
  /** Names of the session: what the files look like, and with the fingerprint of all their bytes. */
  private id = "";
  private get session(): string {
    return `${this.id} ${this.receipt.source.fingerprint}`;
  }
  /** Lets go of the session; another page has it where this is `null`. */
  private letGo: (() => void) | null = null;
  /** All of the source was read. */
  private isReady = false;
  private version = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private running: AbortController | null = null;
  private waiting: (() => void)[] = [];
  private readonly stopped = new AbortController();

  constructor(
    readonly files: readonly Named[],
    readonly reading: Reading,
    private readonly tell: (told: Told) => void,
    private readonly foundOf: (document: Document, compared: Compared) => void,
  ) {}

  get name(): string {
    return this.files.length === 1 ? this.files[0].name : `${this.files.length} files`;
  }

  get size(): number {
    return this.files.reduce((sum, { bytes }) => sum + bytes.size, 0);
  }

  /** The files, as the library takes them: by the names of the plan's sources, where it has several. */
  source(plan: Plan | undefined = this.plan): SourcesInput {
    const each = plan === undefined ? null : filesOfEach(plan, this.files);
    if (each !== null) return new Map([...each].map(([name, files]) => [name, files.map(sourceOf)]));
    return this.files.length === 1 ? sourceOf(this.files[0]) : this.files.map(sourceOf);
  }

  /** The files in the order in which a fold gives them. */
  inOrder(): readonly Named[] {
    return [...(filesOfEach(this.plan, this.files)?.values() ?? [this.files])].flat();
  }

  /** How the files are read, where somebody said so: what a hatch takes beside the plan. */
  private how(): Omit<Reading, "schema" | "schemas"> & { readonly schema?: SchemaInput } {
    const { schemas, ...reading } = this.reading;
    if (schemas === undefined) return reading;
    const named = Object.entries(schemas);
    return { ...reading, schema: this.plan.sources.length > 1 ? new Map(named) : named[0]?.[1] };
  }

  private readonly progress: Progress = (phase, done, size) => {
    const now = performance.now();
    if (now - this.toldAt < PACE) return;
    this.toldAt = now;
    this.tell({ event: "progress", phase, done, size });
  };
  private toldAt = 0;

  /** What is under way ends, and tells nothing more. */
  stop(): void {
    this.letGo?.();
    clearTimeout(this.timer);
    this.stopped.abort(new DOMException("another file was opened", "AbortError"));
    this.running?.abort(new DOMException("another file was opened", "AbortError"));
  }

  // ---- opening

  async open(plan: string | null): Promise<Opened> {
    this.id = await fingerprintOf(this.files);
    this.letGo = await holdSession(this.id);
    if (this.stopped.signal.aborted) this.letGo?.();
    const { signal } = this.stopped;
    if (plan === null && this.size > LARGE && this.files.length === 1) await this.firstLook().catch((error: unknown) => void error);
    signal.throwIfAborted();
    if (plan === null) {
      const { schemas: _, ...reading } = this.reading;
      const schemaFile = reading.schema?.[0].file;
      const planFile = this.files.length === 1 ? this.files[0].name : undefined;
      const {
        plan: drafted,
        notes,
        shape,
      } = await draft(this.source(), { ...reading, schemaFile, signal, planFile, progress: this.progress });
      this.tell({ event: "shape", shape });
      await this.hatch(drafted, notes);
    } else {
      await this.hatch(plan, []);
      this.tell({ event: "shape", shape: await this.shapeByPlan(signal) });
    }
    const restored = await this.restore(plan);
    this.touch();
    return this.opened(false, restored);
  }

  /** What is in the sources, read as the plan says. */
  private async shapeByPlan(signal: AbortSignal): Promise<Shape> {
    const { sources } = this.plan;
    const each = filesOfEach(this.plan, this.files) ?? new Map([[sources[0].name, this.files]]);
    const { schema: _, schemas: __, ...own } = this.reading;
    const shapes = await Promise.all(
      sources.map(({ name, format, encoding, settings }) => {
        const files = each.get(name)!.map(sourceOf);
        return survey(files.length === 1 ? files[0] : files, { format, encoding, settings, ...own, signal });
      }),
    );
    return shapes.length === 1 ? shapes[0] : shapeOfAll(sources, shapes);
  }

  /** Rows from the head of a large source, while all of it is read. */
  private async firstLook(): Promise<void> {
    const { schemas: _, ...reading } = this.reading;
    const { plan } = await draft(this.source(), { ...reading, head: HEAD, signal: this.stopped.signal });
    const enough = new AbortController();
    let bytes = 0;
    const sink = new RowsSink((length) => {
      bytes += length;
      if (bytes > FIRST_ROWS) enough.abort(new Error("enough"));
    });
    await hatch(this.source(), { plan, ...reading, into: sink, signal: enough.signal }).catch(() => undefined);
    this.stopped.signal.throwIfAborted();
    this.plan = await readPlan(plan);
    this.planText = plan;
    const names = this.plan.tables.filter(({ host }) => host === undefined).map(({ name }) => ({ name, file: `${name}.csv` }));
    this.tables = tablesOf(this.plan, names, sink);
    this.tell({ event: "opened", opened: this.opened(true, 0) });
  }

  private async hatch(text: string, notes: readonly string[]): Promise<void> {
    const plan = await readPlan(text);
    const sink = new RowsSink();
    const { signal } = this.stopped;
    const source = this.source(plan);
    this.plan = plan;
    const hatched = await hatch(source, { plan, ...this.how(), into: sink, signal, progress: this.progress });
    this.plan = hatched.plan;
    this.planText = text;
    this.receipt = hatched.receipt;
    this.notes = [...notes, ...this.schemaNotes(), ...hatched.notes];
    this.isReady = true;
    this.tables = tablesOf(this.plan, this.receipt.tables, sink);
  }

  /** Schemas that the plan names, and that were not opened. */
  private schemaNotes(): string[] {
    const isThere = (name: string): boolean => this.reading.schema !== undefined || (this.reading.schemas?.[name]?.length ?? 0) > 0;
    return this.plan.sources.flatMap(({ name, schema }) =>
      schema === undefined || isThere(name)
        ? []
        : [
            `The plan names the schema ${schema}, which was not opened: nothing is checked by it. Open it together with the plan and the file.`,
          ],
    );
  }

  opened(isFirstLook: boolean, restored: number): Opened {
    return {
      files: this.files,
      reading: this.reading,
      name: this.name,
      size: this.size,
      tables: this.tables.map(infoOf),
      plan: this.planText,
      settings: this.plan.sources[0]?.settings ?? {},
      notes: this.notes,
      isFirstLook,
      restored,
    };
  }

  // ---- sessions

  /** Edits of the same file that were made before. */
  private async restore(plan: string | null): Promise<number> {
    if (this.letGo === null) {
      this.notes = [
        ...this.notes,
        "This file is open in another page, which keeps its edits: those that you make here are kept nowhere else.",
      ];
      return 0;
    }
    const known = await sessionOf(this.session);
    if (known !== null && known.plan === (plan ?? known.plan) && JSON.stringify(known.reading) === JSON.stringify(this.reading)) {
      if (plan === null && known.plan !== null && known.plan !== this.planText) await this.hatch(known.plan, []);
      this.steps = await stepsOf(this.session);
      this.done = Math.min(known.done, this.steps.length);
      for (const step of this.steps.slice(0, this.done)) this.table(step.table)?.apply(step, true);
      return this.done;
    }
    await this.keep(plan, 0);
    return 0;
  }

  /** The first rows of a table by a plan that is not taken yet. */
  async sample(text: string, name: string): Promise<SampleRows> {
    const plan = await readPlan(text);
    const enough = new AbortController();
    let bytes = 0;
    const sink = new RowsSink((length) => {
      bytes += length;
      if (bytes > SAMPLE) enough.abort(ENOUGH);
    });
    // sheets that hold the rows of several tables are written with all of them
    const isPlain = plan.tables.every(({ arrangement, stacked, host }) => (arrangement ?? stacked ?? host) === undefined);
    const tables = isPlain ? { tables: [name] } : {};
    try {
      await hatch(this.source(plan), { plan, encoding: this.reading.encoding, into: sink, signal: enough.signal, ...tables });
    } catch (error) {
      if (error !== ENOUGH) throw error;
    }
    const of = plan.tables.find((table) => table.name === name);
    const rows = sink.tables.get(`${of?.host ?? name}.csv`) ?? [...sink.tables.values()].find(({ titles }) => titles.includes(name));
    const count = Math.min(SAMPLE_ROWS, rows?.count ?? 0);
    return { titles: rows?.titles ?? [], rows: Array.from({ length: count }, (_, place) => rows!.row(place)) };
  }

  private async keep(plan: string | null, done: number): Promise<void> {
    if (this.letGo === null) return;
    try {
      await keepSession({ id: this.session, name: this.name, reading: this.reading, plan, done, at: Date.now() }, this.files);
    } catch {
      this.notes = [...this.notes, "This browser has no room to keep the work: take the session along as a file before you leave."];
    }
  }

  /** Another plan: edits go along to tables and columns that are still there. */
  async usePlan(text: string): Promise<Opened> {
    const before = this.tables;
    await this.hatch(text, []);
    // what was edited meanwhile goes along, too
    const steps = this.steps.slice(0, this.done);
    const kept = steps.flatMap((step) => {
      const moved = movedTo(
        step,
        before.find(({ name }) => name === step.table)!,
        this.table(step.table),
      );
      return moved === null ? [] : [moved];
    });
    this.steps = kept;
    this.done = kept.length;
    for (const step of kept) this.table(step.table)!.apply(step, true);
    await this.keep(text, kept.length);
    if (this.letGo !== null) for (const [i, step] of kept.entries()) await keepStep(this.session, i, step);
    const lost = steps.length - kept.length;
    if (lost > 0)
      this.notes = [
        ...this.notes,
        `${lost} of ${steps.length} edits were of tables or columns that the plan does not take any more: they are gone.`,
      ];
    this.touch();
    return this.opened(false, 0);
  }

  // ---- editing

  table(name: string): Table | undefined {
    return this.tables.find((table) => table.name === name || table.also.includes(name));
  }

  /** Does a step, unless it changes nothing. */
  do(step: Step): void {
    if (!this.isReady) throw new Refused("The rest of the file is being read: then it can be edited.");
    if (editsIn(step) === 0) return;
    this.steps.splice(this.done, Infinity, step);
    this.table(step.table)!.apply(step, true);
    if (this.letGo !== null) void keepStep(this.session, this.done, step);
    this.done++;
    this.touch();
  }

  go(isForward: boolean): Step | null {
    const step = isForward ? this.steps[this.done] : this.steps[this.done - 1];
    if (step === undefined) return null;
    this.table(step.table)!.apply(step, isForward);
    this.done += isForward ? 1 : -1;
    if (this.letGo !== null) void keepStep(this.session, this.done, null);
    this.touch();
    return step;
  }

  // ---- comparing

  /** What is there was edited: it is compared when nobody has edited for a moment, and only the newest answer counts. */
  touch(): void {
    this.version++;
    this.review = null;
    this.running?.abort(new DOMException("something was edited", "AbortError"));
    clearTimeout(this.timer);
    // where nothing is edited there is nothing to compare, unless somebody asks
    if (this.tables.every(({ touched }) => touched === 0)) {
      for (const table of this.tables) table.faults = new Map();
      this.foundOf(this, NOTHING);
      return;
    }
    this.timer = setTimeout(() => void this.compare(), PAUSE);
    this.tell({ event: "comparing" });
  }

  private async compare(): Promise<void> {
    const { version } = this;
    const running = (this.running = new AbortController());
    try {
      const review = await compare(this.edited(), {
        source: this.source(),
        plan: this.plan,
        paths: true,
        // what is written here is meant; what came back from a spreadsheet was healed as it came
        noHeal: this.tables.flatMap(({ titles }) => titles),
        signal: running.signal,
        progress: this.progress,
      });
      if (version !== this.version) return;
      // only what was touched was given: of other records the page knows the rows
      this.review = { ...review, problems: this.placed(review.problems) };
      this.markFaults(this.review);
      this.foundOf(this, this.review);
    } catch (error) {
      if (version === this.version && !running.signal.aborted) this.tell({ event: "failed", failure: failureOf(error) });
    } finally {
      if (version === this.version) this.waiting.splice(0).forEach((wake) => wake());
    }
  }

  /** The comparison of what is there now. */
  async settled(): Promise<Review> {
    if (this.review === null && this.tables.every(({ touched }) => touched === 0)) await this.compare();
    while (this.review === null) {
      await new Promise<void>((resolve) => this.waiting.push(resolve));
      if (this.review === null) throw new Error("The tables cannot be compared; what is wrong is said above.");
    }
    return this.review;
  }

  /** The rows that somebody touched; all, where rows are read with others: those around them, or that which a new one may match. */
  private edited(): TableFiles | RowTables {
    const isRead = this.plan.tables.some(({ name, arrangement, stacked, order, match }) => {
      const hasNew = match !== undefined && (this.table(name)?.newRows().length ?? 0) > 0;
      return hasNew || (arrangement ?? stacked ?? order) !== undefined;
    });
    if (isRead) return this.allRows();
    const sheets = this.tables.flatMap((table) => {
      const touched = table.touchedRows();
      if (touched.length === 0) return [];
      const there = new Set(touched.map(({ id }) => id));
      const twice = table.markedTwice().flatMap((id) => (there.has(id) ? [] : [{ id, columns: [] }]));
      const rows = [...touched, ...twice].sort((a, b) => table.number(a.id) - table.number(b.id));
      const cells = rows.map(({ id, columns }) => {
        const texts = table.cells(id);
        return Object.fromEntries([0, ...columns].map((column) => [table.titles[column], texts[column]]));
      });
      return [[table.file, { titles: table.titles, rows: cells, numbers: rows.map(({ id }) => table.number(id)) }] as const];
    });
    return new RowTables({}, this.receipt).touched(Object.fromEntries(sheets));
  }

  /** The tables as files, with all edits in them: where nothing was edited, as they were written. */
  allRows(): TableFiles {
    const contents = this.tables.map((table): [string, Blob] => {
      if (table.touched === 0) return [table.file, table.base.text()];
      return [table.file, new Blob([printRows([table.titles, ...Array.from(table.order(), (id) => table.cells(id))])])];
    });
    return new TableFiles([...contents, ["receipt.json", new Blob([JSON.stringify(this.receipt)])]]);
  }

  private placed(problems: readonly Problem[]): readonly Problem[] {
    const marks = new Map<Table, Set<string>>();
    const markOf = ({ row, facts: { record } }: Problem): string | null => (row === 0 && typeof record === "string" ? record : null);
    for (const problem of problems) {
      const [mark, table] = [markOf(problem), this.table(problem.table)];
      if (mark !== null && table !== undefined) marks.set(table, (marks.get(table) ?? new Set()).add(mark));
    }
    const ids = new Map([...marks].map(([table, wanted]) => [table, table.idsWith(wanted)]));
    return problems.map((problem) => {
      const table = this.table(problem.table);
      const id = table === undefined ? undefined : ids.get(table)?.get(markOf(problem) ?? "");
      return id === undefined ? problem : { ...problem, row: table!.number(id) };
    });
  }

  private markFaults({ problems, warnings }: Compared): void {
    for (const table of this.tables) table.faults = new Map();
    for (const [list, isWarning] of [
      [problems, false],
      [warnings, true],
    ] as const)
      for (const { table: name, row, rows = [row], column, message } of list) {
        const table = this.table(name);
        if (table === undefined) continue;
        for (const number of rows) {
          const id = table.idAt(number);
          const fault: Fault = { column: table.titles.indexOf(column), message, isWarning };
          table.faults.set(id, [...(table.faults.get(id) ?? []), fault]);
        }
      }
  }

  isTaken({ table: name, row }: SheetRowName): boolean {
    const table = this.table(name);
    return table === undefined || this.left.get(name)?.has(table.idAt(row)) !== true;
  }
}

const sourceOf = ({ name, bytes }: Named): BlobSource => new BlobSource(bytes, name);
