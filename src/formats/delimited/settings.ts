/** What a plan may say of delimited text. */
import { z } from "zod";
import { fieldForms } from "../lines/form-settings.js";

export const settings = {
  delimiter: z.union([z.enum(["tab", "spaces"]), z.string().min(1).max(8)]).describe("between cells"),
  escape: z.string().length(1).describe("before a delimiter, a line end or itself where these are text: a backslash, as a rule"),
  header: z.number().int().min(0).describe("number of the line with the titles; 0 when there is none"),
  quotes: z.boolean().describe("cells may stand in double quotes"),
  fields: fieldForms,
  groups: z
    .record(
      z.string(),
      z.strictObject({
        from: z.number().int().positive().describe("number of the first column"),
        times: z.number().int().min(2).max(999).describe("the group stands so many times: each that is not blank is a record"),
        fields: z.array(z.string()).min(1),
      }),
    )
    .describe("groups of columns that stand several times in a line"),
  comment: z.string().min(1).describe("lines that begin with this are comments"),
};
