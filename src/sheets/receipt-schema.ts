/** What a receipt has to be. */
import { z } from "zod";

/** A path that leads to a file of a set, below the folder that they are in. */
const below = z
  .string()
  .refine((path) => !/^(?:[/\\]|[A-Za-z]:)|\0/.test(path) && !path.split(/[/\\]/).includes(".."), "leads out of the folder");

const receiptFile = z.object({
  file: z.string().min(1),
  size: z.int().min(0),
  fingerprint: z.string(),
  encoding: z.string(),
  source: z.string().optional(),
  format: z.string().optional(),
});
const receiptTable = z.object({
  name: z.string(),
  file: z.string(),
  rows: z.int().min(0),
  records: z.int().min(0),
  titles: z.array(z.string()),
  fingerprint: z.string(),
  where: z.string().optional(),
  sample: z.int().min(0).optional(),
  part: z.literal(true).optional(),
  commas: z.array(z.string()).optional(),
});
export const receiptShape = z.object({
  hatchfold: z.literal(1),
  source: z.object({
    ...receiptFile.shape,
    format: z.string(),
    files: z
      .array(z.object({ ...receiptFile.shape, file: below }))
      .min(1)
      .optional(),
  }),
  plan: z.object({ fingerprint: z.string(), text: z.string() }),
  tables: z.array(receiptTable),
  program: z.string().optional(),
  schemas: z
    .array(z.object({ source: z.string().optional(), files: z.array(z.object({ file: z.string(), text: z.string() })).min(1) }))
    .optional(),
  seal: z.string(),
});
