/** What a plan may say of how a field's values are written. */
import { z } from "zod";

export const formShape = {
  date: z.string().min(1).optional().describe("a picture of the date: YYYYMMDD, D.M.YY, DDMMMYYYY, YYYYDDD, YYYYMM …"),
  pivot: z.number().int().min(0).max(100).optional().describe("two-digit years below it are of this century; 70, unless said"),
  decimal: z.enum([".", ","]).optional().describe("what is written before decimals"),
  sign: z.enum(["leading", "trailing"]).optional().describe("where the sign stands"),
  plus: z.boolean().optional().describe("positive values have a plus, where the file does not show it"),
};

export const totalSchema = z
  .union([
    z.string(),
    z.strictObject({
      of: z.string(),
      when: z
        .record(z.string(), z.union([z.string(), z.array(z.string())]))
        .optional()
        .describe("only records with this text, or one of these, in the field"),
      modulo: z.number().int().min(2).optional().describe("only what is left of a division by it"),
      per: z.number().int().min(2).optional().describe("how many groups of so many, begun ones too"),
    }),
  ])
  .optional()
  .describe(
    "count KIND, sum KIND/FIELD or count lines, with + and - between them; number or line; copy KIND/FIELD of the record around; or a check digit: luhn FIELD, gs1 FIELD, mod-11-2 FIELD, mod-97-10 FIELD",
  );
export type TotalInput = NonNullable<z.infer<typeof totalSchema>>;

export const formSchema = z.strictObject({
  ...formShape,
  group: z.string().length(1).optional().describe("what may stand between groups of three digits"),
});
export type FormInput = Partial<z.infer<typeof formSchema>>;

/** Forms of fields by name. */
export const fieldForms = z.record(z.string(), formSchema).describe("how values of fields are written: dates, decimal commas, signs");
export type FieldForms = z.infer<typeof fieldForms>;
