/** What a plan may say of a file of content lines: which components and properties are records, and what is in which. */
import { z } from "zod";

const recordSchema = z.strictObject({
  tag: z.string().describe("the name of a property, or BEGIN:NAME and END:NAME of a component"),
  inside: z.string().optional(),
  closes: z.boolean().optional().describe("it ends the component around it"),
  once: z.boolean().optional().describe("there is one of it at most in the component"),
  text: z.boolean().optional().describe("its value is a text: commas, semicolons and backslashes in it stand behind a backslash"),
  fields: z.array(z.string()).describe("value, and the names of its parameters"),
});

export const contentSchema = z.strictObject({ records: z.record(z.string(), recordSchema) });
export type ContentInput = z.infer<typeof contentSchema>;

export const settings = { layout: contentSchema.describe("components and their properties") };
