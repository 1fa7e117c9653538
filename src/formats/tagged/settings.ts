/** What a plan may say of a file of this format: the layout of its lines. */
import { z } from "zod";
import { formSchema, totalSchema } from "../lines/form-settings.js";

const simple = z.union([z.string(), z.strictObject({ name: z.string(), ...formSchema.shape })]);

const fieldSchema = z.union([
  z.string(),
  z.strictObject({
    name: z.string(),
    ...formSchema.shape,
    total: totalSchema,
  }),
  z.strictObject({
    name: z.string(),
    times: z
      .number()
      .int()
      .min(2)
      .max(999)
      .optional()
      .describe("the group stands so many times, one behind the other: each that is not blank is a record"),
    fields: z.array(simple).min(1),
  }),
]);
export type FieldInput = z.infer<typeof fieldSchema>;

const recordSchema = z.strictObject({
  tag: z
    .union([z.string(), z.array(z.string())])
    .optional()
    .describe("the first field of its lines"),
  like: z.string().optional().describe("a pattern of its lines: # a digit, @ a letter, ? any character, * any run of them"),
  indent: z.number().int().min(0).optional().describe("blanks at the beginning of its lines"),
  inside: z.string().optional(),
  closes: z.boolean().optional().describe("a trailer: it ends the record around it"),
  fields: z.array(fieldSchema),
});

export const taggedSchema = z.strictObject({
  delimiter: z
    .union([z.enum(["tab", "spaces"]), z.string().min(1).max(8)])
    .optional()
    .describe("between fields; without one, the rest of the line is one field"),
  escape: z.string().length(1).optional().describe("before a delimiter, a line end or itself where these are text"),
  quotes: z.boolean().optional(),
  comment: z.string().min(1).optional(),
  records: z.record(z.string(), recordSchema),
});
export type TaggedInput = z.infer<typeof taggedSchema>;

export const settings = { layout: taggedSchema.describe("record kinds and their fields, by tags") };
