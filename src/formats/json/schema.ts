/** JSON Schema (draft 2020-12): documents are checked by the package ajv. */
import type { ErrorObject } from "ajv";
import { SchemaError } from "../../errors/error.js";
import type { SchemaFile } from "../../model/schema.js";
import type { SchemaFault, Validator } from "../format.js";

/** Errors that only say that one below them is there. */
const GROUPS = new Set(["if", "allOf"]);

/** Of lists and records as wholes. */
const PARTS = new Set(["minItems", "maxItems", "uniqueItems", "contains", "minContains", "maxContains", "minProperties", "maxProperties"]);

/** `parse` gives the values of a text as the format reads it. */
export async function validatorOf(files: readonly SchemaFile[], parse: (text: string) => unknown): Promise<Validator> {
  const [{ Ajv2020 }, { default: addFormats }] = await Promise.all([import("ajv/dist/2020.js"), import("ajv-formats")]);
  const ajv = new Ajv2020({ strict: false, allErrors: true, verbose: true });
  addFormats.default(ajv);
  const [main, ...others] = files.map(({ file, text }) => ({ file, schema: parsed(file, text) }));
  try {
    for (const { file, schema } of others) ajv.addSchema(schema as object, file);
    const check = ajv.compile(main.schema as object);
    return {
      validate: (text) => {
        check(parse(text));
        return Promise.resolve((check.errors ?? []).filter(({ keyword }) => !GROUPS.has(keyword)).map(faultOf));
      },
    };
  } catch (error) {
    throw new SchemaError("schema-broken", { reason: error instanceof Error ? error.message : String(error) }, { file: main.file });
  }
}

function parsed(file: string, text: string): unknown {
  try {
    return JSON.parse(text.replace(/^\ufeff/, ""));
  } catch (error) {
    throw new SchemaError("schema-broken", { reason: (error as Error).message }, { file });
  }
}

function faultOf({ instancePath, keyword, message = "is not valid", params, data }: ErrorObject): SchemaFault {
  const name = instancePath
    .slice(instancePath.lastIndexOf("/") + 1)
    .replaceAll("~1", "/")
    .replaceAll("~0", "~");
  const value = typeof data === "string" || typeof data === "number" || typeof data === "boolean" ? ` (${JSON.stringify(data)})` : "";
  const { allowedValues, additionalProperty } = params as { allowedValues?: readonly unknown[]; additionalProperty?: string };
  const more =
    allowedValues !== undefined
      ? `: ${allowedValues.map((one) => JSON.stringify(one)).join(", ")}`
      : additionalProperty !== undefined && keyword === "additionalProperties"
        ? `: ${additionalProperty}`
        : "";
  return {
    message: `${/^\d*$/.test(name) ? "" : `${name}${value} `}${message}${more}`,
    at: instancePath,
    isOfParts: PARTS.has(keyword),
  };
}
