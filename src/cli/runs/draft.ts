/** draft, as the command line does it. Loaded when it is called for. */
import { dirname, relative, sep } from "node:path";
import { encode } from "../../bytes/writer.js";
import { readSchema } from "../../node/schemas.js";
import { writeWhole } from "../../node/out-file.js";
import { SameFiles } from "../../node/same-files.js";
import { draft } from "../../survey/survey.js";
import { namedFrom, withSources } from "../inputs.js";
import { planReading } from "../plan-sources.js";
import { makeContext, type Io } from "../io.js";
import type { Status } from "../command.js";

export async function runDraft(paths: readonly string[], options: Options, io: Io): Promise<Status> {
  const toStdout = options.output === "-";
  const context = makeContext(io, options, toStdout);
  const schema =
    options.schema === undefined
      ? {}
      : {
          schema: await readSchema(options.schema),
          schemaFile: relative(toStdout ? "." : dirname(options.output), options.schema)
            .split(sep)
            .join("/"),
        };
  const said = await planReading(options.plan, paths, io);
  const { format = said.format, encoding = said.encoding } = options;
  const { plan, notes } = await withSources(paths, io, (source) =>
    draft(source, {
      ...said,
      format,
      encoding,
      planFile: namedFrom(toStdout ? "." : dirname(options.output), paths),
      progress: context.progress,
      ...schema,
    }),
  );
  if (!toStdout) {
    const same = new SameFiles();
    for (const path of paths) await same.add("the source", path);
    await same.refuse("the plan", options.output);
    await writeWhole(options.output, encode(plan), { replace: options.force === true });
  }
  if (context.json) context.printJson({ plan, notes, written: toStdout ? [] : [options.output] });
  else if (toStdout) await io.stdout.write(plan);
  else context.say(`wrote ${options.output}: read it, change what does not suit, then hatch with -p ${options.output}`);
  for (const note of notes) context.say(`  ${note}`);
  return 0;
}
export interface Options {
  json?: boolean;
  color?: boolean;
  format?: string;
  encoding?: string;
  plan?: string;
  output: string;
  schema?: string;
  force?: boolean;
}
