/** What a plan may say of blocks of lines. */
import { z } from "zod";
import { fieldForms } from "../lines/form-settings.js";

export const settings = {
  pair: z.string().min(1).max(3).describe("between name and value: a colon, unless said"),
  sections: z.boolean().describe("[heading] lines begin the records"),
  fields: fieldForms,
  separator: z.string().min(1).describe("a line that ends a block, as a blank line does"),
  comment: z.string().min(1).describe("lines that begin with this are comments"),
};
