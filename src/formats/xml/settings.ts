/** What a plan may say of an XML file. */
import { z } from "zod";

export const settings = { namespaces: z.record(z.string(), z.string()).describe("prefix in paths: namespace name") };
