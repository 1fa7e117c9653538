/** What was opened, sorted: files of records, and the plan and the schemas that came with them. */
import { readPlan, type Plan, type SchemaFile, type Shape } from "hatch-fold";
import type { Named, Reading } from "../protocol";
import { Refused } from "./edits";

export interface Given {
  readonly files: readonly Named[];
  readonly plan: string | null;
  readonly reading: Reading;
}

/** @param plan - one that was there before; what comes with the files counts for them */
export async function sorted(files: readonly Named[], reading: Reading, plan: string | null): Promise<Given> {
  const plans: string[] = [];
  const others: Named[] = [];
  for (const file of files) {
    const text = /\.ya?ml$/i.test(file.name) ? await file.bytes.text() : "";
    if (/^hatchfold:/m.test(text)) plans.push(text);
    else others.push(file);
  }
  if (plans.length > 1) throw new Refused(`There are ${plans.length} plans among the files: open the files with one of them.`);
  const [text = plan] = plans;
  if (others.length === 0) throw new Refused("That is a plan: open the files with it that it is for.");
  if (text === null) return { files, plan: null, reading };
  const { sources } = await readPlan(text);
  const wanted = sources.filter(({ schema }) => schema !== undefined);
  const isSchema = ({ name }: Named): boolean => /\.xsd$/i.test(name) || wanted.some(({ schema }) => isCalled(name, schema!));
  if (wanted.length === 0 || reading.schemas !== undefined || !others.some(isSchema)) return { files: others, plan: text, reading };
  const schemas: Record<string, readonly SchemaFile[]> = {};
  for (const { name, schema } of wanted) {
    const own = others.filter(isSchema).sort((a, b) => Number(isCalled(b.name, schema!)) - Number(isCalled(a.name, schema!)));
    schemas[name] = await Promise.all(own.map(async ({ name: file, bytes }) => ({ file, text: await bytes.text() })));
  }
  return { files: others.filter((file) => !isSchema(file)), plan: text, reading: { ...reading, schemas } };
}

/** By name, the files of each source of a plan, where it has several. */
export function filesOfEach({ sources }: Plan, files: readonly Named[]): ReadonlyMap<string, readonly Named[]> | null {
  if (sources.length < 2) return null;
  const found = new Map(
    sources.map(({ name, file }) => [name, files.filter((one) => [file].flat().some((said) => isCalled(one.name, said)))]),
  );
  const left = files.filter((file) => ![...found.values()].some((own) => own.includes(file)));
  const without = sources.filter(({ name }) => found.get(name)!.length === 0);
  // the last one may be called otherwise today
  if (without.length === 1 && left.length === 1) found.set(without[0].name, left.splice(0));
  else if (without.length > 0)
    throw new Refused(
      `The plan takes ${without.map(({ name, file }) => `${[file].flat().join(" and ")} for ${name}`).join(", ")}: open that with the others.`,
    );
  if (left.length > 0) throw new Refused(`The plan has no source for ${left.map(({ name }) => name).join(", ")}.`);
  return found;
}

/** Is a file that was opened the one that a plan names: a file, a folder, or a pattern of names, from where the plan is? */
function isCalled(name: string, said: string): boolean {
  const path = said.replace(/^(?:\.{1,2}\/)+/, "").replace(/\/$/, "");
  // files that are opened one by one say nothing of their folders
  return new RegExp(`(?:^|/)${patternOf(path)}(?:$|/)`).test(name) || path.slice(path.lastIndexOf("/") + 1) === name;
}

const SIGNS: Readonly<Record<string, string>> = { "**/": "(?:.*/)?", "**": ".*", "*": "[^/]*", "?": "[^/]" };

function patternOf(path: string): string {
  return path.replace(/\*\*\/?|[*?]|[.+^${}()|[\]\\]/g, (sign) => SIGNS[sign] ?? `\\${sign}`);
}

/** The shapes of several sources as one. */
export function shapeOfAll(sources: Plan["sources"], shapes: readonly Shape[]): Shape {
  const names = shapes.flatMap(({ kinds }) => kinds.map(({ name }) => name));
  const called = (i: number, name: string): string =>
    names.indexOf(name) === names.lastIndexOf(name) ? name : `${sources[i].name} ${name}`;
  return {
    source: {
      ...shapes[0].source,
      name: sources.map(({ name }) => name).join(", "),
      size: shapes.reduce((sum, { source }) => sum + source.size, 0),
      files: shapes.reduce((sum, { source }) => sum + (source.files ?? 1), 0),
      format: "",
      title: shapes.map(({ source }, i) => `${sources[i].name}: ${source.title}`).join(", "),
      why: "",
      next: undefined,
      drawing: [],
    },
    kinds: shapes.flatMap(({ kinds }, i) =>
      kinds.map((kind) => ({ ...kind, name: called(i, kind.name), inside: kind.inside === null ? null : called(i, kind.inside) })),
    ),
    remarks: shapes.flatMap(({ remarks }, i) => remarks.map((one) => ({ ...one, kind: one.kind === "" ? "" : called(i, one.kind) }))),
  };
}
