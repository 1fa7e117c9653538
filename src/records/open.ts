/** How the files of a plan's sources are read: as the plan and the call say, or as they were when they were hatched. */
import { largest, pushAll } from "../bytes/lists.js";
import { CallError, PlanError, SourceError, TablesError } from "../errors/error.js";
import { nearest } from "../errors/nearest.js";
import { chooseReadings, readTogether, type FileReading, type Said } from "../source/choose.js";
import type { CompiledSource } from "../plan/compile.js";
import type { Plan, SourcePlan } from "../model/plan.js";
import { filesOf, type Receipt } from "../sheets/receipt.js";
import { filesNamed, type SourceFile, type SourceFiles } from "../source/files.js";

/** Each source of the plan by its own format; the only one may be what the call gives, whatever it is called. */
export async function readSources(
  opened: SourceFiles,
  plan: Plan | undefined,
  call: Said,
): Promise<{ readings: FileReading[]; notes: string[] }> {
  if (plan === undefined) return chooseReadings(opened, call);
  const { sources } = plan;
  if (sources.length <= 1) return chooseReadings(opened, saidBy(sources[0], call, plan));
  const names = sources.map(({ name }) => name);
  if (call.format !== undefined || call.encoding !== undefined || opened.files.some(({ of }) => of === undefined))
    throw new CallError("sources-several", { names });
  const strange = opened.files.find(({ of }) => !names.includes(of!));
  if (strange !== undefined)
    throw new PlanError("plan-no-such-source", { source: strange.of!, nearest: nearest(strange.of!, names), names });
  const all: { readings: FileReading[]; notes: string[] } = { readings: [], notes: [] };
  for (const [of, source] of sources.entries()) {
    const files = opened.files.filter((file) => file.of === source.name);
    if (files.length === 0) throw new SourceError("source-not-given", { source: source.name });
    const { readings, notes } = await chooseReadings({ ...opened, files, set: files.length > 1 }, saidBy(source, {}, plan), of);
    pushAll(all.readings, readings);
    pushAll(all.notes, notes);
  }
  return all;
}

/** The files that were hatched, each read as it was then. */
export async function readHatched(opened: SourceFiles, receipt: Receipt, plan: Plan, tables: string): Promise<FileReading[]> {
  const { files } = receipt.source;
  if (opened.set !== (files !== undefined))
    throw new TablesError(opened.set ? "source-is-set" : "source-is-file", { was: receipt.source.file }, { file: tables });
  const hatched = filesOf(receipt);
  const found: readonly (SourceFile | null)[] = files === undefined ? opened.files : filesNamed(opened, files);
  const missing = found.indexOf(null);
  if (missing >= 0) throw new TablesError("source-not-found", { file: hatched[missing].file }, { file: opened.name });
  const readings: FileReading[] = [];
  for (const [of, source] of (plan.sources.length === 0 ? [undefined] : plan.sources).entries()) {
    const mine = [...hatched.keys()].filter((i) => hatched[i].source === undefined || hatched[i].source === source?.name);
    const said = mine.map((i) => {
      const told = saidBy(source, { format: hatched[i].format ?? receipt.source.format }, plan);
      return { ...told, encoding: told.encoding ?? hatched[i].encoding };
    });
    pushAll(
      readings,
      await readTogether(
        mine.map((i) => found[i]!),
        said,
        of,
      ),
    );
  }
  return readings;
}

/** What compiling a plan needs to know of its sources; `set` where the records of the only one are in several files. */
export function sourcesOf(readings: readonly FileReading[], set: boolean): Omit<CompiledSource, "root">[] {
  const last = largest(readings.map(({ of }) => of));
  return Array.from({ length: last + 1 }, (_, of) => {
    const first = readings.findIndex((one) => one.of === of);
    const count = readings.filter((one) => one.of === of).length;
    return { dialect: readings[first].reading.dialect, first, count, set: last === 0 ? set : count > 1 };
  });
}

/** What the plan says of a source; what was said in the call comes first. */
function saidBy(source: SourcePlan | undefined, call: Said, plan: Plan): Said {
  return {
    format: call.format ?? source?.format,
    formats: call.formats,
    encoding: call.encoding ?? source?.encoding,
    settings: source?.settings,
    known: namesIn(plan, source),
  };
}

/** Names of the fields that the plan's columns show, of one source's records. */
function namesIn(plan: Plan, source: SourcePlan | undefined): ReadonlySet<string> {
  const tables = plan.tables.filter(({ from }) => from === undefined || source === undefined || from === source.name);
  const steps = tables.flatMap(({ columns }) => columns.flatMap(({ at }) => at.steps.slice(0, 1)));
  return new Set(steps.flatMap((step) => (step.kind === "name" ? [step.name] : [])));
}
