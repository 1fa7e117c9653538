/** What a plan may say of a JSON file. */
import { z } from "zod";

export const settings = { comments: z.boolean().describe("there may be comments, and commas before the end of a list or record") };
