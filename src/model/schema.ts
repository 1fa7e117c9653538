/** Schemas of the owner's: files of text. */

/** A file of a schema. */
export interface SchemaFile {
  /** Its name, as other files of the schema call it. */
  readonly file: string;
  readonly text: string;
}

/** A schema, with the files that it names; the first is the schema itself. */
export interface SourceSchema {
  /** Name of the plan's source that it is of, where the plan has several. */
  readonly source?: string;
  readonly files: readonly SchemaFile[];
}

/** Text, or files; for several sources by their names in the plan. */
export type SchemaInput = string | readonly SchemaFile[] | ReadonlyMap<string, readonly SchemaFile[]>;

/** The same again, as it was given. */
export function schemaInput(schemas: readonly SourceSchema[] | undefined): SchemaInput | undefined {
  if (schemas === undefined || schemas.length === 0) return undefined;
  const named = schemas.flatMap(({ source, files }) => (source === undefined ? [] : [[source, files] as const]));
  return named.length === 0 ? schemas[0].files : new Map(named);
}
