/** survey, as the command line does it. Loaded when it is called for. */
import type { Shape, ShapeField, ShapeKind } from "../../survey/shape.js";
import { survey } from "../../survey/survey.js";
import { encode } from "../../bytes/writer.js";
import { CallError } from "../../errors/error.js";
import { writeWhole } from "../../node/out-file.js";
import { SameFiles } from "../../node/same-files.js";
import { mayReplace } from "../outputs.js";
import { diagramKind, mermaidDiagram, svgDiagram } from "../../report/diagram.js";
import { withSources } from "../inputs.js";
import { planReading } from "../plan-sources.js";
import { makeContext, type Colors, type Context, type Io } from "../io.js";
import type { Status } from "../command.js";
import { columns, counted, oneLine, size } from "../print.js";

/** Names are cut behind so many letters: a column is as wide as the longest. */
const LONGEST = 80;

export async function runSurvey(paths: readonly string[], options: Options, io: Io): Promise<Status> {
  const context = makeContext(io, options);
  for (const file of options.diagram ?? []) {
    if (diagramKind(file) === null)
      throw new CallError("call", {
        reason: `it is not clear what kind of diagram ${file} should be`,
        hint: "Let the name end in .svg or .mmd.",
      });
  }
  const said = await planReading(options.plan, paths, io);
  const { format = said.format, encoding = said.encoding } = options;
  const input = { ...said, format, encoding, progress: context.progress };
  const shape = await withSources(paths, io, (source) => survey(source, input));
  if (context.json) context.printJson(shape);
  else printShape(shape, shape.source.name, context);
  const same = new SameFiles();
  for (const path of paths) if (path !== "-") await same.add("the source", path);
  for (const file of options.diagram ?? []) {
    await same.refuse("the diagram", file);
    const drawn = encode(diagramKind(file) === "svg" ? svgDiagram(shape) : mermaidDiagram(shape));
    await writeWhole(file, drawn, { replace: await mayReplace(file) });
    if (!context.json) context.say(`wrote ${file}`);
  }
  return 0;
}

export function printShape(shape: Shape, name: string, { say, colors }: Pick<Context, "say" | "colors">): void {
  const { source, kinds, remarks } = shape;
  say(
    `${colors.bold(oneLine(name, LONGEST))}   ${source.files === undefined ? "" : `${counted(source.files, "file")}, `}${source.title} (${source.why}), ${size(source.size)}, ${source.encoding.toUpperCase()}${source.bom ? " with a byte-order mark" : ""}`,
  );
  if (source.next !== undefined) say(`  if not, ${source.next.title} (${source.next.why}): --format ${source.next.format}`);
  if (source.drawing.length > 0) {
    say();
    for (const line of source.drawing) say(`  ${line}`);
  }
  for (const kind of kinds) printKind(kind, kinds, say, colors);
  if (remarks.length > 0) {
    say();
    say(colors.bold("Worth a look"));
    for (const line of columns(
      remarks.map(({ kind, path, message }) => [`  ${oneLine(kind, LONGEST)}`, oneLine(path, LONGEST), oneLine(message, 4 * LONGEST)]),
    ))
      say(line);
  }
}

function printKind(kind: ShapeKind, kinds: readonly ShapeKind[], say: Context["say"], colors: Colors): void {
  say();
  const inside = kind.inside === null ? "" : `, inside ${oneLine(kind.inside, LONGEST)}`;
  const depth = depthOf(kind, kinds);
  say(
    `${"  ".repeat(depth)}${colors.bold(colors.cyan(oneLine(kind.name, LONGEST)))}   ${counted(kind.count, "record")} at ${oneLine(kind.path, LONGEST)}${inside}`,
  );
  const rows = kind.fields.map((field) => [
    `${"  ".repeat(depth)}  ${oneLine(field.path, LONGEST)}`,
    types(field),
    `${field.present} of ${kind.count}`,
    field.longest > 0 && field.form !== "name" ? colors.dim(`up to ${field.longest}`) : "",
    field.example === null ? "" : colors.dim(oneLine(field.example, 28)),
    [
      field.couldBeKey && colors.green("could be the key"),
      ...field.couldRefer.map((to) => colors.yellow(`could refer to ${oneLine(to.kind, LONGEST)} (${oneLine(to.field, LONGEST)})`)),
      FORMS[field.form],
    ]
      .filter(Boolean)
      .join("; "),
  ]);
  for (const line of columns(rows, [2, 3])) say(line);
}

const FORMS: Partial<Record<ShapeField["form"], string>> = {
  name: "the name it stands under",
  rest: "where it is not taken apart",
  verbatim: "as it is written",
};

function types(field: ShapeField): string {
  if (field.form === "name") return "name";
  const names = Object.keys(field.types);
  return names.length === 0 ? "-" : names.join(", ");
}

function depthOf(kind: ShapeKind, kinds: readonly ShapeKind[]): number {
  let depth = 0;
  for (let inside = kind.inside; inside !== null; depth++) inside = kinds.find((one) => one.name === inside)?.inside ?? null;
  return depth;
}
export interface Options {
  json?: boolean;
  color?: boolean;
  format?: string;
  encoding?: string;
  plan?: string;
  diagram?: string[];
}
