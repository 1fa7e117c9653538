// Writes the JSON Schema of plans beside the built library.
import { writeFileSync } from "node:fs";
import { planJsonSchema } from "../dist/layouts/plans.js";

writeFileSync(new URL("../dist/plan.schema.json", import.meta.url), `${JSON.stringify(await planJsonSchema(), null, 2)}\n`);
