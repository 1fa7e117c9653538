/** What a plan may say of a file of this format: the layout of its lines. */
import { z } from "zod";
import { formShape, totalSchema } from "../lines/form-settings.js";

const columns = z
  .string()
  .regex(/^\d+(?:-\d*)?$/, "columns as 3-10, counted from 1, both ends included; 3- goes to the end of the line")
  .or(z.number().int().positive());

const times = z.number().int().min(2).max(999);

const simple = z.union([
  columns,
  z.strictObject({
    at: columns,
    align: z.enum(["left", "right"]).optional(),
    pad: z.string().length(1).optional().describe("what fills the field up: a space, unless said"),
    ...formShape,
    decimals: z.number().int().min(0).max(18).optional().describe("digits behind the point; it is not written, unless decimal says how"),
    sign: z.enum(["leading", "trailing", "overpunch", "overpunch-leading"]).optional(),
    stored: z
      .enum(["packed", "binary"])
      .optional()
      .describe("the number is no text: packed decimals, or a binary number with its highest byte first"),
    "blank-when-zero": z.boolean().optional(),
    times: times.optional().describe("the field stands so many times, one behind the other"),
    total: totalSchema,
  }),
]);

const fieldSchema = z.union([
  simple,
  z.strictObject({
    at: columns.describe("the columns of the first group"),
    times: times.optional().describe("the group stands so many times, one behind the other: each that is not blank is a record"),
    fields: z.record(z.string(), simple).describe("columns counted in the group"),
  }),
]);

const recordSchema = z.strictObject({
  tag: z.strictObject({ at: columns, is: z.union([z.string(), z.array(z.string())]) }).optional(),
  line: z.enum(["first", "last"]).optional().describe("told by its place in the file"),
  inside: z.string().optional(),
  closes: z.boolean().optional().describe("a trailer: it ends the record around it"),
  fields: z.record(z.string(), fieldSchema),
});

export const layoutSchema = z.strictObject({
  unit: z
    .enum(["bytes", "characters", "screen"])
    .optional()
    .describe("what columns count; characters, unless said. On a screen a wide character takes two, one that combines takes none"),
  length: z.number().int().positive().optional().describe("length of every record, when no line ends stand between them"),
  fill: z
    .strictObject({ with: z.string().length(1), to: z.number().int().min(2) })
    .optional()
    .describe("lines of one character at the end, so that there are a multiple of so many"),
  records: z.record(z.string(), recordSchema),
});
export type LayoutInput = z.infer<typeof layoutSchema>;

export const settings = { layout: layoutSchema.describe("record kinds and their fields, by columns") };
