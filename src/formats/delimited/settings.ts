/** What a plan may say of delimited text. */
import { z } from "zod";

export const settings = {
  delimiter: z.union([z.enum(["tab", "spaces"]), z.string().length(1)]).describe("between cells"),
  header: z.number().int().min(0).describe("number of the line with the titles; 0 when there is none"),
  quotes: z.boolean().describe("cells may stand in double quotes"),
  comment: z.string().min(1).describe("lines that begin with this are comments"),
};
