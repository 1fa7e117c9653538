/** What a plan may say of a file of segments: its separators, and the kinds of segments. */
import { z } from "zod";
import { formSchema, totalSchema } from "../lines/form-settings.js";

const partSchema = z.union([z.string(), z.strictObject({ name: z.string(), ...formSchema.shape, total: totalSchema })]);

const recordSchema = z.strictObject({
  tag: z.union([z.string(), z.array(z.string())]).describe("what its segments begin with"),
  inside: z.string().optional(),
  closes: z.boolean().optional().describe("a trailer: it ends the record around it"),
  fields: z.array(z.union([partSchema, z.array(partSchema)])).describe("in their order; a list where one is made of parts"),
});

export const segmentsSchema = z.strictObject({
  end: z.string().length(1).describe("what ends a segment"),
  delimiter: z.string().length(1).describe("between fields"),
  parts: z.string().length(1).optional().describe("between the parts of a field"),
  release: z.string().length(1).optional().describe("before one of these signs where it is text"),
  skip: z.string().min(1).optional().describe("segments that begin with this are no records"),
  records: z.record(z.string(), recordSchema),
});
export type SegmentsInput = z.infer<typeof segmentsSchema>;

export const settings = { layout: segmentsSchema.describe("separators, record kinds and their fields") };
